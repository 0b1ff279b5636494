"""Film that is carried in fields of 29.97 frames a second."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from clips import Draw
from counting import numbered

NTSC = Fraction(30000, 1001)


def two_and_three(film: int) -> list[int]:
    """Which frame of film each field shows: 2:3 pulldown (common practice)."""
    return [number for number in range(film) for _ in range(2 + number % 2)]


def shows(order: Sequence[int]) -> Draw:
    """Draw by fields, each of which shows a frame of film and a bar that moves with it."""
    draw = numbered(1)

    def at(time: float) -> np.ndarray:
        number = order[min(round(time * float(2 * NTSC)), len(order) - 1)]
        picture = draw(number)
        left = number * 5 % 280
        picture[10:50, left : left + 40] = (200, 90, 30)
        return picture

    return at
