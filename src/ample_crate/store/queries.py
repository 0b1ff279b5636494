"""Questions asked of the database in more than one place."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date, timedelta
from typing import TypeVar

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .base import Base
from .models import Crate, Deliverable, Master, NamedSpan, Receipt, Run

Row = TypeVar("Row", bound=Base)
NUMBERS = 7_462_332  # lock of the one who draws a crate number
NAMES = {
    NamedSpan: "range",
    Master: "master",
    Crate: "crate",
    Deliverable: "deliverable",
    Run: "run",
}


def get(session: Session, table: type[Row], id: int, lock: bool = False) -> Row:
    """Get a row by its id, locked against others where asked.

    Raises:
        NotFound: there is none.
    """
    # Whoever keeps something beside the row (a key that refers to it) is not kept waiting.
    row = session.get(table, id, with_for_update={"key_share": True} if lock else None)
    if row is None:
        name = NAMES.get(table, "row")
        raise NotFound(
            f"There is no {name} {id}.", "It may have been removed; go back to the list."
        )
    return row


def week_bytes(session: Session, crate: Crate) -> int:
    """Give the bytes of all other crates that go to a crate's recipient in the week, Monday to
    Sunday, in which it is due.

    A crate that arrived counts on the day of its receipt; one that is sealed, on the day it is due.
    """
    return week_sums(session, [crate.id])[crate.id]


def week_sums(session: Session, ids: Collection[int]) -> dict[int, int]:
    """Give `week_bytes` of several crates."""
    rows = session.execute(
        select(Crate.id, Crate.recipient_key, Crate.due_at).where(Crate.id.in_(ids))
    ).all()
    newest = (
        select(Run.deliverable_id, Run.size)
        .distinct(Run.deliverable_id)
        .where(Run.state == "done")
        .order_by(Run.deliverable_id, Run.id.desc())
        .subquery()
    )
    arrived = (
        select(func.max(Receipt.created_at))
        .where(Receipt.crate_id == Crate.id, Receipt.accepted)
        .correlate(Crate)
        .scalar_subquery()
    )
    gone = (
        select(
            Crate.id,
            Crate.recipient_key,
            Crate.due_at,
            arrived.label("arrived"),
            func.coalesce(func.sum(newest.c.size), 0).label("size"),
        )
        .join(Deliverable, Deliverable.crate_id == Crate.id)
        .join(newest, newest.c.deliverable_id == Deliverable.id)
        .where(
            Crate.state.in_(("sealed", "handing over", "received")),
            Crate.recipient_key.in_({row.recipient_key for row in rows}),
        )
        .group_by(Crate.id)
    )
    sent = [
        (one.id, one.recipient_key, _monday((one.arrived or one.due_at).date()), int(one.size))
        for one in session.execute(gone)
    ]
    return {
        row.id: sum(
            size
            for id, recipient, monday, size in sent
            if id != row.id
            and (recipient, monday) == (row.recipient_key, _monday(row.due_at.date()))
        )
        for row in rows
    }


def _monday(day: date) -> date:
    return day - timedelta(days=day.weekday())


def next_number(session: Session, taken: int = 0) -> int:
    """Give a crate number that no crate ever had.

    Args:
        session: numbers come from a sequence of its database, which counts on even where a crate is
        removed.
        taken: the highest number known from elsewhere: bags outlive a database that is lost or
        restored.
    """
    # Another may draw at the same time: without the lock the sequence could be set back.
    session.execute(text("select pg_advisory_xact_lock(:key)"), {"key": NUMBERS})
    number = int(session.scalar(text("select nextval('crate_number')")) or 0)
    known = int(session.scalar(select(func.coalesce(func.max(Crate.number), 0))) or 0)
    if number > max(taken, known):
        return number
    number = max(taken, known) + 1
    session.execute(text("select setval('crate_number', :number)"), {"number": number})
    return number
