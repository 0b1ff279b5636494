"""Ranges of a master: what is known of a part of it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction
from itertools import pairwise
from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from ..errors import BadValue
from ..units import timecode
from ..units.values import Value
from . import Facts
from .properties import lookup


class Piece(BaseModel):
    """So many `frames` of a master, from the `first`, counted from 0."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    first: int = Field(ge=0)
    frames: int = Field(ge=1)

    @property
    def end(self) -> int:
        """Give the frame after the last."""
        return self.first + self.frames

    @property
    def last(self) -> int:
        """Give the last frame, included."""
        return self.end - 1


class Span(Piece):
    """A range: from its `first` frame to its last there are so many `frames`; of those some may be
    left out, in order and apart, with frames that are taken before and after each. Its name, if it
    has one.
    """

    name: str = Field(default="", max_length=100)
    left_out: tuple[Piece, ...] = ()

    @property
    def taken(self) -> int:
        """Count the frames that are taken."""
        return self.frames - sum(piece.frames for piece in self.left_out)

    @property
    def pieces(self) -> list[Piece]:
        """List what is taken, in order: one piece where nothing is left out."""
        begins = [self.first, *(piece.end for piece in self.left_out)]
        ends = [*(piece.first for piece in self.left_out), self.end]
        return [Piece(first=a, frames=b - a) for a, b in zip(begins, ends, strict=True)]

    def as_json(self) -> dict[str, Any]:
        """Give it as JSON, without `left_out` where nothing is."""
        return self.model_dump(mode="json", exclude=None if self.left_out else {"left_out"})


def without(whole: Span, left_out: Iterable[Piece]) -> Span:
    """Leave pieces out of a range, whose own are not looked at: what they share counts once, and
    what lies at its ends is cut off.

    Raises:
        BadValue: nothing is left.
    """
    first, end = whole.first, whole.end
    gaps: list[tuple[int, int]] = []
    for piece in sorted(left_out, key=lambda one: one.first):
        begins, ends = max(piece.first, first), min(piece.end, end)
        if begins >= ends:
            continue
        if begins == first:
            first = ends
        elif gaps and begins <= gaps[-1][1]:
            gaps[-1] = (gaps[-1][0], max(gaps[-1][1], ends))
        else:
            gaps.append((begins, ends))
    if gaps and gaps[-1][1] == end:
        end = gaps.pop()[0]
    if first >= end:
        raise BadValue("Nothing is left of the range.", "Leave less of it out.")
    pieces = tuple(Piece(first=a, frames=b - a) for a, b in gaps)
    return Span(name=whole.name, first=first, frames=end - first, left_out=pieces)


def joined(pieces: Sequence[Piece], name: str = "") -> Span:
    """Join pieces of a master to one range, in their order there.

    Raises:
        BadValue: two of them share a frame, or do not come in order.
    """
    for one, next_one in pairwise(pieces):
        if next_one.first < one.end:
            raise BadValue(
                f"The range from frame {next_one.first} begins before the one from frame "
                f"{one.first} has ended.",
                "Join ranges of a master in their order there, each frame once.",
            )
    first, end = pieces[0].first, pieces[-1].end
    gaps = [
        Piece(first=a.end, frames=b.first - a.end) for a, b in pairwise(pieces) if b.first > a.end
    ]
    return Span(name=name, first=first, frames=end - first, left_out=tuple(gaps))


def check(span: Span, master: Facts) -> None:
    """Make sure that a range lies within its master.

    Raises:
        BadValue: it does not, or the master has no frames to count.
    """
    frames = master.value("motion.frames")
    if not frames:
        raise BadValue(
            "This master's frames are not counted yet.",
            "Wait until it is measured, then mark the range.",
        )
    if span.last >= frames:
        raise BadValue(
            f"The range ends at frame {span.last}; the last one is {frames - 1}.",
            "Set the out mark earlier.",
        )


def within(master: Facts, span: Span | None) -> Facts:
    """Give what is known of a range of a master: its length and start timecode; what only the whole
    was measured for is left out.
    """
    if span is None:
        return master
    check(span, master)
    rate = master.fraction("motion.rate") or Fraction(25)
    values: dict[str, Value | None] = {
        "motion.frames": span.taken,
        "file.duration": span.taken / rate,
    }
    began = master.fraction("file.start_time")
    if began is not None:
        values["file.start_time"] = began + span.first / rate
    start = master.value("file.start_timecode")
    if start:
        drop = ";" in start
        try:
            values["file.start_timecode"] = timecode.show(
                timecode.read(start, rate, drop) + span.first, rate, drop
            )
        except BadValue:
            values["file.start_timecode"] = None
    # What a person said of the whole's, such as its first label, is not said of the range.
    kept = {k: f for k, f in master.items() if not lookup(k).of_whole and k not in values}
    return Facts(kept).with_values("measured", values)
