"""What measuring finds at a place in time: black, frozen, silent, changes of scan, flashes."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any, Literal

Kind = Literal["black", "frozen", "silent", "tone", "scan", "flash", "levels"]


@dataclass(frozen=True)
class Event:
    """A stretch of a master.

    Attributes:
        kind: what it is.
        start, end: seconds from the first picture (or sample, for sound alone); the end is
        exclusive.
        first, last: frames, counted from 0, the last one included; None for sound alone.
        what: one line for a person.
        track: sound track from 1, or None for the picture.
    """

    kind: Kind
    start: Fraction
    end: Fraction
    what: str
    first: int | None = None
    last: int | None = None
    track: int | None = None

    def as_json(self) -> dict[str, Any]:
        """Give the event as plain JSON, times as exact fractions."""
        return {
            "kind": self.kind,
            "start": _exact(self.start),
            "end": _exact(self.end),
            "what": self.what,
            "first": self.first,
            "last": self.last,
            "track": self.track,
        }

    @staticmethod
    def from_json(body: dict[str, Any]) -> Event:
        """Read what `as_json` wrote."""
        return Event(**(body | {"start": Fraction(body["start"]), "end": Fraction(body["end"])}))


def _exact(value: Fraction) -> str:
    return f"{value.numerator}/{value.denominator}"


def stretches(marks: list[bool], least: int) -> list[tuple[int, int]]:
    """Give the runs of marked frames that are at least `least` long, as (first, last), both
    included.
    """
    found, since = [], None
    for number, mark in enumerate([*marks, False]):
        if mark and since is None:
            since = number
        elif not mark and since is not None:
            if number - since >= least:
                found.append((since, number - 1))
            since = None
    return found
