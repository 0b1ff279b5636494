"""What was foretold of runs, held against what they came to."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import datetime

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from ..core.planning import outcomes
from ..core.planning.outcomes import Error, Outcome
from ..core.planning.stored import effort_said
from ..store import past
from ..store.models import Deliverable, Run
from ..work import status
from .schemas import Out
from .services import give, services

api = APIBlueprint(
    "foretold", __name__, url_prefix="/api/foretold", abp_tags=[Tag(name="housekeeping")]
)
SHOWN = 20  # runs


class ErrorOfKind(Out):
    """How far off a figure was, over the newest runs of a kind that it is known of."""

    runs: int
    middle: float = Field(description="the median of the errors' amounts; shares of what came, dB")
    worst: float


class KindOut(Out):
    """Runs of a kind, and how far off what was foretold of them was."""

    coded: str = Field(description="what was encoded, and at which pace; empty where it was copied")
    taught: bool = Field(description="whether there are enough runs to learn from")
    size: ErrorOfKind | None
    time: ErrorOfKind | None
    quality: ErrorOfKind | None


class ForetoldFigure(Out):
    """A figure as it was foretold, and as it came: bytes, seconds, dB."""

    foretold: float
    came: float


class ForetoldRun(Out):
    """A run, and what was foretold of it."""

    run: int
    crate: int
    deliverable: int
    name: str
    coded: str
    finished_at: datetime | None
    size: ForetoldFigure
    time: ForetoldFigure | None
    quality: ForetoldFigure | None


class ForetoldOut(Out):
    """Kinds of runs, and the newest runs of all kinds; and from how many runs of a kind on their
    teaching counts.
    """

    kinds: list[KindOut]
    runs: list[ForetoldRun]
    enough: int


@api.get("", summary="What was foretold of runs, and what came", responses={200: ForetoldOut})
def page() -> Response:
    """Give how far off what was foretold was, by kind, and of the newest runs."""
    with services().database.session() as session:
        told = [(id, one) for id, one in past.finished(session) if one.foretold is not None]
        kinds: dict[str, list[Outcome]] = defaultdict(list)
        for _, one in told:
            kinds[one.effort].append(one)
        return give(
            ForetoldOut(
                kinds=[_kind(effort, mine) for effort, mine in sorted(kinds.items())],
                runs=_runs(session, told[:SHOWN]),
                enough=outcomes.ENOUGH,
            )
        )


def _kind(effort: str, mine: Sequence[Outcome]) -> KindOut:
    newest = mine[: outcomes.TAUGHT_BY]
    found = outcomes.errors(newest)
    return KindOut(
        coded=effort_said(effort),
        taught=len(newest) >= outcomes.ENOUGH,
        **{name: _error(found, name) for name in ("size", "time", "quality")},
    )


def _error(found: Mapping[str, Error], name: str) -> ErrorOfKind | None:
    error = found.get(name)
    return None if error is None else ErrorOfKind.model_validate(error)


def _runs(session: Session, told: Sequence[tuple[int, Outcome]]) -> list[ForetoldRun]:
    made_of = joinedload(Run.deliverable).joinedload(Deliverable.crate)
    wanted = select(Run).where(Run.id.in_([id for id, _ in told])).options(made_of)
    rows = {run.id: run for run in session.scalars(wanted)}
    return [_run(rows[id], one) for id, one in told]


def _run(run: Run, one: Outcome) -> ForetoldRun:
    told = one.foretold
    assert told is not None
    time = quality = None
    if one.encode is not None and one.measure is not None:
        time = ForetoldFigure(foretold=told.encode + told.measure, came=one.encode + one.measure)
    if one.quality is not None and told.quality is not None:
        quality = ForetoldFigure(foretold=told.quality, came=one.quality)
    return ForetoldRun(
        run=run.id,
        crate=run.deliverable.crate_id,
        deliverable=run.deliverable_id,
        name=status.item_name(run.deliverable),
        coded=effort_said(one.effort),
        finished_at=run.finished_at,
        size=ForetoldFigure(foretold=told.size, came=one.size),
        time=time,
        quality=quality,
    )
