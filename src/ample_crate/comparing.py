"""`ample compare`: a finished file held against its master, taken through the route's steps."""

from __future__ import annotations

import argparse
import json
from contextlib import ExitStack
from fractions import Fraction
from typing import Any

from . import given
from .core import quality
from .core.planning.plan import Plan
from .core.quality import MEASURES, Likeness
from .media import ops
from .store import library
from .terminal import Line
from .work.deliver import plan_or_refuse


def run(args: argparse.Namespace) -> int:
    """Plan the master's way to the spec, hold the file against what that gives, and tell."""
    spec, choices = library.find(args.spec).under_any_name(), given.choices(args)
    with ExitStack() as held:
        master, file = (given.one(path, args.rate, held) for path in (args.master, args.file))
        start = ops.read_facts(file.path).value("file.start_timecode")
        facts = given.measured(master, args.json).facts
        _, plan = plan_or_refuse(facts, spec, choices, master.name, given.item(args, facts))
        inputs = given.inputs(args, master)
        line = Line()
        try:
            control = ops.Control(None if args.json else line)
            found = ops.quality(file.path, inputs, plan, control)
        finally:
            line.done()
    document = _document(found, _rate(plan), None if start is None else str(start))
    if args.json:
        print(json.dumps(document, indent=2, ensure_ascii=False))
    else:
        _say(document, file.name, master.name)
    return 0


def _rate(plan: Plan) -> Fraction:
    # What has no picture was refused when it was compared.
    assert plan.picture is not None
    return plan.picture.format.rate


def _document(found: Likeness, rate: Fraction, start: str | None) -> dict[str, Any]:
    return {
        "frames": found.frames,
        "identical": found.identical,
        "shift": found.shift,
        "rate": str(rate),
        **quality.summary(found.of_programme),
        "curve": {key: list(curve) for key, curve in found.curves.items()},
        "worst": quality.moments(found, rate, start),
        "notes": list(found.notes),
        "seconds": round(found.seconds, 3),
    }


def _say(document: dict[str, Any], file: str, master: str) -> None:
    count, same = document["frames"], document["identical"]
    print(f"{file} beside {master} through the route: {count} frames, {same} without any error")
    for key, measure in MEASURES.items():
        if key not in document:
            continue
        mean, low, least = (_figure(key, document[key][name]) for name in ("mean", "p5", "worst"))
        print(f"\n{measure.label}: mean {mean}; 19 frames of 20 reach {low}; the worst has {least}")
        print(f"  {measure.says}")
        print(f"  Source: {measure.source}.")
    if document["worst"]:
        print("\nWorst moments:")
    for moment in document["worst"]:
        figures = ", ".join(
            f"{MEASURES[key].label} {_figure(key, moment[key])}" for key in quality.HEADLINE
        )
        print(f"  {moment['timecode']}  frame {moment['frame']:<7} {figures}")
    for note in document["notes"]:
        print(f"\nNote: {note}")


def _figure(key: str, value: float) -> str:
    return f"{value:.{MEASURES[key].digits}f} {MEASURES[key].unit}".strip()
