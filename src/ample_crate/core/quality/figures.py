"""How near a deliverable stays to what its route gives of the master: figures of every frame, what
each means, and where they are worst.

The figures come from `media.quality`; here is what is made of them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import ceil
from typing import Any, NamedTuple

from ..errors import BadValue
from ..units import timecode

ALIKE = 100.0  # dB: what is given for this and more, and for frames without any error
LOWEST = 0.05  # the share of frames that a low percentile leaves below it
MOST_MOMENTS = 12


@dataclass(frozen=True)
class Measure:
    """A figure of likeness.

    Attributes:
        key, label, unit: what it is called.
        digits: after the point, as far as it tells anything.
        says: what it means, in words.
        source: where it is defined.
    """

    key: str
    label: str
    unit: str
    digits: int
    says: str
    source: str


MEASURES = {
    measure.key: measure
    for measure in (
        Measure(
            "psnr",
            "PSNR",
            "dB",
            2,
            "The luma's error against its full scale, sample by sample; what an eye forgives "
            "counts as much as what it sees. Above 45 dB hardly anything shows, below 30 dB "
            "most things do (common practice).",
            "10 log10 of the squared full scale over the mean squared error",
        ),
        Measure(
            "ssim",
            "SSIM",
            "",
            4,
            "How much of the luma's structure is kept, window by window: 1 is all of it. Below "
            "0.95 loss shows on most pictures (common practice).",
            "Wang, Bovik, Sheikh and Simoncelli, IEEE Transactions on Image Processing 13 (4), "
            "2004",
        ),
        Measure(
            "xpsnr",
            "XPSNR",
            "dB",
            2,
            "PSNR of the luma in which error counts less where the picture is busy or moves, as "
            "it does to an eye. The worst moments are found by it.",
            "Helmrich, Bosse, Schwarz, Marpe and Wiegand, IEEE ICASSP 2020",
        ),
        Measure(
            "colour",
            "PSNR of colour",
            "dB",
            2,
            "The error of the colour difference planes, of the two the one that suffers more.",
            "as PSNR, of Cb and Cr",
        ),
        Measure(
            "alpha",
            "PSNR of transparency",
            "dB",
            2,
            "The error of the transparency, sample by sample.",
            "as PSNR, of alpha",
        ),
        Measure(
            "blocks",
            "smooth across blocks",
            "",
            3,
            "Steps within blocks of 8 samples over those at their borders, against the same of "
            "what went in: 1 is no more than there was, 0.5 twice as much. One frame in ten is "
            "looked at.",
            "own measure, after Wu and Yuen, IEEE Signal Processing Letters 4 (11), 1997 (from "
            "memory)",
        ),
        Measure(
            "gradients",
            "gentle slopes kept",
            "",
            3,
            "Of the parts that slope gently, how much has not become flat where it was not: what "
            "is lost there shows as bands, or as a picture without grain. One frame in ten is "
            "looked at.",
            "own measure",
        ),
    )
}
# Every comparison has these.
HEADLINE = ("psnr", "ssim", "xpsnr")
RANKED = "xpsnr"

Curves = Mapping[str, Sequence[float]]


class Figures(NamedTuple):
    """A measure over all frames: their mean, what all but one frame in twenty reach, and the
    worst.
    """

    mean: float
    p5: float
    worst: float

    def rounded(self, digits: int) -> dict[str, float]:
        """Give them as JSON."""
        return {name: round(value, digits) for name, value in self._asdict().items()}


def figures(values: Sequence[float]) -> Figures:
    """Sum a curve up; the percentile is the value of a frame (nearest rank), not between two.

    Args:
        values: one a frame, at least one.
    """
    ordered = sorted(values)
    place = max(1, ceil(LOWEST * len(ordered))) - 1
    return Figures(sum(values) / len(values), ordered[place], ordered[0])


def worst(curves: Curves, apart: int, most: int = MOST_MOMENTS) -> list[int]:
    """List the frames at which a picture suffers most, worst first: each is the worst of the frames
    about it, and below the mean.

    Args:
        curves: of a comparison.
        apart: frames between two of them at least.
        most: how many at most.
    """
    curve = curves[RANKED]
    if not curve:
        return []
    mean = sum(curve) / len(curve)
    found: list[int] = []
    for frame in sorted(range(len(curve)), key=lambda n: (curve[n], n)):
        if curve[frame] >= mean or len(found) == most:
            break
        if all(abs(frame - other) >= apart for other in found):
            found.append(frame)
    return found


def moments(found: Likeness, rate: Fraction, start: str | None) -> list[dict[str, Any]]:
    """List the worst moments, worst first, at least a second apart: {frame, timecode} and the value
    of each measure.

    Args:
        found: by a comparison.
        rate: of the file, frames a second.
        start: the label of its first frame; counted from 0 where there is none, or where it does
            not exist at this rate.
    """
    first, drop = _first(start, rate)
    listed = []
    for place in worst(found.curves, max(1, round(rate))):
        frame = found.of_file(place)
        label = timecode.show(first + frame, rate, drop)
        listed.append({"frame": frame, "timecode": label, **found.at(place)})
    return listed


def _first(start: str | None, rate: Fraction) -> tuple[int, bool]:
    """Read the label of a first frame; what is none at this rate is not counted from."""
    try:
        return (0, False) if start is None else (timecode.read(start, rate), ";" in start)
    except BadValue:
        return 0, False


def lows(curve: Sequence[float], most: int) -> list[float]:
    """Give a curve in so many points at most: of each stretch of frames the lowest value."""
    each = stretch(len(curve), most)
    return [min(curve[at : at + each]) for at in range(0, len(curve), each)]


def stretch(frames: int, most: int) -> int:
    """Give how many frames each point of a curve of so many points at most stands for."""
    return max(1, ceil(frames / most))


def summary(curves: Curves) -> dict[str, dict[str, float]]:
    """Give the figures of each measure that there is, by its key."""
    return {
        key: figures(curves[key]).rounded(measure.digits + 1)
        for key, measure in MEASURES.items()
        if curves.get(key)
    }


@dataclass(frozen=True)
class Likeness:
    """What a comparison found.

    Attributes:
        curves: by measure, a value a frame.
        identical: frames that have no error at all, in any plane.
        shift: frames that the file begins later than the route; below 0 earlier.
        notes: what else is to be said.
        seconds: that it took.
        programme: the first of the frames, and the one after the last, between what stands before a
            programme and after it; None for all.
    """

    curves: Curves
    identical: int
    shift: int
    notes: tuple[str, ...]
    seconds: float
    programme: tuple[int, int] | None = None

    @property
    def of_programme(self) -> Curves:
        """Give the curves of the programme alone: bars and black are coded without any loss, and
        would have it look better than it is.
        """
        if self.programme is None:
            return self.curves
        first, end = self.programme
        within = {key: curve[first:end] for key, curve in self.curves.items()}
        return within if within[RANKED] else self.curves

    @property
    def frames(self) -> int:
        """Count the frames that were compared."""
        return len(self.curves[RANKED])

    def of_file(self, place: int) -> int:
        """Give the frame of the file that a place of the curves belongs to."""
        return place + max(0, self.shift)

    def at(self, place: int) -> dict[str, float]:
        """Give the figures of one frame."""
        return {key: curve[place] for key, curve in self.curves.items()}

    def as_json(self) -> dict[str, Any]:
        """Give it as JSON."""
        return {
            "curves": {key: list(curve) for key, curve in self.curves.items()},
            "identical": self.identical,
            "shift": self.shift,
            "notes": list(self.notes),
            "seconds": self.seconds,
            "programme": self.programme,
        }

    @classmethod
    def from_json(cls, found: Mapping[str, Any]) -> Likeness:
        """Read it back."""
        programme = found.get("programme")
        return cls(
            found["curves"],
            found["identical"],
            found["shift"],
            tuple(found["notes"]),
            found["seconds"],
            None if programme is None else (programme[0], programme[1]),
        )
