"""The queue of runs: who makes which when, as far as it is known now."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.planning.ready import Past
from ..core.planning.schedule import Queue, Task, queue
from ..store.models import Deliverable, Run
from . import crates, crew, kept, turns
from .status import UNFINISHED


@dataclass(frozen=True)
class Waiting:
    """A run that is not finished: what it is of, how far it is, and its turn."""

    id: int
    deliverable: int
    crate: int
    state: str
    progress: Mapping[str, Any] | None
    lead: int | None
    worker: int | None
    held: bool
    night: bool

    @property
    def lane(self) -> int | None:
        """Name the worker that is at it; those that are made from one reading are made by one."""
        if self.state == "queued":
            return None
        return self.worker if self.worker is not None else -(self.lead or self.id)


def unfinished(session: Session) -> list[Waiting]:
    """List the runs that are not finished, in the order in which they are taken."""
    query = (
        select(
            Run.id,
            Run.deliverable_id,
            Deliverable.crate_id,
            Run.state,
            Run.progress,
            Run.lead_id,
            Run.worker_id,
            Run.held,
            Run.night,
        )
        .join(Run.deliverable)
        .where(Run.state.in_(UNFINISHED))
        .order_by(Run.state == "queued", Run.priority.desc(), Run.place)
    )
    return [Waiting(*row) for row in session.execute(query)]


def of(session: Session, past: Past, known: Mapping[int, Mapping[str, Any]] | None = None) -> Queue:
    """Place the runs that are not finished over the workers that encode.

    Args:
        session: knows them.
        past: what finished runs teach.
        known: what was worked out of crates for the floor, where that is read already.

    Returns:
        the queue, with the slot of each by its deliverable.
    """
    runs = unfinished(session)
    floors = known or kept.floors(session, {one.crate for one in runs}, most=0)
    work = {
        left["deliverable"]: left["work"] for floor in floors.values() for left in floor["left"]
    }
    by, now = turns.rules(session), datetime.now(UTC)
    night = by.night.begin(now)
    until = 0.0 if night is None else (night - now).total_seconds()
    tasks = [
        Task(
            one.deliverable,
            _seconds(one, work.get(one.deliverable), past),
            one.lane,
            not_before=until if one.night else 0.0,
            held=one.held or by.hold_all,
        )
        for one in runs
    ]
    return queue(tasks, crew.lanes(session))


def _seconds(one: Waiting, work: Mapping[str, Any] | None, past: Past) -> float:
    return crates.run_left(work, one.progress, past).total if work else 0.0
