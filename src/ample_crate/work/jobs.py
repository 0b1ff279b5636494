"""What all tasks share: progress that is shown, rows that change, and a stop."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from typing import Any

import procrastinate
from sqlalchemy.orm import Session

from ..store import masters
from ..store.database import AWAY, Database, tell
from ..store.models import Crate, Master, Run, Segment
from ..store.studied import CodecTrial, Comparison, Easing, Hearing, Rehearsal, Sampling, Viewing
from . import kept, running
from .orders import TASKS
from .tools import Tools

log = logging.getLogger(__name__)
TOLD_EVERY = 0.5  # seconds
HELD = {"key_share": True}  # against others who change a row, not against those who refer to it
Tell = Callable[[dict[str, Any]], None]
StudyTable = (
    type[Comparison]
    | type[Sampling]
    | type[Hearing]
    | type[Rehearsal]
    | type[Viewing]
    | type[CodecTrial]
    | type[Easing]
)


def tools_of(context: procrastinate.JobContext) -> Tools:
    """Give what a worker lends its tasks."""
    tools = context.additional_context["tools"]
    assert isinstance(tools, Tools)
    return tools


def queue_of(task: str) -> str:
    """Name the queue of a task."""
    return TASKS[task][0]


def paced(report: Tell) -> Tell:
    """Give what tells of progress twice a second at most."""
    last = [0.0]

    def pace(body: dict[str, Any]) -> None:
        now = time.monotonic()
        if now - last[0] >= TOLD_EVERY:
            last[0] = now
            report(body)

    return pace


def shown_progress(
    db: Database,
    table: type[Master] | type[Run] | StudyTable,
    id: int,
    unless: Callable[[Any], bool] | None = None,
) -> Tell:
    """Give what shows progress with a row; while the database is away nobody sees it, and the work
    goes on.
    """

    def report(body: dict[str, Any]) -> None:
        try:
            with db.session() as session:
                _show(session, table, id, unless, body)
        except AWAY:
            log.warning("the database is away; the work goes on")

    return paced(report)


def _show(
    session: Session,
    table: type[Master] | type[Run] | StudyTable,
    id: int,
    unless: Callable[[Any], bool] | None,
    body: dict[str, Any],
) -> None:
    row: Any = session.get(table, id, with_for_update=HELD)
    if row is not None and not (unless and unless(row)):
        row.progress = body
        tell(session, table.__tablename__, id, progress=body)


def change(
    db: Database,
    table: type[Master] | type[Run] | type[Crate],
    id: int,
    unless: Callable[[Any], bool] | None = None,
    **values: Any,
) -> None:
    """Change a row, unless something about it forbids that, and tell everyone."""
    db.lasting(lambda session: _change(session, table, id, unless, values))


def _change(
    session: Session,
    table: type[Master] | type[Run] | type[Crate],
    id: int,
    unless: Callable[[Any], bool] | None,
    values: dict[str, Any],
) -> None:
    row = session.get(table, id, with_for_update=HELD)
    if row is None or (unless and unless(row)):
        return
    for name, value in values.items():
        setattr(row, name, value)
    if isinstance(row, Master) and values.keys() & {"facts", "state", "notes"}:
        masters.recard(row)
    if isinstance(row, Master) and values.get("state") in {"ready", "failed"}:
        session.flush()
        running.advance_those_with(session, id)
    if not isinstance(row, Master) or values.keys() & {"facts", "state", "notes"}:
        kept.keep(session, table.__tablename__, id)
    tell(session, table.__tablename__, id)


def is_stopped(
    db: Database,
    table: type[Master] | type[Run] | type[Segment] | StudyTable,
    id: int,
    stop: Callable[[Any], bool],
) -> Callable[[], bool]:
    """Give what says whether a person stopped the work on a row; nobody can while the database is
    away.
    """

    def stopped() -> bool:
        try:
            with db.session() as session:
                return stop(session.get(table, id))
        except AWAY:
            return False

    return stopped
