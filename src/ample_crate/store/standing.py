"""Tables of orders that stand, of what arrived under them, and of what was done."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, UniqueConstraint, func
from sqlalchemy.orm import Mapped, mapped_column, relationship

from .base import Base
from .models import Crate, Master


class Order(Base):
    """An order (`core.specs.order.StandingOrder`). It works while it is `on`, on what came since
    it was turned on.
    """

    __tablename__ = "standing_order"
    id: Mapped[str] = mapped_column(primary_key=True)
    document: Mapped[dict[str, Any]]
    on: Mapped[bool] = mapped_column(default=False, server_default="false")
    since: Mapped[datetime | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    items: Mapped[list[OrderItem]] = relationship(
        back_populates="order", cascade="all, delete-orphan", passive_deletes=True
    )


class OrderItem(Base):
    """A master that arrived under an order.

    States: waits (for its master, its turn or its hours), works, asks, done, left out, same (its
    bytes were delivered under this order before). `question` is what it asks
    (`core.planning.deciding.Question`), `agreed` the marks of questions answered by going on.
    """

    __tablename__ = "order_item"
    __table_args__ = (UniqueConstraint("order_id", "master_id", name="uq_order_item_order_id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    order_id: Mapped[str] = mapped_column(
        ForeignKey("standing_order.id", ondelete="CASCADE"), index=True
    )
    master_id: Mapped[int | None] = mapped_column(
        ForeignKey("master.id", ondelete="SET NULL"), index=True
    )
    crate_id: Mapped[int | None] = mapped_column(
        ForeignKey("crate.id", ondelete="SET NULL"), index=True
    )
    name: Mapped[str]
    sha256: Mapped[str | None] = mapped_column(index=True)
    state: Mapped[str] = mapped_column(default="waits", index=True)
    question: Mapped[dict[str, Any] | None]
    agreed: Mapped[list[Any]] = mapped_column(default=list)
    said: Mapped[str] = mapped_column(default="")
    arrived_at: Mapped[datetime] = mapped_column(server_default=func.now())
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now(), onupdate=func.now())
    order: Mapped[Order] = relationship(back_populates="items")
    master: Mapped[Master | None] = relationship()
    crate: Mapped[Crate | None] = relationship()


class OrderEvent(Base):
    """A line of an order's log."""

    __tablename__ = "order_event"
    id: Mapped[int] = mapped_column(primary_key=True)
    order_id: Mapped[str] = mapped_column(
        ForeignKey("standing_order.id", ondelete="CASCADE"), index=True
    )
    item_id: Mapped[int | None] = mapped_column(ForeignKey("order_item.id", ondelete="CASCADE"))
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    what: Mapped[str]
