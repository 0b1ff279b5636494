"""What a worker finds out when a person asks: ordered once, stopped, carried out, kept with what it
was found of.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import Cancelled, Refused
from ..core.planning.plan import Plan
from ..media import ops
from ..store.database import AWAY, Database, tell
from ..store.places import Folders
from ..store.studied import (
    CodecTrial,
    Comparison,
    Easing,
    Hearing,
    Rehearsal,
    Sampling,
    Viewing,
)
from . import logs
from .jobs import is_stopped, shown_progress
from .orders import order, withdraw

Row = Comparison | Sampling | Hearing | Rehearsal | Viewing | CodecTrial | Easing
Work = Callable[[Folders, ops.Control], Mapping[str, Any]]


@dataclass(frozen=True)
class Study:
    """A kind of what is found out.

    Attributes:
        table: its rows.
        owner: names the column that says what a row is of.
        task: that carries it out.
        working: the state of one that is at work.
        called: in words.
        ready: looks up, of a row, what its work needs, and gives what does it: that gives what the
            row is to keep.
    """

    table: type[Row]
    owner: str
    task: str
    working: str
    called: str
    ready: Callable[[Session, Any], Work]

    @property
    def unfinished(self) -> frozenset[str]:
        """Give the states of what waits or goes on."""
        return frozenset({"waiting", self.working, "stopping"})

    def of(self, session: Session, owner: int) -> Any:
        """Give the row of an owner; None where there never was one."""
        return session.scalar(select(self.table).where(getattr(self.table, self.owner) == owner))

    def begin(self, session: Session, owner: int, **asked: object) -> Any:
        """Order one, anew where there was one, unless one is going on; `asked` is kept with it."""
        there = self.of(session, owner)
        if there is not None and there.state in self.unfinished:
            return there
        if there is not None:
            session.delete(there)
            session.flush()
        made = self.table(**{self.owner: owner}, state="waiting", **asked)
        session.add(made)
        session.flush()
        order(session, self.task, made.id)
        tell(session, self.table.__tablename__, made.id)
        return made

    def stop(self, session: Session, owner: int) -> None:
        """Stop one: one that waits ends at once, one that is at work within a second.

        Raises:
            Refused: none is going on.
        """
        there = self.of(session, owner)
        if there is None or there.state not in self.unfinished:
            raise Refused(f"No {self.called} is going on.", "There is nothing to stop.")
        waited = there.state == "waiting" and withdraw(session, self.task, there.id)
        there.state = "cancelled" if waited else "stopping"
        tell(session, self.table.__tablename__, there.id)

    def carry_out(self, db: Database, folders: Folders, id: int) -> None:
        """Carry one out; one whose worker was lost starts over."""
        with db.session() as session:
            row: Any = session.get(self.table, id)
            if row is None or row.state not in self.unfinished:
                return
            if row.state != "stopping":
                row.state = self.working
            tell(session, self.table.__tablename__, id)
        stopped = is_stopped(db, self.table, id, lambda row: row is None or row.state == "stopping")
        control = ops.Control(shown_progress(db, self.table, id), stopped)
        change: Mapping[str, Any]
        try:
            if stopped():
                raise Cancelled(f"The {self.called} was stopped.", "Start it again when you like.")
            with db.session() as session:
                work = self.ready(session, session.get_one(self.table, id))
            change = {"state": "done", "error": None, **work(folders, control)}
        except AWAY:
            raise
        except Cancelled:
            change = {"state": "cancelled"}
        except Exception as error:
            change = {"state": "failed", "error": logs.as_error(error)}
        db.lasting(lambda session: self._keep(session, id, change))

    def _keep(self, session: Session, id: int, values: Mapping[str, object]) -> None:
        row = session.get(self.table, id)
        if row is None:
            return
        for name, value in {**values, "progress": None, "at": datetime.now(UTC)}.items():
            setattr(row, name, value)
        tell(session, self.table.__tablename__, id)


def recipe(told: object, plan: Plan, bytes: str | None) -> str:
    """Name what something is found of.

    Args:
        told: how it is made, for JSON.
        plan: what it is made from.
        bytes: of the masters, by their names.
    """
    inputs = [one.model_dump(mode="json") for one in plan.inputs]
    whole = [told, inputs, str(plan.programme), bytes]
    return hashlib.sha256(json.dumps(whole, sort_keys=True).encode()).hexdigest()
