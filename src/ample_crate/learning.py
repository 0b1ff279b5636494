"""`ample plan --hard`: what quality a rate buys of this master, on the way that is planned."""

from __future__ import annotations

import argparse
from typing import Any

from . import given
from .core import quality
from .core.planning.plan import Plan
from .core.quality.hardness import MEASURE
from .core.units.values import show_bit_rate
from .given import Given
from .media import ops
from .terminal import Line
from .work import hardness

WORDS = {
    "clean": "hardly any loss shows from {rate} on",
    "poor": "below {rate} most things show loss",
}


def document(args: argparse.Namespace, one: Given, plan: Plan) -> dict[str, Any]:
    """Learn how hard the pictures are, and give it as a document.

    Raises:
        Refused: no rate can be set of what is planned.
        AmpleError: it cannot be made.
    """
    line = Line()
    try:
        control = ops.Control(None if args.json else line)
        return hardness.learn(plan, given.inputs(args, one), control).document()
    finally:
        line.done()


def say(found: dict[str, Any]) -> None:
    """Tell it to a person."""
    part = found["sampled"]
    print(
        f"\nHow hard these pictures are, foretold from {part['frames']} of {part['of']} frames in "
        f"{part['seconds']:.0f} s:"
    )
    for point in found["points"]:
        mark = "  as planned" if point["bit_rate"] == found["planned"]["bit_rate"] else ""
        print(f"  {show_bit_rate(point['bit_rate']):>12}  {_figures(point)}{mark}")
    for name, words in WORDS.items():
        zone = found[name]
        if zone["bit_rate"] is not None:
            label = quality.MEASURES[MEASURE].label
            said = words.format(rate=show_bit_rate(zone["bit_rate"]))
            print(f"  {said} ({label} {zone['quality']:g} dB)")
    for part in found["hardest"][:1]:
        print(f"  hardest: {part['frames']} frames from frame {part['first']}: {_figures(part)}")


def _figures(point: dict[str, Any]) -> str:
    return ", ".join(
        f"{quality.MEASURES[key].label} {point[key]:.{quality.MEASURES[key].digits}f}"
        for key in quality.HEADLINE
        if key in point
    )
