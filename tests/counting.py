"""Films whose frames carry their own numbers, and the numbers read back."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

SIZE, BITS = (320, 180), 9


def numbered(rate: Fraction | int = 25) -> Callable[[float], np.ndarray]:
    def draw(time: float) -> np.ndarray:
        number, (width, height) = round(time * float(rate)), SIZE
        frame = np.full((height, width, 3), 40, np.uint8)
        for bit in range(BITS):
            if number >> bit & 1:
                frame[:, bit * width // BITS : (bit + 1) * width // BITS] = 215
        return frame

    return draw


def number_in(row: np.ndarray) -> int:
    """Read the number in a line of luma samples."""
    width = len(row)
    lit = (row[(2 * bit + 1) * width // (2 * BITS)] > 128 for bit in range(BITS))
    return sum(1 << bit for bit, on in enumerate(lit) if on)


def numbers(path: Path) -> list[int]:
    """Read the numbers back out of a file's frames."""
    return [upper for upper, _ in fields(path)]


def fields(path: Path) -> list[tuple[int, int]]:
    """Read the numbers back out of a file's fields: of each frame those of the upper and the lower
    one.
    """
    found = []
    with av.open(str(path)) as container:
        for frame in container.decode(video=0):
            gray, middle = frame.to_ndarray(format="gray"), frame.height // 4 * 2
            found.append((number_in(gray[middle]), number_in(gray[middle + 1])))
    return found
