"""How hard pictures are: what quality a rate buys of a film, learned from short stretches of it
that are coded by several quantisers.

An encoder that may spread its bits codes all of a film about as finely, up to the ceiling that a
second may have; one that keeps every second to the same rate gives each the same. Either way what
the film gets at a rate follows from what its stretches get.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from math import exp, log, log2

from . import strata

# Of the work of coding a film, counted in frames, what may go into stretches of it; the rest of
# what learning may cost goes into decoding and comparing them.
SHARE = Fraction(1, 10)
# Frames of a stretch: long enough for an encoder to look ahead, and to make use of frames before;
# where none leans on another a few tell as much.
EACH, ALONE = 25, 4
FEWEST, MOST = 5, 40  # stretches
TRIED = 3  # quantisers of each stretch
# Of a pass's work, what a pass takes that only looks (measured, H.264: 30 s beside 127 s).
LOOKING = Fraction(1, 4)
MEASURE = "xpsnr"
# On the scale of PSNR, as `MEASURES` says of it (common practice).
CLEAN, POOR = 45.0, 30.0
STEPS = 60  # of halving
EXACT = 0.01  # of a rate: nearer it need not be met


@dataclass(frozen=True)
class Point:
    """What a quantiser gave of a stretch.

    Attributes:
        quantiser: on the encoder's own scale; greater is coarser.
        rate: b/s.
        figures: the mean of each measure.
        seconds: that coding took; None where it was not taken down.
    """

    quantiser: int
    rate: float
    figures: Mapping[str, float]
    seconds: float | None = None


@dataclass(frozen=True)
class Flow:
    """How bits may be spread over a film.

    Attributes:
        ceiling: the most of any second, as a multiple of the rate.
        evenly: whether every second gets the same.
    """

    ceiling: float
    evenly: bool


def often(passes: int) -> Fraction:
    """Say how much more of a stretch is coded than of the film, which is made in so many passes."""
    return TRIED / (1 + (passes - 1) * LOOKING)


@dataclass(frozen=True)
class Stretch:
    """A stretch of a film that is coded.

    Attributes:
        first: its first frame.
        share: of the film that it stands for.
    """

    first: int
    share: float


def stretches(
    frames: int, each: int, coded: Fraction, weights: Sequence[float], most: int = MOST
) -> list[Stretch]:
    """Choose stretches that together stand for a film, spread over it and by how heavy it is.

    Args:
        frames: of the film.
        each: frames of a stretch.
        coded: how often each is coded, over how often the film is.
        weights: what each frame weighs in the master; none where that is not known.
        most: of them.

    Returns:
        in order.
    """
    count = min(most, max(FEWEST, int(frames * SHARE / coded / each)))
    parts = max(1, frames // each)
    starts = [n * frames // parts for n in range(parts)]
    known = weights if len(weights) >= frames else [1.0] * frames
    heavy = [sum(known[at : at + each]) / each for at in starts]
    return [
        Stretch(starts[one.typical], len(one.members) / parts)
        for one in strata.strata(heavy, count)
    ]


def about(ladder: Sequence[int], rate: float, wanted: float) -> Sequence[int]:
    """Choose quantisers whose rates lie about a wanted one.

    Args:
        ladder: quantisers, each of which leaves about half of the bytes of the one before.
        rate: that the one in the middle of them gave.
        wanted: rate.
    """
    coarser = round(log2(rate / wanted))
    place = min(max(len(ladder) // 2 + coarser, 1), len(ladder) - 2)
    return ladder[place - 1 : place + 2]


class Curve:
    """What a stretch gives: its rate over the quantiser, its quality over the rate."""

    def __init__(self, points: Sequence[Point]) -> None:
        self.points = sorted(points, key=lambda point: point.quantiser)
        self._rates = [self.points[0].rate]
        for point in self.points[1:]:
            # A coarser one that takes more is noise.
            self._rates.append(min(point.rate, self._rates[-1] * 0.999))

    @cached_property
    def _logs(self) -> list[float]:
        return [log(max(rate, 1.0)) for rate in self._rates]

    def rate(self, quantiser: float) -> float:
        """Give the rate at a quantiser, b/s."""
        return exp(_along([point.quantiser for point in self.points], self._logs, quantiser))

    def figure(self, rate: float, key: str = MEASURE) -> float:
        """Give a figure at a rate, no better than the best that a picture can have."""
        values = [point.figures[key] for point in self.points]
        found = _along(self._logs[::-1], values[::-1], log(max(rate, 1.0)))
        return min(found, 1.0) if key == "ssim" else found

    def seconds(self, rate: float) -> float | None:
        """Give what coding it at a rate takes, of what was tried nearest; None if unknown."""
        taken = [point.seconds for point in self.points]
        known = [one for one in taken if one is not None]
        if len(known) < len(taken):
            return None
        # Beyond what was tried it is not foretold: a line might fall below nothing.
        within = min(max(rate, self._rates[-1]), self._rates[0])
        return _along(self._logs[::-1], known[::-1], log(max(within, 1.0)))


def _along(places: Sequence[float], values: Sequence[float], at: float) -> float:
    """Give the value at a place, on straight lines between those known and beyond them."""
    if len(places) == 1:
        return values[0]
    n = min(max(bisect_right(places, at), 1), len(places) - 1)
    share = (at - places[n - 1]) / (places[n] - places[n - 1])
    return values[n - 1] + share * (values[n] - values[n - 1])


class Hardness:
    """What a film gives at a rate.

    Args:
        curves: of stretches.
        flow: how bits are spread over them.
        above: dB by which earlier films came out above what such curves say (`MEASURE`).
        stand: for how much of the film each stretch stands; none where all stand for as much.
    """

    def __init__(
        self,
        curves: Sequence[Curve],
        flow: Flow,
        above: float = 0.0,
        stand: Sequence[float] = (),
    ) -> None:
        self.curves = curves
        self.flow = flow
        self.above = above
        self.stand = stand or [1 / len(curves)] * len(curves)
        tried = [point.quantiser for curve in curves for point in curve.points]
        spare = (max(tried) - min(tried)) / 2
        self._range = min(tried) - spare, max(tried) + spare

    @property
    def tried(self) -> tuple[float, float]:
        """Give the least and the most that the film took where it was tried, b/s on average."""
        curves = self.curves
        ends = [(min(p.rate for p in c.points), max(p.rate for p in c.points)) for c in curves]
        least, most = zip(*ends, strict=True)
        return self._mean(least), self._mean(most)

    def _mean(self, values: Sequence[float]) -> float:
        """Give the mean over the film of what its stretches have."""
        return sum(value * share for value, share in zip(values, self.stand, strict=True))

    def shares(self, rate: float) -> list[float]:
        """Give the rate that each stretch gets where the film has so much on average, b/s."""
        if self.flow.evenly:
            return [rate] * len(self.curves)
        ceiling = rate * self.flow.ceiling

        def taken(quantiser: float) -> list[float]:
            return [min(curve.rate(quantiser), ceiling) for curve in self.curves]

        def fine(quantiser: float) -> bool:
            return self._mean(taken(quantiser)) > rate

        # Where even the finest takes less, that is all that the pictures take.
        return taken(_first(lambda at: not fine(at), *self._range))

    def quantiser(self, number: int, rate: float) -> int:
        """Give the quantiser about which a stretch is coded where the film has so much on average:
        a whole one, on the encoder's own scale.
        """
        share, curve = self.shares(rate)[number], self.curves[number]
        return round(_first(lambda at: curve.rate(at) <= share, *self._range))

    def reaches(self, rate: float) -> bool:
        """Say whether a rate lies within what was tried, or near it: there it is foretold."""
        shares = self.shares(rate)
        tried = [point.rate for curve in self.curves for point in curve.points]
        near = min(tried) / 2 <= rate <= max(tried) * 2
        return near and abs(self._mean(shares) / rate - 1) < EXACT

    def figures(self, rate: float) -> dict[str, float]:
        """Give each measure's mean over the film at a rate."""
        shares = self.shares(rate)
        pairs = list(zip(self.curves, shares, strict=True))
        return {
            key: self._mean([curve.figure(one, key) for curve, one in pairs])
            + (self.above if key == MEASURE else 0.0)
            for key in self.curves[0].points[0].figures
        }

    def slower(self, rate: float, than: float) -> float | None:
        """Give how many times as long as at a rate coding takes at another; None if unknown."""
        here, there = self._seconds(rate), self._seconds(than)
        return here / there if here and there else None

    def _seconds(self, rate: float) -> float | None:
        pairs = zip(self.curves, self.shares(rate), strict=True)
        taken = [curve.seconds(share) for curve, share in pairs]
        known = [one for one in taken if one is not None]
        return self._mean(known) if len(known) == len(taken) else None

    def rate_for(self, wanted: float, key: str = MEASURE) -> float | None:
        """Give the rate at which a measure reaches a figure, b/s; None where that lies far from
        what was tried.
        """
        rates = [point.rate for curve in self.curves for point in curve.points]
        low, high = min(rates) / 2, max(rates) * 2
        if not self.figures(low)[key] <= wanted <= self.figures(high)[key]:
            return None
        return exp(_first(lambda at: self.figures(exp(at))[key] >= wanted, log(low), log(high)))

    def figure(self, number: int, share: float) -> float:
        """Give what a stretch is like at a rate of its own."""
        return self.curves[number].figure(share) + self.above

    def hardest(self, rate: float) -> list[int]:
        """List the stretches by how good they are at a rate, the worst first."""
        found = [
            curve.figure(one) for curve, one in zip(self.curves, self.shares(rate), strict=True)
        ]
        return sorted(range(len(found)), key=found.__getitem__)


def _first(true: Callable[[float], bool], low: float, high: float) -> float:
    """Give the first place from which on something is true, between two."""
    for _ in range(STEPS):
        middle = (low + high) / 2
        if true(middle):
            high = middle
        else:
            low = middle
    return high
