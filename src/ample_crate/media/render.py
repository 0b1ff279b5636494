"""Carries out a plan: decode, filter, encode, mux. Runs inside the child process."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from av.subtitles.stream import SubtitleStream

from ..core.planning.plan import Input, Plan
from ..core.planning.streams import Captions, Copied, MadePicture, MadeSound
from . import stills
from .branches import Alone, Branch, Making
from .encoders.setup import Pass
from .feeds import CopyFeed, PictureFeed, Report, SegmentFeed, untold
from .leading import follows, leads
from .levelling import Heard, levels_of, said
from .levels import Levels
from .read import open_media
from .sources import Source
from .texts import CaptionCopier, TextWriter
from .writers import Copier, Outputs, PictureWriter, SoundWriter, Template

Progress = Callable[[dict[str, Any]], None]


@dataclass
class Job:
    """What is made of a reading, alone or beside others.

    Attributes:
        number: among them.
        plan: says how.
        inputs, outs: paths of the plan's inputs and files.
        captions: paths of the plan's files of captions.
        segments: paths of files that the picture is made in; none where it is made as one.
        stats: path of what a first of two passes finds out.
        by: has it made.
        levels: what is done to the loudness of streams.
        frames: that were made.
        lines: what is to be said of captions.
    """

    number: int
    plan: Plan
    inputs: Sequence[str]
    outs: Sequence[str]
    captions: Sequence[str]
    segments: Sequence[str]
    stats: str
    by: Making
    levels: Mapping[int, Levels] = field(default_factory=dict)
    frames: int = 0
    lines: list[str] = field(default_factory=list)


def handle(
    progress: Progress, inputs: list[str], bench: str, orders: list[dict[str, Any]]
) -> dict[str, Any]:
    """Make the files of plans from one reading of their inputs.

    Args:
        progress: told of each sign of life, and `of` which plan.
        inputs: paths of the plans' inputs, which are the same.
        bench: folder to work in.
        orders: for each plan itself as JSON, `outs` and `captions`, which give each of its files a
            name beside the final one, which the parent gives when the file is whole, `segments`,
            paths of files that its picture was made in, and `dropped`, the path of a file that
            comes to be there when nobody wants it any more.

    Returns:
        {seconds, made}: what was made of each plan, {frames, notes} or {error}.
    """
    began = time.monotonic()
    with tempfile.TemporaryDirectory(prefix=".passes-", dir=bench) as folder:
        jobs = [_job(n, inputs, order, folder, len(orders)) for n, order in enumerate(orders)]
        try:
            _listen(jobs, progress, began)
            for number in range(1, max(job.plan.passes for job in jobs) + 1):
                turn = [j for j in jobs if number <= j.plan.passes and not j.by.over]
                _pass(turn, number, {j.number: _reporter(progress, j, number, began) for j in turn})
        finally:
            for job in jobs:
                job.by.finish()
    return {"seconds": time.monotonic() - began, "made": [_answer(job) for job in jobs]}


def _job(number: int, inputs: list[str], order: dict[str, Any], folder: str, count: int) -> Job:
    plan = Plan.model_validate(order["plan"])
    by = Branch(inputs[0], order["dropped"]) if count > 1 else Alone()
    stats = os.path.join(folder, f"stats-{number}")
    return Job(number, plan, inputs, order["outs"], order["captions"], order["segments"], stats, by)


def _answer(job: Job) -> dict[str, Any]:
    if job.by.error is not None:
        return {"error": job.by.error.as_json()}
    return {"frames": job.frames, "notes": [*said(job.plan, job.levels), *job.lines]}


def _listen(jobs: Sequence[Job], progress: Progress, began: float) -> None:
    """Hear what is brought to a loudness; what is the same in two plans is heard once."""
    known: Heard = {}
    for job in jobs:
        with job.by.trial():
            report = _reporter(progress, job, 1, began, "listen")
            job.levels = levels_of(job.plan, job.inputs, report, known)


def _reporter(progress: Progress, job: Job, number: int, began: float, stage: str = "") -> Report:
    plan = job.plan
    expected, passes, picture = plan.frames, plan.passes, plan.picture
    rate = picture.format.rate if picture is not None else Fraction(0)
    if not stage:
        copied = all(isinstance(s, Copied) for s in plan.streams)
        stage = "join" if job.segments else "copy" if copied else "encode"

    def report(reached: Fraction) -> None:
        elapsed = time.monotonic() - began
        share = (number - 1 + min(1.0, float(reached / plan.seconds))) / passes
        progress(
            {
                "of": job.number,
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


class _Reading:
    """The inputs of plans, each opened once for all that take it alike."""

    def __init__(self, opened: ExitStack) -> None:
        self._opened = opened
        self._sources: dict[tuple[str, Input, Fraction], Source] = {}
        self.before: list[Iterator[Fraction]] = []
        self.beside: list[Iterator[Fraction]] = []

    def of(self, job: Job) -> list[Source]:
        """Give the sources of a plan, one for each of its inputs but a still, which is the last."""
        made = []
        for path, taken in zip(job.inputs, job.plan.inputs, strict=True):
            if taken.still:
                continue
            key = path, taken, job.plan.programme
            if key not in self._sources:
                container = self._opened.enter_context(open_media(path))
                self._sources[key] = Source(container, taken, job.plan.programme)
            made.append(self._sources[key])
        return made

    def run(self) -> None:
        """Read all of them, and what is `beside` them, to the end of what is delivered."""
        _run([*self.before, *(source.run() for source in self._sources.values()), *self.beside])


def _pass(jobs: Sequence[Job], number: int, reports: Mapping[int, Report]) -> None:
    """Go through the inputs once; the first of two passes only looks at the picture."""
    with ExitStack() as opened:
        reading = _Reading(opened)
        begun = []
        for job in jobs:
            with job.by.trial():
                sources = reading.of(job)
                outputs = _outputs(job, number, sources)
                opened.callback(outputs.abandon)
                outputs.mark(sources[0].chapters(job.plan.programme, job.plan.lead))
                led = leads(job.plan, outputs.writers, job.by, reports[job.number])
                reading.before += [led] if job.plan.around.first else []
                reading.beside += _feed(job, sources, outputs, reports[job.number])
                begun.append((job, outputs))
        # Nothing is let go of while it is still worked on.
        opened.callback(_wait, jobs)
        reading.run()
        for job, outputs in begun:
            follows(job.plan, outputs.writers, job.by)
            job.by.do(outputs.finish)
        _wait(jobs)
        for job, outputs in begun:
            job.frames = outputs.frames
            job.lines = [f"{file.name}: {text.said}." for file, text in outputs.captions]
    for job in jobs:
        reports[job.number](job.plan.seconds)


def _wait(jobs: Sequence[Job]) -> None:
    for job in jobs:
        job.by.wait()


def _outputs(job: Job, number: int, sources: Sequence[Source]) -> Outputs:
    two = job.plan.passes == 2
    turn = Pass(number, job.stats) if two else None
    rehearsal = two and number == 1
    return Outputs(job.plan, job.outs, turn, _Templates(sources), job.captions, rehearsal)


@dataclass(frozen=True)
class _Templates:
    """The streams that others come from, of all inputs."""

    sources: Sequence[Source]

    def template(self, copied: Copied) -> Template:
        return self.sources[copied.input].template(copied)

    def captions(self, text: Captions) -> SubtitleStream:
        return self.sources[text.input].captions(text.number)


def _feed(
    job: Job, sources: list[Source], outputs: Outputs, report: Report
) -> list[Iterator[Fraction]]:
    """Have what is read go to what is made; give what is read besides the sources."""
    plan, beside = job.plan, list[Iterator[Fraction]]()
    # Of several streams the picture tells how far it is.
    hearing = untold if plan.picture is not None else report
    for number, writer in outputs.writers.items():
        stream = plan.streams[number]
        source = sources[stream.input]
        if isinstance(stream, MadePicture) and isinstance(writer, PictureWriter):
            if job.segments:
                segments = SegmentFeed(job.segments, stream, writer, report)
                source.replace_picture(segments, job.by)
                beside.append(segments.run())
                continue
            under = stills.under(stream, job.inputs)
            most = plan.frames - plan.around.after
            taken = plan.inputs[stream.input]
            shown = PictureFeed(stream, taken, writer, under, most, report)
            source.give_picture(shown, job.by)
        elif isinstance(stream, MadeSound) and isinstance(writer, SoundWriter):
            if stream.tracks:
                source.give_sound(stream, writer, hearing, job.levels.get(number), job.by)
            else:
                source.give_silence(writer, job.by)
        elif isinstance(stream, Captions) and isinstance(writer, TextWriter | CaptionCopier):
            source.give_text(stream.number, writer)
        elif isinstance(stream, Copied) and isinstance(writer, Copier):
            feed = CopyFeed(stream, writer, report, job.by.shared)
            source.give_copy(feed, source.template(stream), job.by)
    for file, captions in outputs.captions:
        sources[file.text.input].give_text(file.text.number, captions)
    return beside


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
