"""Tables of the day sheet: the workers that there are, and the rules by which runs wait."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, UniqueConstraint, func
from sqlalchemy.orm import Mapped, mapped_column

from .base import Base


class Worker(Base):
    """A worker, as it announces itself.

    It is the same one for as long as its machine and its place there are; `connection` names the
    connections of the process that it is now. `wanted` is working, drained (it ends what it is at,
    and takes nothing more) or paused (what it is at holds still too), `heard` what it has heard of
    that, and `resting` says that something holds still now. `room` are the bytes that are free
    where it writes.
    """

    __tablename__ = "worker"
    __table_args__ = (UniqueConstraint("machine", "place", name="uq_worker_machine"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    machine: Mapped[str]
    place: Mapped[str]
    connection: Mapped[str]
    processors: Mapped[int]
    queues: Mapped[list[Any]]
    encoders: Mapped[list[Any]]
    room: Mapped[int] = mapped_column(BigInteger)
    wanted: Mapped[str] = mapped_column(server_default="working")
    heard: Mapped[str] = mapped_column(server_default="working")
    resting: Mapped[bool] = mapped_column(server_default="false")
    started_at: Mapped[datetime]
    seen_at: Mapped[datetime] = mapped_column(server_default=func.now())


class DayRules(Base):
    """The rules by which all runs wait (`work.turns.Rules`): one row."""

    __tablename__ = "day_rules"
    id: Mapped[int] = mapped_column(primary_key=True)
    document: Mapped[dict[str, Any]]
