"""The floor."""

from __future__ import annotations

import time
from dataclasses import dataclass
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint  # type: ignore[attr-defined]
from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session, joinedload, undefer

from ..core.planning import stored
from ..core.planning.ready import Past
from ..core.planning.schedule import Queue
from ..store.models import Crate, Deliverable, Master, Recipient, Run
from ..store.past import past
from ..work import kept, queueing, status, worked_out
from ..work.orders import order_all
from . import views
from .crate_schemas import Floor, RecipientOut, RunningOut
from .services import as_plain, give_text, services

api = APIBlueprint("floor", __name__, url_prefix="/api/floor")
SHOWN_DONE, SHOWN_FAILED = 12, 20
SHOWN_FOR = 1.0  # seconds; times are shown to the minute
MOST_AT_ONCE = 3  # crates that are worked out while somebody waits for the floor


@api.get("", summary="Crates due, runs going on, what needs a person", responses={200: Floor})
def floor() -> Response:
    """Give the floor; what is out of date of more crates than a few is worked out by a worker, and
    told when it is there.
    """
    memo = services().memo
    with services().database.at_one_moment() as session:
        given = memo.answer(
            session,
            "floor as given",
            lambda: _given(memo.answer(session, "floor", lambda: _look(session), _in_place)),
            _current,
        )
    return give_text(given.text)


@dataclass(frozen=True)
class _Seen:
    """What the floor is made of: each crate's columns, recipient and what was worked out; and what
    goes on.
    """

    crates: list[tuple[Row[Any], RecipientOut, worked_out.Document | None]]
    progress: views.Progresses
    past: Past
    line: Queue
    running: list[RunningOut]
    attention: list[dict[str, Any]]


@dataclass(frozen=True)
class _Given:
    """The floor as JSON, when it was written (`time.monotonic`), and what it was made of."""

    text: bytes
    at: float
    seen: _Seen


def _given(seen: _Seen) -> _Given:
    given = [
        views.crate(row, to, known, seen.progress, seen.past, seen.line)
        for row, to, known in seen.crates
    ]
    document = {
        "crates": given,
        "running": seen.running,
        "attention": _crates_stopped(given) + seen.attention,
        "now": status.now(),
    }
    return _Given(as_plain(document), time.monotonic(), seen)


def _in_place(seen: _Seen) -> bool:
    return all(views.in_place(known) for _, _, known in seen.crates)


def _current(given: _Given) -> bool:
    """Say whether a floor holds still: the times at which crates are ready move with the clock."""
    return time.monotonic() - given.at < SHOWN_FOR and _in_place(given.seen)


def _look(session: Session) -> _Seen:
    shown = _crates(session)
    recipients = {row.key: views.recipient(row) for row in session.scalars(select(Recipient))}
    runs = list(
        session.scalars(
            select(Run).where(Run.state.in_(status.UNFINISHED)).options(*_WHOSE).order_by(Run.id)
        )
    )
    known = kept.floors(session, [c.id for c in shown], MOST_AT_ONCE)
    order_all(session, "work_out", [row.id for row in shown if row.id not in known])
    taught = past(session)
    return _Seen(
        crates=[(row, recipients[row.recipient_key], known.get(row.id)) for row in shown],
        progress={run.deliverable_id: run.progress for run in runs if run.state == "running"},
        past=taught,
        line=queueing.of(session, taught, known),
        running=[_running(r) for r in runs],
        attention=_masters_failed(session) + _runs_failed(session),
    )


_WHOSE = (
    undefer(Run.route),
    joinedload(Run.deliverable).options(
        joinedload(Deliverable.crate), joinedload(Deliverable.master)
    ),
)
_COLUMNS = (
    Crate.id,
    Crate.number,
    Crate.revision,
    Crate.title,
    Crate.state,
    Crate.recipient_key,
    Crate.spec_id,
    Crate.spec_version,
    Crate.due_at,
    Crate.sealed_at,
    Crate.error,
    Crate.removed_at,
)


def _crates(session: Session) -> list[Row[Any]]:
    """List the newest revisions of what is not received, and of the last that were."""
    query = select(*_COLUMNS)
    rows = list(
        session.execute(
            query.where(Crate.state != "received", Crate.removed_at.is_(None)).order_by(
                Crate.due_at, Crate.id
            )
        )
    )
    rows += session.execute(
        query.where(Crate.state == "received").order_by(Crate.id.desc()).limit(SHOWN_DONE)
    )
    newest: dict[int, int] = {}
    for row in rows:
        newest[row.number] = max(row.revision, newest.get(row.number, 0))
    return [row for row in rows if row.revision == newest[row.number]]


def _running(run: Run) -> RunningOut:
    plan, one = run.route.get("plan"), run.deliverable
    shown = views.run(run)
    assert shown is not None
    return RunningOut(
        run=shown,
        crate=one.crate_id,
        number=one.crate.number,
        title=one.crate.title,
        name=one.master.name,
        codec=stored.record_of(plan).effort if plan else "",
    )


def _masters_failed(session: Session) -> list[dict[str, Any]]:
    rows = session.scalars(
        select(Master)
        .where(Master.state == "failed")
        .order_by(Master.id.desc())
        .limit(SHOWN_FAILED)
    )
    return [
        {
            "kind": "master",
            "id": row.id,
            "title": row.name,
            "what": (row.error or {}).get("what", ""),
        }
        for row in rows
    ]


def _crates_stopped(shown: list[dict[str, Any]]) -> list[dict[str, Any]]:
    told = []
    for one in shown:
        if one["next_step"] == "review":
            what = "A finished file breaks its spec."
        elif one["next_step"] == "plan" and one["blocked"]:
            what = one["blocked"]
        elif one["error"] is not None:
            what = one["error"]["what"]
        else:
            continue
        told.append(
            {
                "kind": "crate",
                "id": one["id"],
                "title": f"{one['number']} {one['title']}",
                "what": what,
            }
        )
    return told


def _runs_failed(session: Session) -> list[dict[str, Any]]:
    """List the items whose newest run failed."""
    newest = select(func.max(Run.id)).group_by(Run.deliverable_id)
    query = (
        select(Deliverable.crate_id, Master.name, Run.error)
        .join(Run.deliverable)
        .join(Deliverable.crate)
        .join(Deliverable.master)
        .where(Run.state == "failed", Crate.removed_at.is_(None), Run.id.in_(newest))
        .order_by(Run.id.desc())
        .limit(SHOWN_FAILED)
    )
    return [
        {"kind": "crate", "id": crate, "title": name, "what": (error or {}).get("what", "")}
        for crate, name, error in session.execute(query)
    ]
