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

from ..core.planning.plan import Plan
from ..core.planning.streams import Copied, MadePicture, MadeSound
from .encoders.setup import Pass
from .read import open_media
from .sources import CopyFeed, PictureFeed, Report, Source
from .writers import Copier, Outputs, PictureWriter, SoundWriter

Progress = Callable[[dict[str, Any]], None]


def handle(
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
    rate = picture.format.rate if picture is not None else Fraction(0)
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
    turn = Pass(number, stats) if two else None
    with ExitStack() as opened:
        sources = [
            Source(opened.enter_context(open_media(path)), taken, plan.seconds)
            for path, taken in zip(inputs, plan.inputs, strict=True)
        ]
        outputs = Outputs(
            plan,
            outs,
            turn,
            lambda copied: sources[copied.input].template(copied),
            rehearsal=two and number == 1,
        )
        opened.callback(outputs.abandon)
        _feed(plan, sources, outputs, report)
        _run([source.run() for source in sources])
        outputs.finish()
        frames = outputs.frames
    report(plan.seconds)
    return frames


def _feed(plan: Plan, sources: list[Source], outputs: Outputs, report: Report) -> None:
    # Of several streams the picture tells how far it is.
    hearing = unheard if plan.picture is not None else report
    for number, writer in outputs.writers.items():
        stream = plan.streams[number]
        source = sources[stream.input]
        if isinstance(stream, MadePicture) and isinstance(writer, PictureWriter):
            source.give_picture(PictureFeed(stream, writer, plan.frames, report))
        elif isinstance(stream, MadeSound) and isinstance(writer, SoundWriter):
            source.give_sound(stream, writer, hearing)
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
