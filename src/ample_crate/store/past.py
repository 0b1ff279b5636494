"""What is kept of finished runs that teaches of those to come."""

from __future__ import annotations

import json
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

from sqlalchemy import Row, Select, select
from sqlalchemy.orm import Session

from ..core.planning import outcomes, stored
from ..core.planning.outcomes import Foretold, Outcome
from ..core.planning.ready import Past
from .models import Run
from .studied import Comparison

LOOKED_AT = 120  # of the newest runs


def past(session: Session) -> Past:
    """Say what the newest finished runs teach of those to come."""
    return outcomes.taught(one for _, one in finished(session))


def finished(session: Session, most: int = LOOKED_AT) -> Sequence[tuple[int, Outcome]]:
    """List the newest finished runs, by their numbers; what is gone or not of this kind is left
    out.
    """
    made = [(row.id, _outcome(row)) for row in session.execute(_query(most))]
    return [(id, one) for id, one in made if one is not None]


def _query(most: int) -> Select[Any]:
    return (
        select(
            Run.id,
            Run.route["plan"].astext.label("plan"),
            Run.master_sha256,
            Run.size,
            Run.encode_seconds,
            Run.measure_seconds,
            Run.workers,
            Run.foretold,
            Comparison.mean,
        )
        .outerjoin(Comparison, Comparison.run_id == Run.id)
        .where(Run.state == "done")
        .order_by(Run.id.desc())
        .limit(most)
    )


def _outcome(row: Row[Any]) -> Outcome | None:
    if row.plan is None or row.size is None:
        return None
    record = _record(row.plan)
    return Outcome(
        effort=record.effort,
        work=record.work,
        looked=record.samples,
        sized_by=record.sized_by,
        made_of=row.master_sha256 or "",
        planned=record.planned,
        size=row.size,
        encode=row.encode_seconds if row.workers == 1 else None,
        measure=row.measure_seconds,
        quality=row.mean,
        made_as=record.made_as,
        foretold=None if row.foretold is None else Foretold(**row.foretold),
    )


@lru_cache(maxsize=2 * LOOKED_AT)
def _record(plan: str) -> stored.Record:
    """Read what is told of a plan; plans of the past do not change."""
    return stored.record_of(json.loads(plan))
