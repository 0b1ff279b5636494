"""Time and memory of a delivery, as ratios to bare loops over the same library doing the same work.

Run `.venv/bin/python -m benchmarks.deliver [SECONDS]`; ROUNDS=1 makes it shorter. In turn, in one
run: the bare loop, the child that encodes, the whole of `deliver`, a bare decode, the measuring;
then facts of 200 files.
"""

# mypy: disable-error-code="union-attr,arg-type"
from __future__ import annotations

import json
import os
import resource
import shutil
import subprocess
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

import av
from av.codec.context import ThreadType
from av.video.frame import PictureType, VideoFrame

from ample_crate.core.planning.plan import Plan
from ample_crate.demo.scenes import Stage, sound
from ample_crate.media import encoders, filters, ops
from ample_crate.media.encoders.setup import PictureSetup
from ample_crate.media.lowering import picture_chain
from ample_crate.media.sound_lowering import SoundTaken
from ample_crate.store.library import find
from ample_crate.work.deliver import plan_or_refuse

from .watched import Watched

ROUNDS = int(os.environ.get("ROUNDS", "3"))
MANY = 200  # files
# What is copied would be no encode to hold against one.
ENCODED = {"picture": "encoded", "sound": "encoded"}


def make_master(path: Path, seconds: int) -> None:
    """Make a 1080p25 H.264 master of the demo's scenes with stereo sound."""
    stage = Stage()
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options={"preset": "ultrafast", "crf": "20"})
        video.width, video.height, video.pix_fmt = 1920, 1080, "yuv420p"
        track = out.add_stream("aac", rate=48000, layout="stereo")
        heard = sound(seconds, 2)
        for number in range(seconds * 25):
            frame = VideoFrame.from_ndarray(
                stage.at(number / 25, (("lantern", 5), ("meadow", 5), ("downpour", seconds))),
                format="rgb24",
            )
            out.mux(video.encode(frame.reformat(format="yuv420p", dst_colorspace="ITU709")))
            part = av.AudioFrame.from_ndarray(
                heard[:, number * 1920 : (number + 1) * 1920].copy(), format="fltp", layout="stereo"
            )
            part.sample_rate, part.pts, part.time_base = 48000, number * 1920, Fraction(1, 48000)
            out.mux(track.encode(part))
        out.mux(video.encode(None))
        out.mux(track.encode(None))


def bare_encode(master: Path, out: Path, plan: Plan) -> None:
    """Decode, filter, encode and mux with the same filters and settings, and nothing else."""
    assert plan.picture is not None
    sound = plan.sounds[0]
    setup, target = encoders.picture(plan.picture), plan.picture.format
    assert isinstance(setup, PictureSetup)
    chain = picture_chain(plan.picture.source, plan.picture.steps)
    with av.open(str(master)) as source, av.open(str(out), "w", format="mov") as made:
        picture, track = source.streams.video[0], source.streams.audio[0]
        picture.thread_type = ThreadType.AUTO
        video = made.add_stream(setup.encoder, rate=target.rate, options=setup.options)
        video.width, video.height, video.pix_fmt = target.width, target.height, "yuv420p"
        video.codec_context.thread_type = ThreadType.AUTO
        heard = made.add_stream("aac", rate=sound.format.sample_rate, layout=sound.format.layout)
        heard.codec_context.bit_rate = sound.encoding.rate(sound.format)
        graph = None
        tones = filters.SoundGraph(
            [track],
            sound,
            Fraction(0),
            Fraction(0),
            SoundTaken(encoders.sound(sound).sample_format, sound.format.layout),
        )
        count = 0
        for packet in source.demux(picture, track):
            for frame in packet.decode():
                if isinstance(frame, VideoFrame):
                    graph = graph or filters.picture_graph(
                        picture, frame, plan.picture.source, chain
                    )
                    for ready in graph.push(frame):
                        ready.pts, ready.time_base, ready.pict_type = (
                            count,
                            1 / target.rate,
                            PictureType.NONE,
                        )
                        count += 1
                        made.mux(video.encode(ready))
                else:
                    for tone in tones.push(track.index, frame):
                        made.mux(heard.encode(tone))
        for tone in tones.finish():
            made.mux(heard.encode(tone))
        made.mux(video.encode(None))
        made.mux(heard.encode(None))


def bare_decode(path: Path) -> None:
    """Decode picture and sound of a file and do nothing with them."""
    with av.open(str(path)) as source:
        source.streams.video[0].thread_type = ThreadType.AUTO
        for packet in source.demux(source.streams.video[0], source.streams.audio[0]):
            for _ in packet.decode():
                pass


