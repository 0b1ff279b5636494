"""Parts of a film chosen to stand for all of it: parts that are about as heavy, and lie about as
far in, form a stratum, for which its most typical member stands (stratified sampling).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import accumulate
from math import log

# How far the two ends of a film are apart, on the scale of logarithms of weights: parts that are
# as heavy are told apart by where they lie, others by how heavy they are.
LENGTH = 0.3
# A part's weight and its place, made comparable.
Known = tuple[float, float]


@dataclass(frozen=True)
class Stratum:
    """Parts of a film that are alike.

    Attributes:
        typical: the number of the part that stands for all of them.
        members: numbers of all of them.
    """

    typical: int
    members: Sequence[int]


def strata(weights: Sequence[float], count: int) -> list[Stratum]:
    """Cut a film's parts into strata, so that the members of each are as alike as may be: the one
    whose cut brings most is cut in two until there are enough.

    Args:
        weights: of the parts, in order; equal ones where nothing is known.
        count: how many strata there are at most.

    Returns:
        in order of their typical parts.
    """
    step = LENGTH / len(weights)
    known = [(log(max(weight, 1.0)), step * n) for n, weight in enumerate(weights)]
    cuts = [_cut(known, range(len(known)))]
    while len(cuts) < min(count, len(known)):
        best = max(range(len(cuts)), key=lambda n: cuts[n].gain)
        if cuts[best].gain <= 0:
            break
        cuts[best : best + 1] = [_cut(known, part) for part in cuts[best].parts]
    found = [Stratum(_typical(known, one.members), one.members) for one in cuts]
    return sorted(found, key=lambda one: one.typical)


@dataclass(frozen=True)
class _Cut:
    """A stratum, and the two that are best made of it.

    Attributes:
        members: numbers of its parts.
        parts: members of the two.
        gain: by how much the members are more alike then; 0 where it cannot be cut.
    """

    members: Sequence[int]
    parts: tuple[Sequence[int], Sequence[int]]
    gain: float


def _cut(known: Sequence[Known], members: Sequence[int]) -> _Cut:
    """Look along weights and along places where to cut."""
    best = _Cut(members, (members, ()), 0.0)
    for axis in (0, 1):
        order = sorted(members, key=lambda n: known[n][axis])
        gain, at = _best(known, order)
        if gain > best.gain:
            best = _Cut(members, (order[:at], order[at:]), gain)
    return best


def _best(known: Sequence[Known], order: Sequence[int]) -> tuple[float, int]:
    """Give by how much the sum of squared distances from the mean falls where an order is cut best,
    and after how many.
    """
    count, best = len(order), (0.0, 0)
    sums = [list(accumulate(known[n][axis] for n in order)) for axis in (0, 1)]
    for at in range(1, count):
        gain = 0.0
        for along in sums:
            left, whole = along[at - 1], along[-1]
            off = left / at - (whole - left) / (count - at)
            # What lies between the two means is what is gained.
            gain += off * off * at * (count - at) / count
        best = max(best, (gain, at))
    return best


def _typical(known: Sequence[Known], members: Sequence[int]) -> int:
    count = len(members)
    weight, place = (sum(known[n][axis] for n in members) / count for axis in (0, 1))
    return min(members, key=lambda n: (known[n][0] - weight) ** 2 + (known[n][1] - place) ** 2)
