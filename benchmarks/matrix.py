"""Every spec that ships, from every kind of master: made and met, or refused before any decoding.

`PYTHONPATH=tests .venv/bin/python -m benchmarks.matrix [SPEC or MASTER...]`; PLANS=1 plans only.
Masters of a second or two are made of the demo's scenes. Each cell is planned as a house would
leave it, run, measured and judged; what breaks, is unproven or refused is printed with its reason.
"""

from __future__ import annotations

import contextlib
import os
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Collection, Iterator
from fractions import Fraction
from functools import partial
from pathlib import Path

import av
import numpy as np
from av.video.frame import VideoFrame
from av.video.stream import VideoStream
from PIL import Image

from ample_crate.core.errors import AmpleError, BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.facts.sequences import gather
from ample_crate.core.ledger import ledger, overall
from ample_crate.core.planning import programme
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.demo.scenes import Picture, Stage, sound
from ample_crate.media import ops
from ample_crate.media.sequence import lay_out
from ample_crate.store import library
from ample_crate.work.deliver import run_route
from clips import Clip

SCENE = (("downpour", 60.0),)
GIVEN = {"production": "Lichen Hours", "date": "20261127"}
NAMES = {
    "name.spot": "QUI0042",
    "name.slug": "lanterns",
    "name.lesson": "l04",
    "name.episode": "e03",
}
# A still is shown for two seconds, and of four tracks two go out, where that is asked.
FURTHER: tuple[dict[str, str], ...] = ({}, {"file.duration": "2"}, {"tracks": "1+2"})
# What no route can mend: the length and the beginning are those of the cut, and one of less than
# three seconds has no short-term loudness.
OF_THE_CUT = {
    "file.duration",
    "motion.leader",
    "motion.black_before",
    "sound.max_short_term",
}
PLANS_ONLY = bool(os.environ.get("PLANS"))
HD, UHD = (1920, 1080), (3840, 2160)
PAL, NTSC = Fraction(25), Fraction(30000, 1001)
QUICK = {"preset": "ultrafast", "crf": "16"}
LONG = {"b": "50000000", "maxrate": "50000000", "bufsize": "17825792", "g": "12"}
PLAIN = {"codec": "prores_ks", "pixels": "yuv422p10le", "options": {"profile": "3"}}
STUDIO = {"sound_codec": "pcm_s24le"}
DIGITAL_VIDEO = {"codec": "dvvideo", "options": {}, "sound_codec": "pcm_s16le"}


def scene(stage: Stage, size: tuple[int, int]) -> Callable[[float], Picture]:
    """Draw rain in fog at a size."""

    def draw(at: float) -> Picture:
        drawn = stage.at(at, SCENE)
        return drawn if size == HD else np.asarray(Image.fromarray(drawn).resize(size))

    return draw


