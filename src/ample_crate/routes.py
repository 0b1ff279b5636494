"""A route, and findings, as the command line tells them to a person, and a route as a document."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, TextIO

from .core.finding import Finding
from .core.planning.plan import Plan, Route
from .core.planning.ready import Ready
from .core.units.values import show_bytes

MARKS = {
    "meets": "[meets]   ",
    "breaks": "[BREAKS]  ",
    "advice": "[advice]  ",
    "unproven": "[unproven]",
}


def say(route: Route, file: TextIO) -> None:
    """Print the steps of a route and what is to be known of it."""
    for step in route.steps:
        print(f"  - {step.title}: {step.reason}", file=file)
    for caution in route.cautions:
        said = f"{caution.what} {caution.figures}. {caution.way_out}"
        print(f"  {'X' if caution.blocks else '!'} {said}", file=file)


def rows(findings: Sequence[Finding]) -> None:
    """Print findings, and of those that do not simply meet why."""
    for finding in findings:
        print(
            f"{MARKS[finding.verdict]} {finding.property:24} asked {finding.asked:28} found "
            f"{finding.found or '-'}"
        )
        if finding.verdict != "meets":
            print(f"           {finding.why}")


def outcome(route: Route, plan: Plan, time: Ready) -> str:
    """Say what a route would give: the file's name, its size, the time that it takes."""
    size = show_bytes(route.size)
    if route.least is not None and route.most is not None:
        size += f" ({show_bytes(route.least)} to {show_bytes(route.most)})"
    return f"{plan.outcome}: about {size}, {time.total:.0f} s to make and measure"


def document(route: Route, time: Ready | None) -> dict[str, Any]:
    """Give a route as a document: its reasons, and what it would give."""
    return {
        "file": None if route.plan is None else route.plan.outcome,
        "steps": [s.model_dump() for s in route.steps],
        "cautions": [c.model_dump() for c in route.cautions],
        "choices": route.choices,
        "size": {"least": route.least, "expected": route.size, "most": route.most},
        "seconds": None
        if time is None
        else {"encode": round(time.encode, 3), "measure": round(time.measure, 3)},
        "facts": route.predicted,
    }
