"""Questions asked of the database in more than one place."""

from __future__ import annotations

from collections import defaultdict
from datetime import timedelta
from typing import TypeVar

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from ..core.plan import Plan
from .models import Base, Crate, Deliverable, Master, NamedSpan, Run

Row = TypeVar("Row", bound=Base)
NUMBERS = 7_462_332  # lock of the one who draws a crate number
NAMES = {NamedSpan: "range", Master: "master", Crate: "crate", Deliverable: "deliverable", Run: "run"}


def get(session: Session, table: type[Row], id: int, lock: bool = False) -> Row:
    """Get a row by its id, locked against others where asked.

    Raises:
        NotFound: there is none.
    """
    row = session.get(table, id, with_for_update=lock)
    if row is None:
        name = NAMES.get(table, "row")  # type: ignore[call-overload]
        raise NotFound(f"There is no {name} {id}.", "It may have been removed; go back to the list.")
    return row


def week_bytes(session: Session, crate: Crate) -> int:
    """Give the bytes of all other crates that go to a crate's recipient in the week, Monday to Sunday, in which it is due.

    A crate that arrived counts on the day of its receipt; one that is sealed, on the day it is due.
    """
    monday = crate.due_at.date() - timedelta(days=crate.due_at.weekday())
    total = 0
    others = select(Crate).where(Crate.recipient_key == crate.recipient_key, Crate.id != crate.id, Crate.state.in_(("sealed", "handing over", "received")))
    for other in session.scalars(others):
        arrived = [r.created_at for r in other.receipts if r.accepted]
        day = (arrived[-1] if arrived else other.due_at).date()
        if monday <= day < monday + timedelta(days=7):
            done = [next((r for r in reversed(d.runs) if r.state == "done"), None) for d in other.deliverables]
            total += sum(r.size or 0 for r in done if r is not None)
    return total


def queue(session: Session) -> list[int]:
    """Give the runs that are not finished, in the order in which they are taken."""
    unfinished = Run.state.in_(("queued", "running", "stopping"))
    return list(session.scalars(select(Run.id).where(unfinished).order_by(Run.id)))


def past_speeds(session: Session) -> dict[str, float]:
    """Give millions of luma samples a second by codec over the last twenty finished runs of each."""
    totals: dict[str, list[float]] = defaultdict(lambda: [0.0, 0.0, 0.0])
    for run in session.scalars(select(Run).where(Run.state == "done").order_by(Run.id.desc()).limit(60)):
        plan = run.route.get("plan")
        if plan is None or not run.encode_seconds:
            continue
        made = Plan.model_validate(plan)
        sums = totals[made.picture.codec]
        if sums[2] < 20:
            sums[0] += work_of(made) / 1e6
            sums[1] += run.encode_seconds
            sums[2] += 1
    return {codec: samples / seconds for codec, (samples, seconds, _) in totals.items() if seconds > 0}


def work_of(plan: Plan) -> float:
    """Give the luma samples that an encode puts out, counting each pass."""
    return float(plan.seconds * plan.picture.rate) * plan.picture.width * plan.picture.height * plan.picture.passes


def next_number(session: Session, taken: int = 0) -> int:
    """Give a crate number that no crate ever had.

    Args:
        session: numbers come from a sequence of its database, which counts on even where a crate is removed.
        taken: the highest number known from elsewhere: bags outlive a database that is lost or restored.
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
