"""What would make a deliverable's pictures look better at the planned rate: ordered by a person,
carried out by a worker.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from ..core import formats
from ..core.errors import AmpleError, Refused
from ..core.planning import easing
from ..core.planning.easing import Change
from ..core.planning.plan import Plan
from ..core.planning.ready import NO_PAST, Past
from ..core.planning.sampled import rated_of
from ..core.quality.hardness import POOR
from ..media import ops
from ..store.models import Deliverable
from ..store.places import Folders
from ..store.studied import Easing
from . import hardness, origins, sampling, status, studies
from .hardness import Learned, Looked
from .parts import parts
from .studies import Study, Work

FEW = 3  # stretches of each


@dataclass(frozen=True)
class Way:
    """A way to help.

    Attributes:
        change: what is chosen otherwise.
        says: in words.
        plan: what is made then.
    """

    change: Change
    says: str
    plan: Plan


def ways(deliverable: Deliverable) -> list[Way]:
    """List what may be chosen otherwise, as far as it can be made.

    Raises:
        NotFound, Refused: no rate is set of what is planned.
    """
    present = sampling.plan_of(deliverable)
    item = status.item_of(deliverable)
    assert item.route is not None
    spec = status.spec_of(deliverable.crate)
    found = []
    for change in easing.changes(spec, item.route.choices, item.route.facts):
        chosen = dict(deliverable.choices) | {change.key: change.value}
        try:
            plan = status.route_of(deliverable, spec, chosen, item.share).shown
            if plan is not None:
                rated_of(plan)
                found.append(Way(change, _says(change, plan), plan))
        except AmpleError:
            # What cannot be made is no help.
            continue
    return [one for one in found if _differs(one.plan, present)]


def _differs(plan: Plan, present: Plan) -> bool:
    return sampling.told(plan) != sampling.told(present)


def _says(change: Change, plan: Plan) -> str:
    picture = plan.picture
    assert picture is not None
    f = picture.format
    if change.kind == "frame":
        return f"a frame of {f.width} x {f.height}"
    if change.kind == "rate":
        return f"half of the frames, {float(f.rate):g} a second"
    return formats.label(plan.effort.split(",")[0])


def recipe(deliverable: Deliverable, plan: Plan) -> str:
    """Name what it is found of: the masters' bytes, and how their picture is made, its rate too."""
    told = {} if plan.picture is None else plan.picture.model_dump(mode="json")
    return studies.recipe(told, plan, origins.bytes_of(deliverable))


def _ready(session: Session, row: Easing) -> Work:
    deliverable = row.deliverable
    plan, paths = sampling.plan_of(deliverable), origins.paths(deliverable)
    found, rate = ways(deliverable), rated_of(plan).bit_rate
    known = recipe(deliverable, plan)

    def looked(folders: Folders, control: ops.Control) -> Mapping[str, Any]:
        inputs = [folders.inside(path) for path in paths]
        part = parts(control, len(found))
        rows = []
        for number, one in enumerate(found):
            seen = hardness.learn(one.plan, inputs, part(number), Looked(rate, FEW))
            rows.append([one.change.key, one.change.value, seen.as_json()])
        return {"found": {"rate": rate, "ways": rows}, "recipe": known}

    return looked


STUDY = Study(Easing, "deliverable_id", "ease", "easing", "look", _ready)


def begin(session: Session, deliverable: Deliverable) -> None:
    """Have looked at what would help, anew where that was, unless it goes on.

    Raises:
        NotFound, Refused: nothing can be chosen otherwise.
    """
    if not ways(deliverable):
        raise Refused(
            "The spec leaves no room for a smaller frame, fewer frames or another codec.",
            "Make it shorter, or ask its recipient for more room.",
        )
    STUDY.begin(session, deliverable.id)


@dataclass(frozen=True)
class Eased:
    """What a way gives at a rate.

    Attributes:
        way: that was looked at.
        near: whether the rate lies near what was tried.
        figures: by measure.
        poor: b/s from which on it is not poor; None where that lies far from what was tried.
    """

    way: Way
    near: bool
    figures: Mapping[str, float]
    poor: float | None


def found(
    row: Easing | None, deliverable: Deliverable, offered: Sequence[Way], past: Past = NO_PAST
) -> tuple[int, list[Eased]] | None:
    """Give the rate at which it was looked at, and what each way gives there, with what finished
    runs teach; None where nothing is known of what is planned now.
    """
    plan = status.shown(deliverable)
    if row is None or row.found is None or plan is None:
        return None
    if row.recipe != recipe(deliverable, plan):
        return None
    rate, kept = row.found["rate"], {(key, value): seen for key, value, seen in row.found["ways"]}
    return rate, [
        _eased(way, kept[way.change.key, way.change.value], rate, past)
        for way in offered
        if (way.change.key, way.change.value) in kept
    ]


def _eased(way: Way, kept: Mapping[str, Any], rate: int, past: Past) -> Eased:
    above = past.quality.get(way.plan.effort, 0.0)
    seen = Learned.from_json(kept, way.plan, above).hardness
    return Eased(way, seen.reaches(rate), seen.figures(rate), seen.rate_for(POOR))
