"""What quality a rate buys of a master, on the way that is planned."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ..core import quality
from ..core.errors import NotFound
from ..core.planning.places import source_of
from ..core.planning.plan import Plan
from ..core.planning.sampled import rated_of, sampled
from ..core.quality import hardness
from ..core.quality.hardness import Curve, Flow, Hardness, Point, Stretch
from ..media import looks, ops

SHOWN = (0.25, 0.35, 0.5, 0.7, 1.0, 1.4, 2.0, 2.8, 4.0)  # of the planned rate
HARDEST = 5  # stretches that are named
FIRST = 3  # stretches that tell about which quantisers the others are tried


@dataclass(frozen=True)
class Learned:
    """What was learned.

    Attributes:
        hardness: what rates give.
        stretches: that were coded, in frames of the programme.
        frames: of each.
        of: frames of the programme.
        lead: frames of what is made that stand before it.
        rate: frames a second.
        planned: b/s of the picture.
        seconds: that it took.
    """

    hardness: Hardness
    stretches: Sequence[Stretch]
    frames: int
    of: int
    lead: int
    rate: float
    planned: int
    seconds: float

    def document(self) -> dict[str, Any]:
        """Give it as a document."""
        return {
            "measure": hardness.MEASURE,
            "points": [
                self._at(times * self.planned)
                for times in SHOWN
                if times == 1 or self.hardness.reaches(times * self.planned)
            ],
            "planned": self._at(self.planned),
            "clean": self._for(hardness.CLEAN),
            "poor": self._for(hardness.POOR),
            "hardest": [self._stretch(n) for n in self.hardness.hardest(self.planned)[:HARDEST]],
            "sampled": {
                "stretches": len(self.stretches),
                "frames": len(self.stretches) * self.frames,
                "of": self.of,
                "seconds": round(self.seconds, 3),
            },
        }

    def as_json(self) -> dict[str, Any]:
        """Give what was learned, to be kept: it holds for other rates as well."""
        return {
            "curves": [[asdict(point) for point in c.points] for c in self.hardness.curves],
            "stretches": [asdict(one) for one in self.stretches],
            "frames": self.frames,
            "seconds": self.seconds,
        }

    @staticmethod
    def from_json(document: Mapping[str, Any], plan: Plan, above: float = 0.0) -> Learned:
        """Read what was kept, for a plan that differs in its rate at most; earlier runs came out
        so many dB above what samples foretold.
        """
        encoding, picture = rated_of(plan), plan.picture
        assert picture is not None
        curves = [Curve([Point(**point) for point in points]) for points in document["curves"]]
        flow = Flow(encoding.max_rate / encoding.bit_rate, encoding.constant)
        stretches = _stretches(document)
        return Learned(
            hardness=Hardness(curves, flow, above, [one.share for one in stretches]),
            stretches=stretches,
            frames=document["frames"],
            of=plan.alone.frames,
            lead=plan.around.first,
            rate=float(picture.format.rate),
            planned=encoding.bit_rate,
            seconds=document["seconds"],
        )

    def _at(self, rate: float) -> dict[str, Any]:
        return {"bit_rate": _even(rate)} | _rounded(self.hardness.figures(rate))

    def _for(self, wanted: float) -> dict[str, Any]:
        rate = self.hardness.rate_for(wanted)
        return {"quality": wanted, "bit_rate": None if rate is None else _even(rate)}

    def _stretch(self, number: int) -> dict[str, Any]:
        share = self.hardness.shares(self.planned)[number]
        figure = self.hardness.figure(number, share)
        first = self.lead + self.stretches[number].first
        return {
            "first": first,
            "frames": self.frames,
            "seconds": round(first / self.rate, 3),
            "bit_rate": _even(share),
        } | _rounded({hardness.MEASURE: figure})


def _stretches(document: Mapping[str, Any]) -> list[Stretch]:
    # What was kept of earlier ones has their places alone: each stood for as much.
    places = document.get("places", ())
    former = [{"first": first, "share": 1 / len(places)} for first in places]
    return [Stretch(**one) for one in document.get("stretches", former)]


def _rounded(figures: dict[str, float]) -> dict[str, float]:
    return {key: round(n, quality.MEASURES[key].digits + 1) for key, n in figures.items()}


def _even(rate: float) -> int:
    """Round a rate to a thousand bits."""
    return max(1000, round(rate / 1000) * 1000)


@dataclass(frozen=True)
class Looked:
    """How closely it is looked at.

    Attributes:
        rate: b/s about which it is tried; None for the planned one.
        most: stretches.
    """

    rate: int | None = None
    most: int = hardness.MOST


def learn(
    plan: Plan,
    inputs: Sequence[Path],
    control: ops.Control,
    looked: Looked = Looked(),
) -> Learned:
    """Code stretches of what a plan makes by several quantisers, and see how good they are.

    Args:
        plan: of the whole.
        inputs: the plan's inputs.
        control: told of progress, asked whether to stop.
        looked: how closely.

    Raises:
        Refused: no rate can be set of it.
        AmpleError: it cannot be made.
    """
    whole, plan = plan, plan.alone
    encoding, began = rated_of(plan), time.monotonic()
    picture, ladder = plan.picture, encoding.model.ladder
    assert picture is not None
    frames = min(hardness.ALONE if encoding.gop == 1 else hardness.EACH, plan.frames)
    often = hardness.often(plan.passes)
    weights = _weights(plan, inputs)
    stretches = hardness.stretches(plan.frames, frames, often, weights, looked.most)
    places = [one.first for one in stretches]

    def coded(asked: Mapping[int, Sequence[int]], control: ops.Control) -> dict[int, list[Point]]:
        parts = [[sampled(plan, at, frames, one) for one in asked[at]] for at in asked]
        found = looks.stretches(inputs, parts, control)
        pairs = zip(asked.items(), found, strict=True)
        return {at: _points(quantisers, points) for (at, quantisers), points in pairs}

    middle = ladder[len(ladder) // 2]
    # How far it is counts from what comes after.
    quiet = ops.Control(cancelled=control.cancelled)
    few = sorted(stretches, key=lambda one: -one.share)[:FIRST]
    first = coded({one.first: [middle] for one in few}, quiet)
    rate = sum(one.share * first[one.first][0].rate for one in few) / sum(one.share for one in few)
    wanted = looked.rate or encoding.bit_rate
    tried = hardness.about(ladder, rate, wanted)
    # What is known by then is not coded again.
    known = first if middle in tried else {}
    wanting = {at: [one for one in tried if at not in known or one != middle] for at in places}
    found = coded(wanting, control)
    curves = [Curve([*known.get(at, []), *found[at]]) for at in places]
    kept = {
        "curves": [[asdict(point) for point in curve.points] for curve in curves],
        "stretches": [asdict(one) for one in stretches],
        "frames": frames,
        "seconds": time.monotonic() - began,
    }
    return Learned.from_json(kept, whole)


def part_of(found: Learned, plan: Plan, place: int, rate: float) -> tuple[Plan, int]:
    """Give the plan of a stretch that was looked at, as it is coded where the film has so much on
    average, and which of its frames lies at a place of what is made.

    Raises:
        NotFound: no stretch was looked at there.
    """
    ladder, at = rated_of(plan).model.ladder, place - found.lead
    for number, one in enumerate(found.stretches):
        if one.first <= at < one.first + found.frames:
            quantiser = found.hardness.quantiser(number, rate)
            within = max(min(ladder), min(max(ladder), quantiser))
            return sampled(plan.alone, one.first, found.frames, within), at - one.first
    raise NotFound("No part was looked at there.", "Look at one of the hardest parts.")


def _weights(plan: Plan, inputs: Sequence[Path]) -> list[float]:
    """Give what each frame of what is made weighs in the master; none where that is not known."""
    picture = plan.picture
    known = [] if picture is None else looks.weights(inputs[picture.input])
    sources = (source_of(plan, place) for place in range(plan.frames))
    return [float(known[min(at, len(known) - 1)]) for at in sources if known]


def _points(quantisers: Sequence[int], points: Sequence[dict[str, Any]]) -> list[Point]:
    return [
        Point(quantiser, point["rate"], point["figures"], point["seconds"])
        for quantiser, point in zip(quantisers, points, strict=True)
    ]
