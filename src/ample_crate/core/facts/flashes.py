"""Counting flashes: pairs of opposing changes of the picture's brightness, as ITU-R BT.1702 limits
them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

# ITU-R BT.1702: a flash is a pair of opposing changes of 20 cd/m2 or more, the darker below 160
# cd/m2, over more than a quarter of the picture; more than three in any second are too many.
# (Figures from memory of the recommendation.)
LEAST_CHANGE, DARKER_BELOW, LEAST_AREA, MOST_A_SECOND = 20.0, 160.0, 0.25, 3


@dataclass(frozen=True)
class Flashing:
    """The most flashes in any second, and the stretches (first, last frame) that have more than may
    be.
    """

    most: int
    stretches: tuple[tuple[int, int], ...]


def count(changes: Sequence[int], rate: Fraction) -> Flashing:
    """Count flashes.

    Args:
        changes: frames at which the picture as a whole turned brighter or darker, the two by turns.
        rate: frames a second.
    """
    most, found = 0, list[tuple[int, int]]()
    left = 0
    for right, frame in enumerate(changes):
        while frame - changes[left] >= rate:
            left += 1
        flashes = (right - left + 1) // 2
        most = max(most, flashes)
        if flashes > MOST_A_SECOND:
            if found and changes[left] <= found[-1][1]:
                found[-1] = (found[-1][0], frame)
            else:
                found.append((changes[left], frame))
    return Flashing(most, tuple(found))
