"""Carries out a plan: decode, filter, encode, mux. Runs inside the child process."""

from __future__ import annotations

import os
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from av.subtitles.stream import SubtitleStream

from ..core.planning.plan import Plan
from ..core.planning.streams import Copied, MadePicture, MadeSound, Text
from .encoders.setup import Pass
from .levelling import levels_of, said
from .levels import Levels
from .read import open_media
from .sources import CopyFeed, PictureFeed, Report, Source
from .texts import TextWriter
from .writers import Copier, Outputs, PictureWriter, SoundWriter, Template

Progress = Callable[[dict[str, Any]], None]


@dataclass(frozen=True)
class Job:
    """What is made.

    Attributes:
        plan: says how.
        inputs, outs: paths of the plan's inputs and files.
        stats: path of what a first of two passes finds out.
        levels: what is done to the loudness of streams.
    """

    plan: Plan
    inputs: Sequence[str]
    outs: Sequence[str]
    stats: str
    levels: Mapping[int, Levels]


def handle(
    progress: Progress, inputs: list[str], outs: list[str], plan: dict[str, Any]
) -> dict[str, Any]:
    """Make the files of a plan: {frames, seconds, notes}.

    Args:
        progress: told of each sign of life.
        inputs: paths of the plan's inputs.
        outs: for each of its files a name beside the final one; the parent gives the final name
            when the file is whole.
        plan: as JSON.
    """
    made = Plan.model_validate(plan)
    began = time.monotonic()
    bench = os.path.dirname(outs[0])
    # Nothing but what is made lies in a folder that is handed over.
    folder = tempfile.mkdtemp(
        prefix=".passes-", dir=os.path.dirname(bench) if made.folder else bench
    )
    try:
        frames = 0
        levels = levels_of(made, inputs, _reporter(progress, made, 1, began, "listen"))
        job = Job(made, inputs, outs, os.path.join(folder, "stats"), levels)
        for number in range(1, made.passes + 1):
            frames = _pass(job, number, _reporter(progress, made, number, began))
        seconds = time.monotonic() - began
        return {"frames": frames, "seconds": seconds, "notes": said(made, levels)}
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _reporter(progress: Progress, plan: Plan, number: int, began: float, stage: str = "") -> Report:
    expected, passes, picture = plan.frames, plan.passes, plan.picture
    rate = picture.format.rate if picture is not None else Fraction(0)
    if not stage:
        stage = "copy" if all(isinstance(s, Copied) for s in plan.streams) else "encode"

    def report(reached: Fraction) -> None:
        elapsed = time.monotonic() - began
        share = (number - 1 + min(1.0, float(reached / plan.seconds))) / passes
        progress(
            {
                "stage": stage,
                "pass": number,
                "passes": passes,
                "frame": round(reached * rate),
                "frames": expected,
                "speed": float(reached) / elapsed * number if elapsed else 0.0,
                "elapsed": elapsed,
                "remaining": elapsed / share - elapsed if share > 0.01 else None,
                "share": share,
            }
        )

    return report


def _pass(job: Job, number: int, report: Report) -> int:
    """Go through the inputs once; the first of two passes only looks at the picture."""
    plan = job.plan
    two = plan.passes == 2
    turn = Pass(number, job.stats) if two else None
    with ExitStack() as opened:
        sources = [
            Source(opened.enter_context(open_media(path)), taken, plan.seconds)
            for path, taken in zip(job.inputs, plan.inputs, strict=True)
        ]
        outputs = Outputs(
            plan,
            job.outs,
            turn,
            _Templates(sources),
            rehearsal=two and number == 1,
        )
        opened.callback(outputs.abandon)
        outputs.mark(sources[0].chapters(plan.seconds))
        _feed(job, sources, outputs, report)
        _run([source.run() for source in sources])
        outputs.finish()
        frames = outputs.frames
    report(plan.seconds)
    return frames


@dataclass(frozen=True)
class _Templates:
    """The streams that others come from, of all inputs."""

    sources: Sequence[Source]

    def template(self, copied: Copied) -> Template:
        return self.sources[copied.input].template(copied)

    def captions(self, text: Text) -> SubtitleStream:
        return self.sources[text.input].captions(text.number)


def _feed(job: Job, sources: list[Source], outputs: Outputs, report: Report) -> None:
    plan = job.plan
    # Of several streams the picture tells how far it is.
    hearing = unheard if plan.picture is not None else report
    for number, writer in outputs.writers.items():
        stream = plan.streams[number]
        source = sources[stream.input]
        if isinstance(stream, MadePicture) and isinstance(writer, PictureWriter):
            source.give_picture(PictureFeed(stream, writer, plan.frames, report))
        elif isinstance(stream, MadeSound) and isinstance(writer, SoundWriter):
            if stream.tracks:
                source.give_sound(stream, writer, hearing, job.levels.get(number))
            else:
                source.give_silence(writer)
        elif isinstance(stream, Text) and isinstance(writer, TextWriter):
            source.give_text(stream.number, writer)
        elif isinstance(stream, Copied) and isinstance(writer, Copier):
            source.give_copy(CopyFeed(stream, writer, report), source.template(stream))


def unheard(reached: Fraction) -> None:
    """Take a time that is not told."""


def _run(readers: list[Iterator[Fraction]]) -> None:
    """Read all inputs side by side: always the one that is furthest behind."""
    reached = dict.fromkeys(range(len(readers)), Fraction(0))
    while reached:
        behind = min(reached, key=lambda n: reached[n])
        at = next(readers[behind], None)
        if at is None:
            del reached[behind]
        else:
            reached[behind] = at
