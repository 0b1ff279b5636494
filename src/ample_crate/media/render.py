"""Carries out a plan: decode, filter, encode, mux. Runs inside the child process."""

from __future__ import annotations

import os
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack
from fractions import Fraction
from typing import Any

from ..core.planning.plan import MadePicture, MadeSound, Plan
from .read import open_media
from .sources import PictureFeed, Source
from .writers import Outputs, PictureWriter, SoundWriter

Progress = Callable[[dict[str, Any]], None]
Report = Callable[[int], None]


def answer(
    progress: Progress, inputs: list[str], outs: list[str], plan: dict[str, Any]
) -> dict[str, Any]:
    """Make the files of a plan: {frames, seconds}.

    Args:
        progress: told of each sign of life.
        inputs: paths of the plan's inputs.
        outs: for each of its files a name beside the final one; the parent gives the final name
            when the file is whole.
        plan: as JSON.
    """
    made = Plan.model_validate(plan)
    began = time.monotonic()
    folder = tempfile.mkdtemp(prefix=".passes-", dir=os.path.dirname(outs[0]))
    try:
        frames = 0
        for number in range(1, made.passes + 1):
            report = _reporter(progress, made, number, began)
            frames = _pass(made, inputs, outs, number, os.path.join(folder, "stats"), report)
        return {"frames": frames, "seconds": time.monotonic() - began}
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _reporter(progress: Progress, plan: Plan, number: int, began: float) -> Report:
    expected, passes, picture = plan.frames, plan.passes, plan.picture
    rate = float(picture.format.rate) if picture is not None else 1.0

    def report(frames: int) -> None:
        elapsed = time.monotonic() - began
        share = (number - 1 + min(1.0, frames / max(1, expected))) / passes
        progress(
            {
                "stage": "encode",
                "pass": number,
                "passes": passes,
                "frame": frames,
                "frames": expected,
                "speed": frames / rate / elapsed * number if elapsed else 0.0,
                "elapsed": elapsed,
                "remaining": elapsed / share - elapsed if share > 0.01 else None,
                "share": share,
            }
        )

    return report


def _pass(
    plan: Plan,
    inputs: Sequence[str],
    outs: Sequence[str],
    number: int,
    stats: str,
    report: Report,
) -> int:
    """Go through the inputs once; the first of two passes only looks at the picture."""
    two = plan.passes == 2
    passing = {"flags": f"+pass{number}", "stats": stats} if two else {}
    with ExitStack() as opened:
        outputs = Outputs(plan, outs, passing, rehearsal=two and number == 1)
        opened.callback(outputs.abandon)
        sources = [
            Source(opened.enter_context(open_media(path)), taken, plan.seconds)
            for path, taken in zip(inputs, plan.inputs, strict=True)
        ]
        _feed(plan, sources, outputs, report)
        _run([source.run() for source in sources])
        outputs.finish()
        frames = outputs.frames
    report(frames)
    return frames


def _feed(plan: Plan, sources: list[Source], outputs: Outputs, report: Report) -> None:
    for number, writer in outputs.writers.items():
        stream = plan.streams[number]
        source = sources[stream.input]
        if isinstance(stream, MadePicture) and isinstance(writer, PictureWriter):
            source.give_picture(PictureFeed(stream, writer, plan.frames, report))
        elif isinstance(stream, MadeSound) and isinstance(writer, SoundWriter):
            source.give_sound(stream, writer)


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
