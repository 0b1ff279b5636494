"""What is foretold of a run when it is ordered, kept to be held against what came."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from sqlalchemy.orm import Session

from ..core.planning import ready
from ..core.planning.outcomes import Foretold
from ..core.quality.hardness import MEASURE
from ..store.past import past
from . import origins, sampling
from .status import ItemStatus


def foretold(session: Session, one: ItemStatus) -> dict[str, Any] | None:
    """Say what is foretold of an item that is about to be run; None where it has no plan."""
    route = one.route
    plan = None if route is None else route.plan
    if route is None or plan is None:
        return None
    known, made_of = past(session), origins.bytes_of(one.deliverable) or ""
    size = known.size(route.size, plan.sized_by, made_of, plan.made_as)
    copied = 0 if plan.work else size
    encode = ready.encode_seconds(plan.effort, plan.work, known, plan.made_as)
    row = sampling.STUDY.of(session, one.deliverable.id)
    found = sampling.learned(row, one.deliverable)
    sampled = None
    if found is not None and found.hardness.reaches(found.planned):
        sampled = found.hardness.figures(found.planned)[MEASURE]
    return asdict(
        Foretold(
            size=size,
            encode=encode + ready.copy_seconds(copied),
            measure=ready.measure_seconds(plan.samples, plan.effort, known),
            sampled=sampled,
            quality=None if sampled is None else sampled + known.quality.get(plan.effort, 0.0),
        )
    )
