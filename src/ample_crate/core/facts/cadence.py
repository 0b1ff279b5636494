"""How pictures repeat over the frames: a film's 24 carried in 30, 25 carried in 30, every frame
twice.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

LONGEST = (
    6  # a picture that stays for more frames than this stands still and tells nothing of a cadence
)
ENOUGH = Fraction(4, 5)


@dataclass(frozen=True)
class Cadence:
    """A cadence.

    Attributes:
        name: "every frame new", "2:3", "2:3 in fields", "each picture 2 times", "1 in 6 repeats",
        or "uneven repeats".
        pictures_per_frame: how many different pictures there are for each frame.
    """

    name: str
    pictures_per_frame: Fraction

    def told(self, rate: Fraction | None) -> str:
        """Say the cadence with the rate of different pictures, where it differs from the rate of
        frames.
        """
        if rate is None or self.pictures_per_frame == 1 or self.name == "uneven repeats":
            return self.name
        inner = rate * self.pictures_per_frame
        return f"{self.name}: {_rate(inner)} pictures in {_rate(rate)} frames a second"


def _rate(value: Fraction) -> str:
    return f"{float(value):.3f}".rstrip("0").rstrip(".")


def find(upper_same: Sequence[bool], lower_same: Sequence[bool]) -> Cadence | None:
    """Find the cadence of a run of frames.

    Args:
        upper_same: for each frame, whether its upper field shows the same as the upper field before
        it.
        lower_same: the same of the lower field.

    Returns:
        the cadence, or None where too little moves to tell.
    """
    whole = [u and w for u, w in zip(upper_same, lower_same, strict=True)]
    fields = _in_fields(upper_same, lower_same, whole)
    if fields is not None:
        return fields
    lengths = [n for n in _lengths(whole) if n <= LONGEST]
    if len(lengths) < 8:
        return None
    total = len(lengths)
    if lengths.count(1) == total:
        return Cadence("every frame new", Fraction(1))
    for each in range(2, LONGEST + 1):
        if lengths.count(each) >= ENOUGH * total:
            return Cadence(f"each picture {each} times", Fraction(1, each))
    pairs = list(itertools.pairwise(lengths))
    if sum(set(p) == {2, 3} for p in pairs) >= ENOUGH * len(pairs):
        return Cadence("2:3", Fraction(2, 5))
    twos = [n for n, length in enumerate(lengths) if length == 2]
    if len(twos) >= 3 and set(lengths) <= {1, 2}:
        gaps = [b - a for a, b in itertools.pairwise(twos)]
        usual = max(set(gaps), key=gaps.count)
        if usual > 1 and gaps.count(usual) >= ENOUGH * len(gaps):
            # Between two repeats lie `usual` pictures, which fill one frame more.
            return Cadence(f"1 in {usual + 1} repeats", Fraction(usual, usual + 1))
    return Cadence(
        "uneven repeats" if lengths.count(1) < total * Fraction(99, 100) else "every frame new",
        Fraction(1),
    )


def _in_fields(
    upper: Sequence[bool], lower: Sequence[bool], whole: Sequence[bool]
) -> Cadence | None:
    """Find film laid over fields: in five frames one upper and one lower field comes twice, in
    different frames.
    """
    single_upper = [n for n, same in enumerate(upper) if same and not whole[n]]
    single_lower = [n for n, same in enumerate(lower) if same and not whole[n]]
    if min(len(single_upper), len(single_lower)) < 2:
        return None
    for places in (single_upper, single_lower):
        gaps = [b - a for a, b in itertools.pairwise(places)]
        if sum(g % 5 == 0 for g in gaps) < ENOUGH * len(gaps):
            return None
    return Cadence("2:3 in fields", Fraction(4, 5))


def _lengths(same: Sequence[bool]) -> list[int]:
    """Give for how many frames each picture stays; the first and the last, which may be cut, are
    left out.
    """
    lengths: list[int] = []
    for number, repeated in enumerate(same):
        if repeated and lengths:
            lengths[-1] += 1
        elif not repeated or number == 0:
            lengths.append(1)
    return lengths[1:-1]
