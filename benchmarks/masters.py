"""Reading, measuring, looking at and finding masters, as ratios to bare loops over the same
library; milliseconds where a person waits.

Run `.venv/bin/python -m benchmarks.masters [read] [measure] [frames] [list]`, all four by default;
ROUNDS=1 makes it shorter. Masters to measure are LENGTH seconds long, or the start of children
would be most of what is timed.
"""

# mypy: disable-error-code="union-attr,arg-type,import-not-found"
from __future__ import annotations

import os
import random
import shutil
import sys
import tempfile
import time
from collections.abc import Callable
from fractions import Fraction
from functools import partial
from pathlib import Path

import av
from av.video.frame import VideoFrame

from ample_crate.core.facts import Facts
from ample_crate.demo.scenes import Stage, sound
from ample_crate.media import confine, guard, limits, ops
from ample_crate.media.viewer import Viewer
from ample_crate.store import masters
from ample_crate.store.models import Master
from ample_crate.store.places import CHECKOUT

from .deliver import bare_decode, middle
from .serving import ask, percentile, serving
from .watched import least, spent

ROUNDS = int(os.environ.get("ROUNDS", "3"))
SECONDS = 8
# Fixed quantisers: making a master takes less than working on it.
QUICK_PRORES = {"profile": "2", "flags": "+qscale", "global_quality": str(6 * 118)}
LENGTH = int(os.environ.get("LENGTH", "80"))


def make(
    path: Path,
    codec: str,
    pixels: str,
    options: dict[str, str],
    sound_codec: str,
    *,
    width: int = 1920,
) -> Path:
    """Make a 16:9 master at 25 frames a second, of the demo's scenes with stereo sound."""
    stage = Stage()
    with av.open(str(path), "w") as out:
        video = out.add_stream(codec, rate=25, options=options)
        video.width, video.height, video.pix_fmt = width, width * 9 // 16, pixels
        track = out.add_stream(sound_codec, rate=48000, layout="stereo")
        heard = sound(SECONDS, 2)
        for number in range(SECONDS * 25):
            frame = VideoFrame.from_ndarray(
                stage.at(number / 25, (("lantern", 3), ("meadow", 2), ("downpour", SECONDS))),
                format="rgb24",
            )
            shown = frame.reformat(video.width, video.height, pixels, dst_colorspace="ITU709")
            out.mux(video.encode(shown))
            part = av.AudioFrame.from_ndarray(
                heard[:, number * 1920 : (number + 1) * 1920].copy(), format="fltp", layout="stereo"
            )
            part.sample_rate, part.pts, part.time_base = 48000, number * 1920, Fraction(1, 48000)
            out.mux(track.encode(part))
        out.mux(video.encode(None))
        out.mux(track.encode(None))
    return path


def repeated(path: Path, times: int) -> Path:
    """Write a file's packets one round after another: a long film of few frames, not encoded."""
    long = path.with_stem(f"{path.stem}-{times}")
    with av.open(str(path)) as source, av.open(str(long), "w") as out:
        made = {one.index: out.add_stream_from_template(one) for one in source.streams}
        last: dict[int, int] = {}
        for turn in range(times):
            source.seek(0)
            for packet in source.demux():
                if packet.pts is None or packet.dts is None:
                    continue
                later = round(turn * SECONDS / packet.time_base)
                packet.pts, packet.dts = packet.pts + later, packet.dts + later
                index = packet.stream.index
                # A sound codec's first packet is before the start: it would be under the last one.
                if packet.dts <= last.get(index, packet.dts - 1):
                    continue
                last[index] = packet.dts
                packet.stream = made[index]
                out.mux(packet)
    return long


def files(folder: Path) -> dict[str, Path]:
    """Make the two masters, of SECONDS."""
    long = {"b": "18000000", "g": "50", "bf": "2", "preset": "veryfast"}
    return {
        "1080p H.264": make(folder / "long.mp4", "libx264", "yuv420p", long, "aac"),
        "1080p ProRes": make(
            folder / "intra.mov", "prores_ks", "yuv422p10le", QUICK_PRORES, "pcm_s24le"
        ),
    }


def reading(folder: Path) -> None:
    """Compare reading 200 mixed files, one at a time, with opening them bare and starting one
    child.
    """
    sys.path.insert(0, str(CHECKOUT / "tests"))
    from wrappers import all_of_them

    kinds = all_of_them(folder)
    paths = [kinds[n % len(kinds)] for n in range(200)]
    ratios = []
    for _ in range(ROUNDS):
        began = time.monotonic()
        read = sum(isinstance(found, Facts) for _, found in ops.read_many(paths))
        ours = time.monotonic() - began
        began = time.monotonic()
        with guard.Child(limits.READ, confine.reading(paths[0])) as child:
            child.request("read", {"path": str(paths[0])})
        for path in paths[1:]:
            av.open(str(path)).close()
        ratios.append(ours / (time.monotonic() - began))
    print(
        f"facts of {read} mixed files / bare open and one child: {middle(ratios):.2f}   (at most "
        f"1.5)   {200 / ours:.0f} files a second"
    )


