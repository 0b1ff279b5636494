"""What an order would do, before it is turned on."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from sqlalchemy.orm import Session

from ..core.errors import AmpleError
from ..core.planning import deciding
from ..core.planning.deciding import Question
from ..core.specs.order import StandingOrder
from ..store.models import Crate, Master
from ..store.queries import get
from ..store.standing import Order, OrderItem
from . import many, status
from .standing import document_of
from .stepping import Step


def tried(session: Session, order: StandingOrder, ids: Sequence[int]) -> list[dict[str, Any]]:
    """Say what an order would do with masters that are here: each would be planned as it chooses,
    and that is taken back.

    Args:
        session: of them.
        order: which need not be kept.
        ids: of the masters.
    """
    made = []
    for id in ids:
        master = get(session, Master, id)
        with session.begin_nested() as trial:
            made.append(_trial(session, order, master))
            trial.rollback()
        session.expire_all()
    return made


def _trial(session: Session, order: StandingOrder, master: Master) -> dict[str, Any]:
    told: dict[str, Any] = {"master": master.id, "name": master.name, "file": "", "question": None}
    if not order.source.counts(master.name):
        return told | {"says": "Its name does not count."}
    if master.state != "ready":
        return told | {"says": f"It is not ready: {master.state}."}
    row = Order(id=f"{order.id}-{secrets.token_hex(4)}", document={})
    row.document = document_of(order.model_copy(update={"id": row.id}))
    item = OrderItem(order=row, master=master, name=master.name, agreed=[])
    session.add(item)
    session.flush()
    step = _Trial(session, order, item)
    try:
        crate = step.crate(master)
        [one] = status.item_statuses(crate)
        asked = step.asked(one)
    except AmpleError as error:
        asked = [deciding.trouble(error.what, error.way_out)]
        return told | {"says": error.what, "question": asked[0].model_dump(mode="json")}
    plan = one.route.plan if one.route is not None else None
    told["file"] = plan.files[0].name if plan is not None else ""
    if asked:
        return told | {"says": asked[0].what, "question": asked[0].model_dump(mode="json")}
    return told | {"says": "It would go by itself."}


class _Trial(Step):
    """A step that is taken back."""

    def __init__(self, session: Session, order: StandingOrder, item: OrderItem) -> None:
        self._session, self._item, self._order = session, item, order

    def crate(self, master: Master) -> Crate:
        """Give the crate that would be made."""
        order, now = self._order, status.now()
        wanted = many.Wanted(order.titled(master.name, ""), order.spec, now + timedelta(hours=1))
        crate = many.unnumbered(self._session, wanted)
        self._session.add(crate)
        self._session.flush()
        return self._filled(crate, master)

    def asked(self, one: status.ItemStatus) -> list[Question]:
        """Give what would be asked."""
        return self._questions(one, [one])