def timed(*what: str) -> tuple[float, int]:
    """Run one step of this script in a process of its own: (seconds, peak bytes of it and its
    children).
    """
    code = subprocess.run(
        [sys.executable, "-m", "benchmarks.deliver", "--step", *what],
        capture_output=True,
        text=True,
        check=True,
    )
    told = json.loads(code.stdout.strip().splitlines()[-1])
    return told["seconds"], told["peak"]


def step(what: str, folder: Path) -> None:
    """Do one step and print its time and peak memory."""
    began = time.monotonic()
    with Watched() as watched:
        do(what, folder)
    seconds = time.monotonic() - began
    peak = max(
        watched.peak,
        *(
            1024 * resource.getrusage(who).ru_maxrss
            for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)
        ),
    )
    print(json.dumps({"seconds": seconds, "peak": peak}))


def do(what: str, folder: Path) -> None:
    """Do the work of a step."""
    master, made = folder / "master.mp4", folder / "bare.mov"
    plan = Plan.model_validate_json((folder / "plan.json").read_text())
    match what:
        case "bare encode":
            bare_encode(master, made, plan)
        case "render":
            ops.render([master], folder, plan, 10**8)
        case "bare decode":
            bare_decode(made)
        case "measure":
            ops.measure(made)
        case "deliver":
            subprocess.run(
                [
                    sys.executable,
                    "-m",
                    "ample_crate.cli",
                    "deliver",
                    str(master),
                    "--spec",
                    "tannery-list",
                    "--out",
                    str(folder / "out"),
                    "--json",
                    "--force",
                    *(one for k, v in ENCODED.items() for one in ("--choose", f"{k}={v}")),
                ],
                stdout=subprocess.DEVNULL,
                check=True,
            )


def middle(values: list[float]) -> float:
    """Give the median."""
    return sorted(values)[len(values) // 2]


def many_files(folder: Path) -> None:
    """Read the facts of many files, and open them bare, in turn; print the median."""
    paths = [folder / f"copy{number}.mov" for number in range(MANY)]
    for path in paths:
        path.hardlink_to(folder / "bare.mov")
    taken, opened = [], []
    for _ in range(ROUNDS):
        began = time.monotonic()
        read = sum(1 for _, found in ops.read_many(paths) if not isinstance(found, Exception))
        taken.append(time.monotonic() - began)
        assert read == MANY
        began = time.monotonic()
        for path in paths:
            av.open(str(path)).close()
        opened.append(time.monotonic() - began)
    ratio = middle([a / b for a, b in zip(taken, opened, strict=True)])
    print(
        f"facts of {MANY} files: {MANY / middle(taken):.0f} files a second; {ratio:.2f} times "
        f"opening them bare, with the child's start"
    )


def main(seconds: int) -> None:
    """Run all steps in turn and print the table."""
    folder = Path(tempfile.mkdtemp(prefix="ample-bench-"))
    try:
        make_master(folder / "master.mp4", seconds)
        facts = ops.measure(folder / "master.mp4").facts
        _, plan = plan_or_refuse(facts, find("tannery-list"), ENCODED, "master.mp4")
        (folder / "plan.json").write_text(plan.model_dump_json())
        names = ("bare encode", "render", "deliver", "bare decode", "measure")
        taken: dict[str, list[tuple[float, int]]] = {name: [] for name in names}
        for _ in range(ROUNDS):
            for name in names:
                taken[name].append(timed(name, str(folder)))
        print(f"{seconds} s of 1080p25 to the playout list, {ROUNDS} rounds, medians")
        for name, against, bar in (
            ("render", "bare encode", "time at most 1.05, memory at most 1.5"),
            ("deliver", "bare encode", "reported"),
            ("measure", "bare decode", "reported"),
        ):
            pairs = list(zip(taken[name], taken[against], strict=True))
            ratio = middle([a[0] / b[0] for a, b in pairs])
            memory = middle([a[1] / b[1] for a, b in pairs])
            print(
                f"{name:10} / {against:12} time {ratio:.3f}  peak memory {memory:.3f}   ({bar})   "
                f"{middle([a[0] for a, _ in pairs]):.1f} s"
            )
        many_files(folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    if len(sys.argv) > 2 and sys.argv[1] == "--step":
        step(sys.argv[2], Path(sys.argv[3]))
    else:
        main(int(sys.argv[1]) if len(sys.argv) > 1 else 60)
