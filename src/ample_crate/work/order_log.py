"""What an order says of its items: the log, and what they ask."""

from __future__ import annotations

from sqlalchemy.orm import Session

from ..core.planning.deciding import Question
from ..store.database import tell
from ..store.standing import OrderEvent, OrderItem


def ask(session: Session, item: OrderItem, asked: Question) -> bool:
    """Have an item ask a person; it goes no further meanwhile."""
    item.state, item.question, item.said = "asks", asked.model_dump(mode="json"), asked.what
    log(session, item.order_id, f"{item.name} asks: {asked.what}", item)
    told(session, item.order_id)
    return False


def log(session: Session, order: str, what: str, item: OrderItem | None = None) -> None:
    """Write a line of an order's log."""
    session.add(OrderEvent(order_id=order, item_id=None if item is None else item.id, what=what))


def told(session: Session, order: str) -> None:
    """Tell everyone that something about an order changed."""
    tell(session, "order", 0, order=order)
