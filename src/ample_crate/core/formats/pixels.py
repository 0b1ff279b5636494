"""How the samples of a picture lie."""

from __future__ import annotations

from typing import NamedTuple

Y20 = frozenset({"4:2:0"})
Y22_ALONE = frozenset({"4:2:2"})
Y24_ALONE = frozenset({"4:4:4"})
RGB = "R'G'B'"
FINENESS = {"4:2:0": 0, "4:2:2": 1, "4:4:4": 2, RGB: 2}
Y22 = Y20 | Y22_ALONE
Y24 = Y22 | Y24_ALONE


class Pixels(NamedTuple):
    """How the samples of a picture lie: chroma ("R'G'B'" for none), bits a sample, transparency."""

    chroma: str
    depth: int
    alpha: bool = False

    def __str__(self) -> str:
        return f"{self.chroma}, {self.depth} bit{' with alpha' if self.alpha else ''}"
