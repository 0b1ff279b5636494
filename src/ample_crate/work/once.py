"""An order that works once through what lies in its folder now."""

from __future__ import annotations

import time
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.specs.order import StandingOrder
from ..store.database import Database
from ..store.models import Receipt
from ..store.places import Folders
from ..store.standing import OrderItem
from . import intake, standing

# Seconds without any change, after which what nobody took is left where it lies. A file is taken
# some seconds after its last change.
QUIET = 30.0
MOST = 100_000  # items of an order that are looked at
EVER = datetime.min.replace(tzinfo=UTC, year=1970)


class Once:
    """Works an order through: all that lies in its folder, whenever it came there.

    Args:
        database: of the installation, whose workers do it.
        folders: of the installation.
        order: is kept, turned on while this goes on, and left as it was after it.
    """

    def __init__(self, database: Database, folders: Folders, order: StandingOrder) -> None:
        self._db, self._folders, self._order = database, folders, order
        self._was_on = False
        self._changed, self._seen = time.monotonic(), ""

    def begin(self) -> None:
        """Keep the order, and turn it on.

        Raises:
            NotFound: its folder is not there, or its spec.
        """
        gone = standing.missing(self._order, self._folders)
        if gone is not None:
            raise gone
        with self._db.session() as session:
            row = standing.keep(session, self._order)
            self._was_on, row.since = row.on, EVER
            standing.switch(session, row, True)

    def end(self) -> None:
        """Leave the order on or off, as it was."""
        with self._db.session() as session:
            standing.switch(session, standing.named(session, self._order.id), self._was_on)

    def left(self) -> list[str]:
        """Give a line for each that is still on its way; none when all has come to its end, or
        waits for hours that come later.
        """
        with self._db.session() as session:
            items = standing.items_of(session, self._order.id, "", MOST)
            row = standing.named(session, self._order.id)
            coming = standing.arriving(session, row, self._folders)
            going = [_line(one) for one in items if _goes_on(one)]
            going += [f"{one.name}: It arrived." for one in coming]
            lying = self._lying(session)
        now, seen = time.monotonic(), repr((going, lying))
        if seen != self._seen:
            self._changed, self._seen = now, seen
        if not going and now - self._changed > QUIET:
            lying = []
        return going + [f"{name}: It is to be taken in." for name, _ in lying]

    def document(self) -> dict[str, Any]:
        """Give what came of it: items with what they ask, and receipts."""
        with self._db.session() as session:
            items = standing.items_of(session, self._order.id, "", MOST)
            crates = [one.crate_id for one in items if one.crate_id is not None]
            query = select(Receipt).where(Receipt.crate_id.in_(crates)).order_by(Receipt.id)
            return {
                "order": self._order.id,
                "items": [_told(one) for one in reversed(items)],
                "receipts": [one.document for one in session.scalars(query)],
                "left": [name for name, _ in self._lying(session)],
            }

    def _lying(self, session: Session) -> list[tuple[str, int]]:
        counts = self._order.source.counts
        places = standing.places_of(self._order, self._folders)
        return [one for place in places for one in intake.not_taken(session, place, counts)]


def _line(item: OrderItem) -> str:
    return f"{item.name}: {item.said or 'It is being read.'}"


def _goes_on(item: OrderItem) -> bool:
    return item.state == "works" or (item.state == "waits" and item.crate_id is None)


def _told(item: OrderItem) -> dict[str, Any]:
    return {
        "name": item.name,
        "state": item.state,
        "said": item.said,
        "crate": None if item.crate is None else item.crate.number,
        "question": item.question,
    }
