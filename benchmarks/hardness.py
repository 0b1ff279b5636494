"""What a rate buys, foretold from stretches of a film, held against what is then made: how far off
it is, and what it costs beside the encode that it advises on.

Run `.venv/bin/python -m benchmarks.hardness [CODEC...]`; SECONDS=60 makes it shorter. The film is
drawn: eight scenes of drift, rain and grass, at 960x540.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

import av
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ample_crate.core import quality
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.sampled import rated_of
from ample_crate.core.specs.spec import Spec
from ample_crate.demo.scenes import Stage
from ample_crate.media import ops
from ample_crate.work import hardness

SECONDS = int(os.environ.get("SECONDS", "130"))
RATE = 25
CUT = tuple(
    (name, float(seconds))
    for name, seconds in (
        ("lantern", 11),
        ("meadow", 7),
        ("downpour", 13),
        ("heading", 5),
        ("meadow", 19),
        ("lantern", 8),
        ("downpour", 6),
        ("meadow", 12),
    )
)
WRAPPERS = {"h264": "mp4", "hevc": "mp4", "vp9": "webm", "av1": "mp4", "mpeg2video": "mpegts"}
RATES = {"mpeg2video": ("4 Mb/s", "8 Mb/s")}
USUAL = ("1 Mb/s", "2 Mb/s", "4 Mb/s")


def drawn(path: Path) -> Path:
    """Write the film."""
    stage, whole = Stage(), sum(seconds for _, seconds in CUT)
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=RATE)
        assert isinstance(stream, VideoStream)
        stream.width, stream.height, stream.pix_fmt = 960, 540, "yuv420p"
        stream.options = {"preset": "ultrafast", "crf": "6", "g": "25"}
        for number in range(SECONDS * RATE):
            picture = stage.at(number / RATE % whole, CUT)[::2, ::2]
            frame = VideoFrame.from_ndarray(picture.copy(), format="rgb24")
            frame.pts = number
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def planned(master: Path, codec: str, rate: str) -> Plan:
    """Plan an encode in two passes at a rate."""
    asked = {"picture.codec": codec, "file.wrapper": WRAPPERS[codec]}
    spec = Spec.model_validate(
        {
            "id": "hard",
            "version": 1,
            "recipient": "pinfold",
            "title": "t",
            "requirements": [{"property": k, "rule": {"is": v}} for k, v in asked.items()],
            "coding": {"passes": 2},
        }
    )
    facts = ops.measure(master).facts
    plan = plan_route(facts, spec, {"picture.bit_rate": rate}, master.name).plan
    assert plan is not None
    return plan


def held(master: Path, codec: str, folder: Path) -> None:
    """Foretell, make, and print how far off it was."""
    rates = RATES.get(codec, USUAL)
    plans = [planned(master, codec, rate) for rate in rates]
    middle = plans[len(plans) // 2]
    learned = hardness.learn(middle, [master], ops.Control())
    took: list[float] = []
    for rate, plan in zip(rates, plans, strict=True):
        began = time.monotonic()
        made = ops.render([master], folder / f"{codec} {rate}".replace("/", " "), plan, 10**9)
        seconds = time.monotonic() - began
        took.append(seconds)
        found = ops.quality(made.path, [master], plan)
        wanted = quality.figures(found.curves["xpsnr"]).mean
        taken = 8 * made.path.stat().st_size / float(plan.seconds)
        off = learned.hardness.figures(taken)["xpsnr"] - wanted
        there = learned.hardness.rate_for(wanted)
        said = "not foretold" if there is None else f"{100 * (there / taken - 1):+.1f} %"
        print(
            f"{codec} at {rate}: XPSNR {wanted:.2f} dB, foretold {off:+.2f} dB off; rate for it "
            f"{said}; learning {100 * learned.seconds / seconds:.1f} % of the encode",
            flush=True,
        )
    usual = took[len(took) // 2]
    for plan, seconds in zip(plans, took, strict=True):
        slower = learned.hardness.slower(rated_of(plan).bit_rate, learned.planned)
        assert slower is not None
        print(f"encoding: {seconds / usual:.2f} of that in the middle, foretold {slower:.2f}")


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        master = drawn(Path(folder) / "film.mp4")
        print(f"{SECONDS} s of {RATE} frames a second")
        for codec in sys.argv[1:] or ["h264"]:
            held(master, codec, Path(folder))


if __name__ == "__main__":
    main()
