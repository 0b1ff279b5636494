"""How hard the pictures of a deliverable are: ordered by a person, carried out by a worker."""

from __future__ import annotations

from collections.abc import Mapping
from math import ceil, floor
from typing import Any

from sqlalchemy.orm import Session

from ..core.errors import NotFound
from ..core.ledger import holds
from ..core.planning import stored
from ..core.planning.plan import Plan
from ..core.planning.ready import NO_PAST, Past
from ..core.planning.sampled import rated_of
from ..core.quality.hardness import MEASURE
from ..core.specs.rules import bounds
from ..media import ops
from ..store.models import Deliverable, Run
from ..store.places import Folders
from ..store.studied import Sampling
from . import hardness, origins, status, studies
from .hardness import Learned
from .status import ItemStatus
from .studies import Study, Work

RATE = "picture.bit_rate"
# What a rate may be changed by without another look at the pictures.
OF_THE_RATE = {"bit_rate", "max_rate", "buffer", "level", "passes", "constant", "named", "coarsest"}


def plan_of(deliverable: Deliverable) -> Plan:
    """Give the plan of a deliverable whose rate can be chosen.

    Raises:
        NotFound: there is none yet.
        Refused: no rate is set of it.
    """
    plan = status.shown(deliverable)
    if plan is None:
        raise NotFound("There is no route yet.", "See what the page says is missing.")
    rated_of(plan)
    return plan


def recipe(deliverable: Deliverable, plan: Plan) -> str:
    """Name what hardness is learned of: the masters' bytes, and how their picture is made, whatever
    its rate.
    """
    return studies.recipe(told(plan), plan, origins.bytes_of(deliverable))


def told(plan: Plan) -> dict[str, Any]:
    """Tell how a plan's picture is made, whatever its rate."""
    picture = plan.picture
    # What is burnt in is too little to count.
    said = {} if picture is None else picture.model_dump(mode="json", exclude={"burnt"})
    if picture is not None and picture.rated is not None:
        said["encoding"] = picture.rated.model_dump(mode="json", exclude=OF_THE_RATE)
    return said


def _ready(session: Session, row: Sampling) -> Work:
    deliverable = row.deliverable
    plan, paths = plan_of(deliverable), origins.paths(deliverable)
    known = recipe(deliverable, plan)

    def learned(folders: Folders, control: ops.Control) -> Mapping[str, Any]:
        inputs = [folders.inside(path) for path in paths]
        found = hardness.learn(plan, inputs, control)
        return {"found": found.as_json(), "recipe": known}

    return learned


STUDY = Study(Sampling, "deliverable_id", "sample", "sampling", "sampling", _ready)


def begin(session: Session, deliverable: Deliverable) -> None:
    """Have learned how hard a deliverable's pictures are, anew where that was, unless it goes on.

    Raises:
        NotFound, Refused: there is nothing to learn.
    """
    plan_of(deliverable)
    STUDY.begin(session, deliverable.id)


def learned(row: Sampling | None, deliverable: Deliverable, past: Past = NO_PAST) -> Learned | None:
    """Give what was learned, seen from the present plan and with what finished runs teach; None
    where that is not known, or was learned of another picture.
    """
    plan = status.shown(deliverable)
    if plan is None:
        return None
    return _seen_from(plan, row, deliverable, past.quality.get(plan.effort, 0.0))


def foretold(session: Session, run: Run) -> Mapping[str, float]:
    """Give what was foretold of a run's quality, by measure; empty where nothing was."""
    plan = stored.route_of(run.route).plan
    row: Sampling | None = STUDY.of(session, run.deliverable_id)
    if plan is None or origins.bytes_of(run.deliverable) != run.master_sha256:
        return {}
    found = _seen_from(plan, row, run.deliverable)
    if found is None or not found.hardness.reaches(found.planned):
        return {}
    told = (run.foretold or {}).get("quality")
    own = {} if told is None else {MEASURE: told}
    return found.hardness.figures(found.planned) | own


def _seen_from(
    plan: Plan, row: Sampling | None, deliverable: Deliverable, above: float = 0.0
) -> Learned | None:
    if row is None or row.found is None or plan.rated is None:
        return None
    if row.recipe != recipe(deliverable, plan):
        return None
    return Learned.from_json(row.found, plan, above)


def allowed(item: ItemStatus) -> tuple[int | None, int | None]:
    """Give the least and the most rate that the spec takes of what is planned, b/s."""
    if item.route is None:
        return None, None
    tests = status.asked_of(item).tests
    facts = item.route.facts
    mine = [t for t in tests if t.key == RATE and (t.when is None or holds(facts, t.when))]
    ends = [found for test in mine if (found := bounds(test.requirement)) is not None]
    least = max((low for low, _ in ends if low is not None), default=None)
    most = min((high for _, high in ends if high is not None), default=None)
    return None if least is None else ceil(least), None if most is None else floor(most)
