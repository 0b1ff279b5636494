"""The day sheet: every run on one time line, and what is foretold to be late."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload, undefer

from ..core.planning import helping, outcomes, ready, stored
from ..core.planning.ready import Past
from ..core.planning.schedule import Queue
from ..store.day import Worker
from ..store.models import Crate, Deliverable, Run
from ..store.past import finished
from . import crates, crew, kept, queueing, status, turns

Document = dict[str, Any]
SHOWN_BACK = timedelta(hours=24)
SHOWN_PAST = 400  # runs
_WHOSE = (
    undefer(Run.route),
    joinedload(Run.deliverable).options(
        joinedload(Deliverable.crate).joinedload(Crate.recipient), joinedload(Deliverable.master)
    ),
)


def sheet(session: Session) -> Document:
    """Give the workers, the runs of the last day, those that go on and those that wait, in their
    order, and what would help where a crate is foretold to be late.
    """
    known_runs, now = [one for _, one in finished(session)], status.now()
    taught = outcomes.taught(known_runs)
    going = _unfinished(session)
    known = kept.floors(session, {run.deliverable.crate_id for run in going}, most=0)
    line = queueing.of(session, taught, known)
    return {
        "now": now,
        "rules": turns.rules(session),
        "workers": [worker(one) for one in crew.there(session)],
        "past": [_ended(run) for run in _of_the_day(session, now)],
        "runs": [_placed(run, line, now) for run in going],
        "late": _late(going, known, line, taught, now),
        "accuracy": outcomes.errors(known_runs).get("time"),
    }


def worker(row: Worker) -> Document:
    """Say what a worker announced."""
    return {
        "id": row.id,
        "machine": row.machine,
        "place": row.place,
        "processors": row.processors,
        "encoders": row.encoders,
        "room": row.room,
        "wanted": row.wanted,
        "heard": row.heard,
        "resting": row.resting,
        "since": row.started_at,
    }


def _unfinished(session: Session) -> list[Run]:
    query = select(Run).where(Run.state.in_(status.UNFINISHED)).options(*_WHOSE)
    turn = (Run.state == "queued", Run.priority.desc(), Run.place)
    return list(session.scalars(query.order_by(*turn)))


def _of_the_day(session: Session, now: datetime) -> list[Run]:
    query = (
        select(Run)
        .where(Run.started_at.is_not(None), Run.finished_at > now - SHOWN_BACK)
        .options(*_WHOSE)
        .order_by(Run.finished_at.desc())
        .limit(SHOWN_PAST)
    )
    return list(session.scalars(query))


def _of(run: Run) -> Document:
    """Say what a run is of."""
    item, plan = run.deliverable, run.route.get("plan")
    return {
        "id": run.id,
        "deliverable": item.id,
        "item": status.item_name(item),
        "crate": item.crate_id,
        "number": item.crate.number,
        "title": item.crate.title,
        "recipient": item.crate.recipient.name,
        "codec": stored.record_of(plan).coded_as if plan else "",
        "state": run.state,
        "worker": run.worker_id,
    }


def _ended(run: Run) -> Document:
    return _of(run) | {"begins": run.started_at, "ends": run.finished_at}


def _placed(run: Run, line: Queue, now: datetime) -> Document:
    """Say when a run is made: what goes on began before now."""
    slot = line.slots[run.deliverable_id]
    task = next(one for one in line.tasks if one.key == run.deliverable_id)
    begins = now + timedelta(seconds=slot.begin)
    return _of(run) | {
        "begins": run.started_at or begins if run.state != "queued" else begins,
        "ends": now + timedelta(seconds=slot.end),
        "worker": slot.lane,
        "due_at": run.deliverable.crate.due_at,
        "seconds": task.seconds,
        "priority": run.priority,
        "held": run.held,
        "night": run.night,
        "waits_for_night": run.night and task.not_before > 0,
    }


def _late(
    going: Sequence[Run],
    known: Mapping[int, Document],
    line: Queue,
    taught: Past,
    now: datetime,
) -> list[Document]:
    """List the crates with runs that are foretold to be there too late, and what would help."""
    progress = {run.deliverable_id: run.progress for run in going if run.state == "running"}
    found = []
    for crate in {run.deliverable.crate_id: run.deliverable.crate for run in going}.values():
        if crate.id not in known:
            continue
        left, _ = crates.readiness(
            crate.state,
            crate.recipient.document["line_rate"],
            known[crate.id]["left"],
            progress,
            taught,
            line,
        )
        spare = (crate.due_at - now).total_seconds() - left.total
        if spare >= 0:
            continue
        own = {run.deliverable_id for run in going if run.deliverable.crate_id == crate.id}
        last = max(line.slots[key].end for key in own)
        ways = helping.helps(line, own, last + spare, _quicker(known[crate.id], own, taught))
        found.append(
            {
                "id": crate.id,
                "number": crate.number,
                "title": crate.title,
                "due_at": crate.due_at,
                "spare": spare,
                "helps": [{"way": w.way, "pace": w.pace, "spare": w.spare} for w in ways],
            }
        )
    return sorted(found, key=lambda one: one["due_at"])


def _quicker(floor: Document, own: set[int], taught: Past) -> dict[str, dict[int, float]]:
    """Give the seconds that runs would take at other paces, by pace; of hardware nothing is known
    until it was tried.
    """
    made: dict[str, dict[int, float]] = {}
    for one in floor["left"]:
        work = one["work"]
        if not work or one["deliverable"] not in own:
            continue
        for effort in work["quicker"]:
            pace = effort.partition(", ")[2]
            if pace == "hardware" and effort not in taught.encode:
                continue
            seconds = ready.encode_seconds(effort, work["samples"], taught)
            seconds += ready.measure_seconds(work["measured"], work["effort"], taught)
            made.setdefault(pace, {})[one["deliverable"]] = seconds
    return made
