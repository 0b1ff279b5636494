"""What of a master is taken: without the black at its ends, or so much of that away that its length
is as asked. What is picture is cut by a person.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from math import ceil, floor
from typing import NamedTuple

from ..facts import Facts
from ..facts.span import Piece, Span
from ..specs.requirement import Requirement
from ..specs.rules import bounds, limits
from ..specs.spec import Spec
from ..units.values import fraction

DURATION = "file.duration"


class Length(NamedTuple):
    """A length that is asked, in seconds; `most` is None where it may be as long as it likes."""

    least: Fraction
    most: Fraction | None

    def holds(self, seconds: Fraction) -> bool:
        """Say whether a length is as asked."""
        return self.least <= seconds and (self.most is None or seconds <= self.most)


@dataclass(frozen=True)
class Taken:
    """What of a master is taken, in its frames.

    Attributes:
        first: its first frame.
        frames: how many there are to its last.
        before: of them, black at the start.
        after: of them, black at the end.
        left_out: what of it is not taken, in order and apart.
    """

    first: int
    frames: int
    before: int = 0
    after: int = 0
    left_out: tuple[Piece, ...] = ()

    @property
    def count(self) -> int:
        """Count the frames that are taken."""
        return self.frames - sum(piece.frames for piece in self.left_out)

    @property
    def clear(self) -> Taken:
        """Give it without the black at its ends; of black alone everything stays."""
        left = self.frames - self.before - self.after
        if left <= 0:
            return self
        return replace(self, first=self.first + self.before, frames=left, before=0, after=0)

    def shorter(self, frames: int) -> Taken | None:
        """Give it with so many frames of black less, those at the end first; None where there are
        not so many.
        """
        if frames > self.before + self.after or frames >= self.frames:
            return None
        behind = min(frames, self.after)
        front = frames - behind
        return replace(
            self,
            first=self.first + front,
            frames=self.frames - frames,
            before=self.before - front,
            after=self.after - behind,
        )


@dataclass(frozen=True)
class Proposal:
    """What would bring a length to what is asked.

    Attributes:
        taken: of the master.
        black: seconds of black that are set after it besides.
    """

    taken: Taken
    black: Fraction = Fraction(0)


def taken_of(master: Facts, span: Span | None) -> Taken:
    """Say what of a whole master is taken, and how much of that is black at its ends, as far as
    that was measured.
    """
    rate = master.fraction("motion.rate") or Fraction(25)
    frames = int(master.value("motion.frames") or 0)
    keys = ("motion.black_before", "motion.black_after")
    before, after = (round((master.fraction(key) or 0) * rate) for key in keys)
    first, count = (0, frames) if span is None else (span.first, span.frames)
    behind = frames - first - count
    # Black that reaches into what is left out is taken away up to there.
    pieces = () if span is None else span.left_out
    most = (pieces[0].first - first, first + count - pieces[-1].end) if pieces else (count, count)
    front, back = max(0, min(most[0], before - first)), max(0, min(most[1], after - behind))
    return Taken(first, count, front, back, pieces)


def asked(spec: Spec) -> list[Length]:
    """List the lengths of a file that a spec takes; none where it asks for none."""
    rules = [r for r in spec.on(DURATION) if r.when is None]
    return [length for rule in rules for length in _lengths(rule)]


def _lengths(rule: Requirement) -> list[Length]:
    if rule.rule.operator == "one_of":
        return [Length(fraction(value), fraction(value)) for value in limits(rule)]
    found = bounds(rule)
    if found is None:
        return []
    low, high = found
    return [Length(low or Fraction(0), high)]


def length_of(taken: Taken, rate: Fraction, around: Fraction) -> Fraction:
    """Give the seconds that come of it.

    Args:
        taken: of the master.
        rate: by which its frames are taken.
        around: seconds that stand before and after it.
    """
    return taken.count / rate + around


def fitted(
    taken: Taken, lengths: list[Length], rate: Fraction, around: Fraction
) -> Proposal | None:
    """Find the least that brings it to a length that is asked, by black alone: so much of it away,
    or so much more after it. None where it is as asked, or picture would have to go.
    """
    seconds = length_of(taken, rate, around)
    if not lengths or any(length.holds(seconds) for length in lengths):
        return None
    found = [one for length in lengths for one in _to(taken, length, rate, around)]
    return min(found, key=lambda one: _change(one, taken, rate), default=None)


def _to(taken: Taken, length: Length, rate: Fraction, around: Fraction) -> list[Proposal]:
    seconds = length_of(taken, rate, around)
    if seconds < length.least:
        return [Proposal(taken, length.least - seconds)]
    assert length.most is not None
    frames = floor((length.most - around) * rate)
    if frames / rate + around < length.least:
        frames = ceil((length.most - around) * rate)
    shorter = taken.shorter(taken.count - frames) if frames > 0 else None
    return [] if shorter is None else [Proposal(shorter)]


def _change(one: Proposal, taken: Taken, rate: Fraction) -> Fraction:
    return one.black + (taken.frames - one.taken.frames) / rate
