"""Levels over time, kept small: a byte each."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Peaks = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Scale:
    """How levels are kept.

    Attributes:
        top: the highest, dB.
        step: dB from one to the next; there are 256.
    """

    top: float
    step: float

    def packed(self, levels: Sequence[float] | Peaks) -> str:
        """Pack levels, in dB, as text; what lies beyond the range is its end."""
        steps = np.rint((self.top - np.asarray(levels, np.float64)) / self.step)
        return base64.b64encode(np.clip(steps, 0, 255).astype(np.uint8).tobytes()).decode("ascii")

    def unpacked(self, text: str) -> Peaks:
        """Give packed levels, in dB."""
        steps = np.frombuffer(base64.b64decode(text), np.uint8)
        found: Peaks = self.top - self.step * steps.astype(np.float64)
        return found


LEVELS = Scale(12.0, 0.5)  # of sound, about full scale
HELD = Scale(25.5, 0.1)  # by how much it is held


def in_columns(levels: Peaks, columns: int) -> Peaks:
    """Give the highest of so many stretches of the same length; as many as there are at most."""
    if len(levels) <= columns:
        return levels
    ends = np.linspace(0, len(levels), columns + 1).astype(int)
    found: Peaks = np.maximum.reduceat(levels, ends[:-1])
    return found
