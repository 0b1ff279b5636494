"""What is kept of finished runs that teaches of those to come."""

from __future__ import annotations

import json
from collections.abc import Sequence
from threading import Lock
from typing import Any

from sqlalchemy import Row, Select, func, select
from sqlalchemy.orm import Session

from ..core.planning import outcomes, stored
from ..core.planning.outcomes import Foretold, Outcome
from ..core.planning.ready import Past
from .models import Run
from .studied import Comparison

LOOKED_AT = 120  # of the newest runs
KNOWN = 20 * LOOKED_AT
PLAN = Run.route["plan"].astext
# Plans are long, and those of the past do not change: each is read once.
_known: dict[str, stored.Record] = {}
_one_at_a_time = Lock()


def past(session: Session) -> Past:
    """Say what the newest finished runs teach of those to come."""
    return outcomes.taught(one for _, one in finished(session))


def finished(session: Session, most: int = LOOKED_AT) -> Sequence[tuple[int, Outcome]]:
    """List the newest finished runs, by their numbers; what is gone or not of this kind is left
    out.
    """
    rows = session.execute(_query(most)).all()
    known = records(session, [(row.id, row.digest) for row in rows if row.digest])
    return [(row.id, _outcome(row, known[row.id])) for row in rows if row.id in known]


def _query(most: int) -> Select[Any]:
    return (
        select(
            Run.id,
            func.md5(PLAN).label("digest"),
            Run.master_sha256,
            Run.size,
            Run.encode_seconds,
            Run.measure_seconds,
            Run.workers,
            Run.foretold,
            Comparison.mean,
        )
        .outerjoin(Comparison, Comparison.run_id == Run.id)
        .where(Run.state == "done", Run.size.is_not(None))
        .order_by(Run.id.desc())
        .limit(most)
    )


def records(session: Session, wanted: Sequence[tuple[int, str]]) -> dict[int, stored.Record]:
    """Give what is told of runs' plans; one that was read before is known by its digest.

    Args:
        session: reads the others.
        wanted: runs by their numbers, each with the digest of its plan (`PLAN`).
    """
    with _one_at_a_time:
        missing = [id for id, digest in wanted if digest not in _known]
        if missing:
            digests = dict(wanted)
            for id, plan in session.execute(select(Run.id, PLAN).where(Run.id.in_(missing))):
                _known[digests[id]] = stored.record_of(json.loads(plan))
        found = {id: _known[digest] for id, digest in wanted if digest in _known}
        while len(_known) > KNOWN:
            del _known[next(iter(_known))]
    return found


def _outcome(row: Row[Any], record: stored.Record) -> Outcome:
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
