"""Chapters, taken from a master and put into a file; and what the broadcast extension of a WAV
says.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from fractions import Fraction
from typing import NamedTuple

from av.container import InputContainer, OutputContainer

from ..core.planning.plan import Broadcast

ORIGINATOR = "Ample Crate"
TICK = Fraction(1, 1000)  # the finest that all wrappers with chapters have


Place = Callable[[Fraction], Fraction]


class Chapter(NamedTuple):
    """A chapter: its name, and the seconds at which it begins and ends."""

    title: str
    start: Fraction
    end: Fraction


def chapters_of(container: InputContainer, place: Place, seconds: Fraction) -> list[Chapter]:
    """List the chapters that lie in so many seconds of what is delivered; `place` says when in it a
    time of the file comes.
    """
    chapters = []
    for one in container.chapters():
        base = Fraction(one["time_base"] or TICK)
        begins, ends = place(one["start"] * base), place(one["end"] * base)
        begins, ends = max(begins, Fraction(0)), min(ends, seconds)
        if begins < ends:
            chapters.append(Chapter(one["metadata"].get("title", ""), begins, ends))
    return chapters


def put(container: OutputContainer, chapters: list[Chapter]) -> None:
    """Give a file its chapters; it must not have been begun."""
    container.set_chapters(
        [
            {
                "id": number,
                "start": round(one.start / TICK),
                "end": round(one.end / TICK),
                "time_base": TICK,
                "metadata": {"title": one.title} if one.title else {},
            }
            for number, one in enumerate(chapters, 1)
        ]
    )


def extension(broadcast: Broadcast) -> dict[str, str]:
    """Give a broadcast extension as the codec library takes it, made now (UTC)."""
    now = datetime.now(UTC)
    return {
        "description": broadcast.description,
        "originator": ORIGINATOR,
        "origination_date": f"{now:%Y-%m-%d}",
        "origination_time": f"{now:%H:%M:%S}",
        "time_reference": str(broadcast.reference),
        "coding_history": broadcast.history,
    }