def measuring(made: dict[str, Path]) -> None:
    """Compare measuring to both depths with a bare decode of picture and sound, the least of
    ROUNDS of each.
    """
    for name, short in made.items():
        path = repeated(short, LENGTH // SECONDS)
        works: dict[str, Callable[[], object]] = {
            "bare": partial(bare_decode, path),
            "ledger": partial(ops.measure, path, depth="ledger"),
            "everything": partial(ops.measure, path, depth="everything"),
        }
        rounds = [{depth: spent(work) for depth, work in works.items()} for _ in range(ROUNDS)]
        taken = {depth: least(one[depth] for one in rounds) for depth in works}
        bare = taken["bare"]
        for depth, bar in (("ledger", "1.1"), ("everything", "1.4")):
            ours = taken[depth]
            print(
                f"{name:13} measured for {depth:10} / bare decode: "
                f"{ours.seconds / bare.seconds:.2f} in time (at most {bar}), "
                f"{ours.processor / bare.processor:.2f} of processor   bare {bare.seconds:.1f} s "
                f"for {LENGTH} s",
                flush=True,
            )


def looking(made: dict[str, Path]) -> None:
    """Time single frames for the viewer: at random, and stepping on."""
    rng = random.Random(4)
    for name, path in made.items():
        viewer = Viewer()
        try:
            viewer.picture(path, 0, 960)
            for way, wanted in (
                ("at random", [rng.randrange(SECONDS * 25) for _ in range(60)]),
                ("stepping on", list(range(100, 160))),
            ):
                taken = []
                for frame in wanted:
                    began = time.monotonic()
                    viewer.picture(path, frame, 960)
                    taken.append(1000 * (time.monotonic() - began))
                print(
                    f"{name:13} one frame {way:11}: median {middle(taken):.0f} ms, p95 "
                    f"{percentile(taken, 0.95):.0f} ms"
                )
        finally:
            viewer.close()


def listing(folder: Path) -> None:
    """Time the list's first page and a search over 10,000 masters, through the API."""
    with serving(folder) as (pool, database):
        rng = random.Random(5)
        facts = [_facts(rng) for _ in range(200)]
        with database.session() as session:
            for number in range(10_000):
                row = Master(
                    name=f"{rng.choice(['lantern', 'fog', 'rain', 'meadow'])}_{number:05d}.mov",
                    path=f"/nowhere/{number}",
                    origin="intake",
                    size=rng.randrange(10**11),
                    state="ready",
                    facts=facts[number % 200].as_json(),
                    corrections={},
                    notes=[],
                    production=f"Production {number % 40}",
                )
                masters.recard(row)
                session.add(row)
        for name, query in (
            ("first page", ""),
            ("search", "?q=interlaced%205.1%20over%2010%20GB"),
            ("production", "?production=Production%207"),
            ("deep page", "?offset=9000"),
        ):
            ask(pool, f"10 000 masters, {name:10}", f"/api/masters{query}", "p95 under 100")


def _facts(rng: random.Random) -> Facts:
    from ample_crate.core.units.values import Size

    return Facts().with_values(
        "measured",
        {
            "picture.codec": rng.choice(["prores", "h264", "mpeg2video"]),
            "picture.size": rng.choice([Size(1920, 1080), Size(720, 576)]),
            "motion.rate": Fraction(25),
            "motion.scan": rng.choice(["progressive", "interlaced"]),
            "motion.frames": rng.randrange(10**5),
            "sound.tracks": 1,
            "sound.codec": "pcm_s24le",
            "sound.layout": rng.choice(["stereo", "5.1"]),
            "file.duration": Fraction(rng.randrange(10**4)),
            "file.wrapper": "mov",
        },
    )


def main(wanted: list[str]) -> None:
    """Run what is asked for and print a line each."""
    folder = Path(tempfile.mkdtemp(prefix="ample-bench-"))
    try:
        if "read" in wanted:
            reading(folder)
        made = files(folder) if {"measure", "frames"} & set(wanted) else {}
        if "measure" in wanted:
            measuring(made)
        if "frames" in wanted:
            looking(made)
        if "list" in wanted:
            listing(folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main(sys.argv[1:] or ["read", "measure", "frames", "list"])
