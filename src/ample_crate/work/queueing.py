"""The queue of runs: who makes which when, as far as it is known now."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.planning.ready import Past
from ..core.planning.schedule import Queue, Task, queue
from ..store.models import Deliverable, Run
from . import crates, crew, kept
from .status import UNFINISHED


@dataclass(frozen=True)
class Waiting:
    """A run that is not finished: what it is of, and how far it is."""

    id: int
    deliverable: int
    crate: int
    state: str
    progress: Mapping[str, Any] | None
    lead: int | None


def unfinished(session: Session) -> list[Waiting]:
    """List the runs that are not finished, in the order in which they are taken."""
    query = (
        select(
            Run.id, Run.deliverable_id, Deliverable.crate_id, Run.state, Run.progress, Run.lead_id
        )
        .join(Run.deliverable)
        .where(Run.state.in_(UNFINISHED))
        .order_by(Run.state == "queued", Run.id)
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
    tasks = [_task(one, work.get(one.deliverable), past) for one in runs]
    return queue(tasks, crew.encoding(session))


def _task(one: Waiting, work: Mapping[str, Any] | None, past: Past) -> Task:
    left = crates.run_left(work, one.progress, past).total if work else 0.0
    at_work = one.state != "queued"
    # Those that are made from one reading are made by one worker.
    lane = (one.lead or one.id) if at_work else None
    return Task(one.deliverable, left, lane)
