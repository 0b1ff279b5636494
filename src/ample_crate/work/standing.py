"""Orders that stand: what arrives is planned, made, proved, sealed and handed over by itself, and
stops for a person where something breaks, waits for a choice, or is a caution that the order names.

Each item goes a step at a time, each step in a transaction of its own, so that nothing is lost and
nothing done twice whoever is killed.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound, Refused
from ..core.planning import deciding
from ..core.specs.order import FORM, StandingOrder
from ..store.database import AWAY, Database
from ..store.models import Master
from ..store.places import Folders
from ..store.queries import get
from ..store.standing import Order, OrderItem
from . import logs, many, status
from .order_log import ask, log, told
from .stepping import Step

LOCK = 7_462_335  # of the one worker that moves orders on
MOVING = ("waits", "works")
READ_AHEAD = 4  # masters that are read, for each that may be at work


def read(row: Order) -> StandingOrder:
    """Give an order's document."""
    return FORM.parse_document(row.document, f"The order '{row.id}'")


def document_of(order: StandingOrder) -> dict[str, Any]:
    """Give an order as plain data, without what is as usual."""
    head = {"id": order.id, "title": order.title}
    return head | order.model_dump(mode="json", exclude_defaults=True)


def keep(session: Session, order: StandingOrder) -> Order:
    """Keep an order, a new one off; what it did stays with it.

    Raises:
        NotFound, Refused: its spec is not there, or not in force.
    """
    many.unnumbered(session, many.Wanted(order.title, order.spec, status.now()))
    row = session.get(Order, order.id)
    if row is None:
        row = Order(id=order.id, document={})
        session.add(row)
    row.document = document_of(order)
    session.flush()
    told(session, order.id)
    return row


def switch(session: Session, row: Order, on: bool) -> None:
    """Turn an order on, for what comes from now on, or off; what it has begun waits while it is
    off.
    """
    if on and not row.on:
        row.since = row.since or status.now()
    if on != row.on:
        log(session, row.id, f"The order was turned {'on' if on else 'off'}.")
    row.on = on
    told(session, row.id)


def forget(session: Session, row: Order) -> None:
    """Forget an order, which must be off; crates that it made stay."""
    if row.on:
        raise Refused(f"The order '{row.id}' is on.", "Turn it off first.")
    session.delete(row)
    told(session, row.id)


def advance(db: Database, folders: Folders) -> int:
    """Move every item of orders that are on a step further, where it can go; give how many went.

    Of several workers one does.
    """
    with db.session() as session:
        if not session.scalar(text("select pg_try_advisory_xact_lock(:key)"), {"key": LOCK}):
            return 0
        _arrive(session, folders)
        wanted = (
            select(OrderItem.id)
            .join(OrderItem.order)
            .where(Order.on, OrderItem.state.in_(MOVING))
            .order_by(OrderItem.id)
        )
        ids = list(session.scalars(wanted))
    return sum(_moved(db, folders, id) for id in ids)


def _moved(db: Database, folders: Folders, id: int) -> bool:
    """Move an item as far as it goes now; one that fails keeps no other back."""
    moved = False
    while True:
        try:
            with db.session() as session:
                item = session.get(OrderItem, id, with_for_update={"key_share": True})
                if item is None or item.state not in MOVING or not item.order.on:
                    return moved
                went = Step(session, folders, read(item.order), item).take()
        except AWAY:
            raise
        except Exception as error:
            said = logs.as_error(error)
            with db.session() as session:
                item = get(session, OrderItem, id, lock=True)
                ask(session, item, deciding.trouble(said["what"], said["way_out"]))
            return True
        if not went:
            return moved
        moved = True


def folders_of(session: Session, folders: Folders) -> list[tuple[Path, StandingOrder, int]]:
    """List the folders of orders that are on, each with its order and how many masters more may be
    read for it now: a storm of files is taken in as it is worked off.
    """
    found = []
    for row in session.scalars(select(Order).where(Order.on).order_by(Order.id)):
        order = read(row)
        waiting = select(func.count()).where(
            OrderItem.order_id == row.id,
            OrderItem.state == "waits",
            OrderItem.crate_id.is_(None),
        )
        room = order.limits.at_once * READ_AHEAD - int(session.scalar(waiting) or 0)
        found += [(place, order, max(0, room)) for place in places_of(order, folders)]
    return found


def places_of(order: StandingOrder, folders: Folders) -> list[Path]:
    """List the folders of an order that are there, in one intake folder or several."""
    places = [(root / order.source.folder).resolve() for root in folders.intake]
    roots = tuple(folders.intake)
    return [
        one for one in places if one.is_dir() and any(one.is_relative_to(root) for root in roots)
    ]


def missing(order: StandingOrder, folders: Folders) -> NotFound | None:
    """Say that the folder of an order is not there; None where it is."""
    if places_of(order, folders):
        return None
    roots = ", ".join(str(root) for root in folders.intake)
    return NotFound(
        f"There is no folder '{order.source.folder}' in an intake folder.",
        f"Make it in one of these: {roots}.",
    )


def _arrive(session: Session, folders: Folders) -> None:
    """Enter what came into the folders of orders since they were turned on."""
    for row in session.scalars(select(Order).where(Order.on).order_by(Order.id)):
        for master in arriving(session, row, folders):
            enter(session, row, master)


def arriving(session: Session, row: Order, folders: Folders) -> list[Master]:
    """List the masters that came into the folders of an order and are not entered yet."""
    order = read(row)
    places = [str(root / order.source.folder) for root in folders.intake]
    there = select(OrderItem.master_id).where(OrderItem.order_id == row.id)
    query = select(Master).where(
        Master.created_at >= row.since,
        Master.id.not_in(there.where(OrderItem.master_id.is_not(None))),
    )
    masters = session.scalars(query.order_by(Master.id))
    return [one for one in masters if _lies_in(one, places, order)]


def _lies_in(master: Master, places: Sequence[str], order: StandingOrder) -> bool:
    """Say whether a master came from one of an order's folders, under a name that counts."""
    came = Path(master.came_from or master.path)
    if not order.source.counts(master.name):
        return False
    parents = [str(one) for one in came.parents] if order.source.deeper else [str(came.parent)]
    return any(place in parents for place in places)


def enter(session: Session, row: Order, master: Master) -> OrderItem:
    """Enter a master that arrived under an order."""
    item = OrderItem(order=row, master=master, name=master.name)
    session.add(item)
    session.flush()
    log(session, row.id, f"{master.name} arrived.", item)
    told(session, row.id)
    return item


def items_of(session: Session, order: str, state: str, limit: int) -> list[OrderItem]:
    """List what arrived under an order, the newest first; all states where none is said."""
    query = select(OrderItem).where(OrderItem.order_id == order).order_by(OrderItem.id.desc())
    if state:
        query = query.where(OrderItem.state == state)
    return list(session.scalars(query.limit(limit)))


def counts(session: Session) -> dict[str, dict[str, int]]:
    """Count items by order and state."""
    query = select(OrderItem.order_id, OrderItem.state, func.count())
    found: dict[str, dict[str, int]] = {}
    for order, state, count in session.execute(query.group_by(OrderItem.order_id, OrderItem.state)):
        found.setdefault(order, {})[state] = int(count)
    return found


def named(session: Session, id: str) -> Order:
    """Give an order.

    Raises:
        NotFound: there is none.
    """
    row = session.get(Order, id)
    if row is None:
        raise NotFound(f"There is no order '{id}'.", "Look at the list of orders.")
    return row
