"""The display that HDR was graded on (SMPTE ST 2086), and how bright it gets (CTA-861.3)."""

from __future__ import annotations

import re
from fractions import Fraction
from typing import NamedTuple

Point = tuple[Fraction, Fraction]


def _points(*figures: str) -> tuple[Point, ...]:
    numbers = [Fraction(figure) for figure in figures]
    return tuple(zip(numbers[::2], numbers[1::2], strict=True))


D65 = ("0.3127", "0.3290")
# Chromaticities x and y of red, green, blue and white: ITU-R BT.709, BT.2020, SMPTE RP 431-2.
KNOWN = {
    "BT.709": _points("0.64", "0.33", "0.30", "0.60", "0.15", "0.06", *D65),
    "BT.2020": _points("0.708", "0.292", "0.170", "0.797", "0.131", "0.046", *D65),
    "P3-D65": _points("0.680", "0.320", "0.265", "0.690", "0.150", "0.060", *D65),
}
# Steps in which streams state them.
CHROMATICITY, LUMINANCE = 50_000, 10_000
FIGURE = r"([0-9.]+)"
LIGHT = f"{FIGURE} to {FIGURE} cd/m2"
LISTED = f"R {FIGURE} {FIGURE} G {FIGURE} {FIGURE} B {FIGURE} {FIGURE} white {FIGURE} {FIGURE}"
LEVEL = "brightest sample {} cd/m2, frame average {} cd/m2"


class Mastering(NamedTuple):
    """A display: chromaticities of red, green, blue and white, and its luminance in cd/m2."""

    points: tuple[Point, ...]
    least: Fraction
    most: Fraction

    def words(self) -> str:
        """Say it: "0.005 to 1000 cd/m2, P3-D65"; other chromaticities are listed."""
        # Codecs have other steps; 0.0001 cd/m2 are the standard's own.
        least, most = (round(light * LUMINANCE) / LUMINANCE for light in (self.least, self.most))
        light = f"{least:g} to {most:g} cd/m2"
        return f"{light}, {self._colours()}"

    def _colours(self) -> str:
        for name, points in KNOWN.items():
            if all(_near(a, b) for a, b in zip(points, self.points, strict=True)):
                return name
        said = (
            f"{letter} {float(x):g} {float(y):g}"
            for letter, (x, y) in zip(("R", "G", "B", "white"), self.points, strict=True)
        )
        return " ".join(said)

    @classmethod
    def read(cls, text: str) -> Mastering | None:
        """Read what `words` says; None where it is something else."""
        light, _, colours = text.partition(", ")
        range_ = re.fullmatch(LIGHT, light)
        listed = re.fullmatch(LISTED, colours)
        points = _points(*listed.groups()) if listed else KNOWN.get(colours)
        if range_ is None or points is None:
            return None
        return cls(points, Fraction(range_[1]), Fraction(range_[2]))


def _near(one: Point, other: Point) -> bool:
    """Say whether two points are the same in the steps of a stream."""
    return all(abs(a - b) * CHROMATICITY <= 1 for a, b in zip(one, other, strict=True))


def light_level(most: int, average: int) -> str:
    """Say how bright the brightest sample is, and the brightest frame on average, in cd/m2."""
    return LEVEL.format(most, average)


def levels_read(text: str) -> tuple[int, int] | None:
    """Read what `light_level` says; None where it is something else."""
    found = re.fullmatch(LEVEL.format("([0-9]+)", "([0-9]+)"), text)
    return (int(found[1]), int(found[2])) if found else None
