"""What a run made, held against its master frame by frame: ordered by a person, carried out by a
worker.
"""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import Cancelled, Refused
from ..media import ops
from ..store.database import AWAY, Database, tell
from ..store.models import Comparison, Run
from ..store.places import Folders
from . import logs
from .jobs import is_stopped, shown_progress
from .orders import order, withdraw
from .pairs import pair_of

UNFINISHED = frozenset({"waiting", "comparing", "stopping"})


def of(session: Session, run: Run) -> Comparison | None:
    """Give the comparison of a run, if there ever was one."""
    return session.scalar(select(Comparison).where(Comparison.run_id == run.id))


def begin(session: Session, run: Run) -> Comparison:
    """Order a comparison, anew where there was one, unless one is going on.

    Raises:
        Refused: there is nothing to compare, or the master is another by now.
    """
    pair_of(run)
    there = of(session, run)
    if there is not None and there.state in UNFINISHED:
        return there
    if there is not None:
        session.delete(there)
        session.flush()
    made = Comparison(run_id=run.id, state="waiting")
    session.add(made)
    session.flush()
    order(session, "quality", made.id)
    tell(session, "comparison", made.id)
    return made


def stop(session: Session, run: Run) -> None:
    """Stop a comparison: one that waits ends at once, one that is at work within a second.

    Raises:
        Refused: none is going on.
    """
    there = of(session, run)
    if there is None or there.state not in UNFINISHED:
        raise Refused("No comparison is going on.", "There is nothing to stop.")
    waited = there.state == "waiting" and withdraw(session, "quality", there.id)
    there.state = "cancelled" if waited else "stopping"
    tell(session, "comparison", there.id)


def carry_out(db: Database, folders: Folders, id: int) -> None:
    """Carry a comparison out; one whose worker was lost starts over."""
    with db.session() as session:
        row = session.get(Comparison, id)
        if row is None or row.state not in UNFINISHED:
            return
        if row.state != "stopping":
            row.state = "comparing"
        tell(session, "comparison", id)
    stopped = is_stopped(db, Comparison, id, lambda row: row is None or row.state == "stopping")
    control = ops.Control(shown_progress(db, Comparison, id), stopped)
    try:
        if stopped():
            raise Cancelled("The comparison was stopped.", "Start it again when you like.")
        with db.session() as session:
            pair = pair_of(session.get_one(Comparison, id).run)
        inputs = [folders.inside(path) for path in pair.inputs]
        found = ops.quality(folders.inside(pair.file), inputs, pair.plan, control)
        change = {"state": "done", "found": found.as_json(), "error": None}
    except AWAY:
        raise
    except Cancelled:
        change = {"state": "cancelled"}
    except Exception as error:
        change = {"state": "failed", "error": logs.as_error(error)}
    db.lasting(lambda session: _keep(session, id, change))


def _keep(session: Session, id: int, values: Mapping[str, object]) -> None:
    row = session.get(Comparison, id)
    if row is None:
        return
    for name, value in {**values, "progress": None, "at": datetime.now(UTC)}.items():
        setattr(row, name, value)
    tell(session, "comparison", id)
