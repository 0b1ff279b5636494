"""Routes that were stored, by this version or an earlier one.

Plans of earlier versions are not carried out any more; what they were stays readable.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..formats import LABELS
from ..units.parts import Exact, Part
from .plan import Plan, Route, amount_of


class _Picture(Part, extra="ignore"):
    codec: str
    width: int
    height: int
    rate: Exact
    passes: int


class _FirstPlan(Part, extra="ignore"):
    """A plan of one picture and one sound track in one file, as the first version kept it."""

    picture: _Picture
    seconds: Exact
    size_cap: int | None = None


@dataclass(frozen=True)
class Record:
    """What is told of a stored plan.

    Attributes:
        effort: what was encoded, and how (`Plan.effort`); empty where no picture was.
        work: luma samples that were encoded, counting each pass.
        cap: bytes that the file could have; None without a limit.
        samples: luma samples of all frames.
        sized_by: what its size was known by (`Plan.sized_by`).
        planned: bytes of its files; 0 where that is not told any more.
        made_as: how it was made (`Plan.made_as`).
    """

    effort: str
    work: int
    cap: int | None
    samples: int = 0
    sized_by: str = ""
    planned: int = 0
    made_as: str = ""

    @property
    def coded_as(self) -> str:
        """Give the effort in words; empty where no picture was encoded."""
        return effort_said(self.effort)


def effort_said(effort: str) -> str:
    """Give a codec's name and its pace to a reader: "H.264, faster"."""
    codec, mark, pace = effort.partition(", ")
    return f"{LABELS.get(codec, codec)}{mark}{pace}"


def is_current(plan: Mapping[str, Any]) -> bool:
    """Say whether a stored plan has this version's form."""
    return plan.get("version") == 2


def record_of(plan: Mapping[str, Any]) -> Record:
    """Read what is told of a stored plan, of whatever version."""
    if is_current(plan):
        made = Plan.model_validate(plan)
        return Record(
            made.effort,
            made.work,
            made.limits.size,
            made.samples,
            made.sized_by,
            amount_of(made).expected,
            made.made_as,
        )
    first = _FirstPlan.model_validate(plan)
    p = first.picture
    work = int(first.seconds * p.rate) * p.width * p.height * p.passes
    return Record(p.codec, work, first.size_cap)


def route_of(stored: Mapping[str, Any]) -> Route:
    """Read a stored route; one whose plan is of an earlier version has none that could be run."""
    plan = stored.get("plan")
    usable = plan is not None and is_current(plan)
    return Route.model_validate({**stored, "plan": plan if usable else None})