def uneven(frames: int) -> list[int]:
    """Give times in frames of a camera that leaves some out."""
    return [number + number // 7 for number in range(frames)]


def masters(folder: Path, wanted: Collection[str]) -> Iterator[tuple[str, Path]]:
    """Make a master of each kind, or of those that are wanted: its name and its path."""
    stage = Stage()
    surround, mono = sound(2, 6), sound(2, 4)
    hd = {"draw": scene(stage, HD), **STUDIO}
    fields = {"fields": "upper first"}
    clips: dict[str, tuple[str, Clip]] = {
        "1080i25": (
            "a.mov",
            Clip(frames=50, codec="mpeg2video", pixels="yuv422p", options=LONG, **hd, **fields),
        ),
        "1080p25 5.1": ("b.mov", Clip(frames=50, layout="5.1", sound=surround, **PLAIN, **hd)),
        "1080p59.94": ("c.mov", Clip(frames=60, rate=NTSC * 2, options=QUICK, **hd)),
        "2160p25 10 bit": (
            "d.mov",
            Clip(
                draw=scene(stage, UHD),
                codec="libx265",
                pixels="yuv420p10le",
                options=QUICK,
                **STUDIO,
            ),
        ),
        "4444 with alpha": (
            "e.mov",
            Clip(
                draw=scene(stage, HD),
                codec="prores_ks",
                pixels="yuva444p10le",
                options={"profile": "4", "alpha_bits": "16"},
                tones=None,
            ),
        ),
        "625 DV": (
            "f.mov",
            Clip(
                draw=scene(stage, (720, 576)),
                frames=50,
                pixels="yuv420p",
                aspect=Fraction(64, 45),
                matrix="bt470bg",
                fields="lower first",
                **DIGITAL_VIDEO,
            ),
        ),
        "525 DV": (
            "g.mov",
            Clip(
                draw=scene(stage, (720, 480)),
                rate=NTSC,
                frames=60,
                pixels="yuv411p",
                aspect=Fraction(32, 27),
                matrix="smpte170m",
                fields="lower first",
                **DIGITAL_VIDEO,
            ),
        ),
        "8K without sound": (
            "h.mp4",
            Clip(draw=scene(stage, (7680, 4320)), frames=26, options=QUICK, tones=None),
        ),
        "phone clip": (
            "i.mp4",
            Clip(
                draw=scene(stage, HD),
                rate=Fraction(30),
                frames=50,
                stamps=uneven(50),
                rotation=90,
                options=QUICK,
            ),
        ),
        "MXF, four mono": (
            "j.mxf",
            Clip(
                frames=50,
                codec="mpeg2video",
                pixels="yuv422p",
                options=LONG,
                tracks=[("mono", one[None]) for one in mono],
                **hd,
            ),
        ),
    }
    written: dict[str, Callable[[], Path]] = {
        name: partial(clip.write, folder / file) for name, (file, clip) in clips.items()
    }
    written["sound alone"] = partial(write_sound, folder / "k.wav")
    written["still"] = partial(write_still, folder / "l.png", stage)
    written["DPX roll"] = partial(roll, folder / "m", stage)
    for name, write in written.items():
        if not wanted or name in wanted:
            yield name, write()


def write_still(path: Path, stage: Stage) -> Path:
    """Write one picture."""
    Image.fromarray(stage.lantern(2.0)).save(path)
    return path


def write_sound(path: Path) -> Path:
    """Write two seconds of stereo sound alone."""
    with av.open(str(path), "w") as container:
        track = container.add_stream("pcm_s24le", rate=48000, layout="stereo")
        frame = av.AudioFrame.from_ndarray(sound(2, 2), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts = 48000, 0
        container.mux(track.encode(frame))
        container.mux(track.encode(None))
    return path


def roll(folder: Path, stage: Stage) -> Path:
    """Write a second of a film scan."""
    folder.mkdir()
    for number in range(24):
        picture = np.asarray(Image.fromarray(stage.meadow(number / 24)).resize((2048, 1152)))
        frame = VideoFrame.from_ndarray(picture, format="rgb24").reformat(format="gbrp10le")
        path = folder / f"roll_{number:07d}.dpx"
        with av.open(str(path), "w", format="image2", options={"update": "1"}) as container:
            video = container.add_stream("dpx", rate=24)
            assert isinstance(video, VideoStream)
            video.width, video.height, video.pix_fmt = 2048, 1152, "gbrp10le"
            frame.pts = 0
            container.mux(video.encode(frame))
            container.mux(video.encode(None))
        scanned(path)
    names = sorted(path.name for path in folder.iterdir())
    (found,), _ = gather(names)
    return lay_out(folder / "laid", [folder / n for n in names], found, Fraction(24))


def scanned(path: Path) -> None:
    """Call an image logarithmic, as a scanner does (SMPTE ST 268-1, byte 801)."""
    head = bytearray(path.read_bytes())
    head[801] = 3
    path.write_bytes(bytes(head))


def cell(spec: Spec, path: Path, facts: Facts, folder: Path) -> tuple[str, str]:
    """Take one master to one spec: what came of it, and why."""
    pattern = spec.delivery.pattern()
    names = {k: v for k, v in NAMES.items() if k.removeprefix("name.") in pattern.fields}
    routes = []
    for more in FURTHER:
        with contextlib.suppress(BadValue):
            routes.append(plan_route(facts, spec, names | more, path.name, Item(given=GIVEN)))
    route = next((r for r in routes if r.plan is not None), routes[0])
    delivered = programme.of(facts, choices=route.choices)
    spec = programme.asked_of(spec, facts)
    blocking = [caution for caution in route.cautions if caution.blocks]
    if route.plan is None:
        ways = all(caution.way_out for caution in blocking)
        return ("refused" if ways else "trouble"), "; ".join(c.what for c in blocking)
    foreseen = broken(route.facts, spec, delivered)
    told = {c.row for c in route.cautions}
    if foreseen - OF_THE_CUT:
        kind = "foreseen and run" if foreseen - OF_THE_CUT - told else "told to ask"
        return kind, ", ".join(sorted(foreseen))
    if PLANS_ONLY:
        return "planned", ""
    return made(spec, path, delivered, route, folder)


def broken(facts: Facts, spec: Spec, master: Facts) -> set[str]:
    """List the properties of which something that must be is not."""
    findings = ledger(facts, spec, master)
    return {f.property for f in findings if f.verdict == "breaks" and f.severity == "must"}


def made(spec: Spec, path: Path, facts: Facts, route: Route, folder: Path) -> tuple[str, str]:
    """Run a route, and say how it is judged."""
    try:
        done = run_route([path], facts, spec, route, folder)
    except AmpleError as error:
        return "failed", error.sentence()
    bad = broken(done.facts, spec, facts)
    if bad - OF_THE_CUT:
        return "breaks", ", ".join(f"{key} {done.facts.value(key)}" for key in sorted(bad))
    verdict = overall([f for f in done.findings if f.property not in OF_THE_CUT])
    why = {f.property for f in done.findings if f.verdict == verdict and f.severity == "must"}
    return verdict, ", ".join(sorted(why)) if verdict != "meets" else ""


def main() -> None:
    """Go through the matrix and print what came of it."""
    wanted = set(sys.argv[1:])
    every = library.specs()
    specs = [spec for spec in every if spec.id in wanted] or every
    others = wanted - {spec.id for spec in every}
    counts: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for kind, path in masters(folder, others):
            facts = ops.measure(path, depth="everything").facts
            for number, spec in enumerate(specs):
                began = time.monotonic()
                verdict, why = cell(spec, path, facts, folder / f"out{number}")
                counts[verdict] += 1
                taken = time.monotonic() - began
                print(f"{kind:18}{spec.id:22}{verdict:18}{taken:6.1f} s  {why}", flush=True)
    print(", ".join(f"{count} {verdict}" for verdict, count in counts.most_common()))


if __name__ == "__main__":
    main()
