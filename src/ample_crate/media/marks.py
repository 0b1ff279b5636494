"""Chapters: taken from a master, and put into a file."""

from __future__ import annotations

from fractions import Fraction
from typing import NamedTuple

from av.container import InputContainer, OutputContainer

TICK = Fraction(1, 1000)  # the finest that all wrappers with chapters have


class Chapter(NamedTuple):
    """A chapter: its name, and the seconds at which it begins and ends."""

    title: str
    start: Fraction
    end: Fraction


def chapters_of(container: InputContainer, start: Fraction, seconds: Fraction) -> list[Chapter]:
    """List the chapters that lie in so many seconds from a time on, counted from there."""
    chapters = []
    for one in container.chapters():
        base = Fraction(one["time_base"] or TICK)
        begins, ends = one["start"] * base - start, one["end"] * base - start
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
