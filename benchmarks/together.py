"""Deliverables of one master from one reading of it, against the sum of single runs.

Run `.venv/bin/python -m benchmarks.together [SECONDS]`: masters of 2160p and 1080p, each into three
deliverables of 1080p and below, encoded singly and together in turn; the least of ROUNDS counts.
"""

from __future__ import annotations

import os
import sys
import tempfile
from fractions import Fraction
from functools import partial
from pathlib import Path

import av
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ample_crate.core.errors import AmpleError
from ample_crate.core.planning.plan import Route
from ample_crate.core.units.values import Size
from ample_crate.demo.scenes import Stage
from ample_crate.media import ops
from ample_crate.store.library import find
from ample_crate.work.deliver import plan_or_refuse

from .watched import Spent, least, spent

ROUNDS = int(os.environ.get("ROUNDS", "2"))
RATE = 25
MASTERS = {
    "2160p HEVC": (Size(3840, 2160), "libx265", "yuv420p10le", "mp4"),
    "2160p ProRes": (Size(3840, 2160), "prores_ks", "yuv422p10le", "mov"),
    "1080p ProRes": (Size(1920, 1080), "prores_ks", "yuv422p10le", "mov"),
}
SETS = {
    "edit, stage and disc": ("brackwater-cut", "tannery-live", "ostler-dvd-625"),
    "three for the net": ("tannery-list", "pinfold-720p", "wickerwork-square"),
}
# So that making a master takes less than working on it.
QUICK = {
    "libx265": {"preset": "ultrafast", "x265-params": "log-level=none"},
    "prores_ks": {"flags": "+qscale", "global_quality": str(6 * 118)},
}
BARS = {3840: 0.7, 1920: 0.9}


def make_master(path: Path, size: Size, codec: str, pixels: str, seconds: int) -> Path:
    """Make a master of the demo's scenes; a second of them, again and again."""
    stage = Stage()
    shown = [
        VideoFrame.from_ndarray(stage.at(number / RATE, (("meadow", 5),)), format="rgb24").reformat(
            size.width, size.height, pixels, dst_colorspace="ITU709"
        )
        for number in range(RATE)
    ]
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=RATE, options=QUICK[codec])
        assert isinstance(stream, VideoStream)
        stream.width, stream.height, stream.pix_fmt = size.width, size.height, pixels
        stream.codec_context.color_range = 1
        for number in range(seconds * RATE):
            frame = shown[number % RATE]
            frame.pts, frame.time_base = number, Fraction(1, RATE)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def encode(master: Path, routes: list[Route], folder: Path) -> None:
    """Encode plans from one reading."""
    orders = [
        ops.Order(route.plan, folder / str(n), route.size)
        for n, route in enumerate(routes)
        if route.plan is not None
    ]
    for made in ops.render_together([master], orders):
        if isinstance(made, AmpleError):
            raise made


def compared(master: Path, specs: tuple[str, ...], folder: Path) -> tuple[list[Spent], Spent]:
    """Encode deliverables singly and together in turn, and give the least of each."""
    facts = ops.read_facts(master)
    routes = [plan_or_refuse(facts, find(one), {}, master.name)[0] for one in specs]
    alone, together = [], []
    for turn in range(ROUNDS):
        here = folder / str(turn)
        alone.append(
            [spent(partial(encode, master, [one], here / str(n))) for n, one in enumerate(routes)]
        )
        together.append(spent(partial(encode, master, routes, here / "all")))
    return [least(one) for one in zip(*alone, strict=True)], least(together)


def main(seconds: int) -> None:
    """Measure all, and print the ratios."""
    with tempfile.TemporaryDirectory() as place:
        for name, (size, codec, pixels, wrapper) in MASTERS.items():
            path = Path(place) / f"{size.width}-{codec}.{wrapper}"
            master = make_master(path, size, codec, pixels, seconds)
            for title, specs in SETS.items():
                single, together = compared(master, specs, path.with_suffix("") / title)
                total = Spent(*map(sum, zip(*single, strict=True)))
                print(
                    f"{name:13} {title:21} {' + '.join(f'{one.seconds:.1f}' for one in single)} = "
                    f"{total.seconds:.1f} s, together {together.seconds:.1f} s: "
                    f"{together.seconds / total.seconds:.2f} of the sum (bar {BARS[size.width]}); "
                    f"of processor {together.processor / total.processor:.2f}",
                    flush=True,
                )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 12)
