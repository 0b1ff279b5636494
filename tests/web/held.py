"""What a worker finds out, put into a state while no worker takes it up."""

from __future__ import annotations

from sqlalchemy import text

from ample_crate.work.orders import order
from ample_crate.work.studies import Study
from support import Installation

LATER = text(
    "update procrastinate_jobs set scheduled_at = now() + interval '1 day' "
    "where task_name = :task and status = 'todo' and (args->>'id')::bigint = :id"
)


def held(installation: Installation, study: Study, owner: int, state: str, **asked: object) -> int:
    """Put a row of a study into a state; its job waits, so that no worker takes it up meanwhile."""
    with installation.database.session() as session:
        made = study.table(**{study.owner: owner}, state=state, **asked)
        session.add(made)
        session.flush()
        order(session, study.task, made.id)
        named = {"id": made.id, "task": f"ample:{study.task}"}
        assert session.execute(LATER, named).rowcount == 1  # type: ignore[attr-defined]
        return made.id
