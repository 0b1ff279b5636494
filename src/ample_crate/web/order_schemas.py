"""What the API of orders takes and gives."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field, RootModel

from ..core.planning.deciding import Question
from ..core.specs.order import StandingOrder
from .schemas import In, Out

State = Literal["waits", "works", "asks", "done", "left out", "same"]
LONGEST = 200_000


class OrderOut(Out):
    """An order, said as a sentence, and how it fares."""

    id: str
    title: str
    sentence: str
    document: dict[str, Any]
    on: bool
    since: datetime | None
    spec_title: str
    recipient: str
    counts: dict[str, int] = Field(description="of what arrived, by state")
    asks: OrderItemOut | None = Field(description="the newest that asks")
    trouble: str | None = Field(description="why nothing can arrive")


class OrderItemOut(Out):
    """A master that arrived under an order."""

    id: int
    order: str
    name: str
    master: int | None
    crate: int | None
    number: int | None
    state: State
    said: str
    question: Question | None
    arrived_at: datetime
    changed_at: datetime


OrderOut.model_rebuild()


class OrderList(RootModel[list[OrderOut]]):
    """Every order."""


class OrderLine(Out):
    """A line of an order's log."""

    at: datetime
    what: str
    item: int | None


class OrderPage(OrderOut):
    """An order's page: what arrived, those that ask first, and the newest lines of its log."""

    items: list[OrderItemOut]
    log: list[OrderLine]
    yaml: str


class OrderTextIn(In):
    """An order as it is written: as text (YAML or JSON), or as plain data."""

    text: str | None = Field(None, max_length=LONGEST)
    document: dict[str, Any] | None = None


class OrderSaid(Out):
    """An order that was read: as a sentence, as plain data and as text."""

    sentence: str
    document: StandingOrder
    yaml: str


class Switch(In):
    """Whether an order is on."""

    on: bool


class TryOrder(OrderTextIn):
    """An order, and masters that it is tried on."""

    masters: Annotated[list[int], Field(min_length=1, max_length=50)]


class Tried(Out):
    """What an order would do with a master."""

    master: int
    name: str
    file: str
    says: str
    question: Question | None


class TriedList(RootModel[list[Tried]]):
    """What an order would do with masters."""


class AnswerIn(In):
    """An answer: the key of one that is proposed, or what is filled in."""

    key: str = Field("", max_length=2100)
    fields: dict[str, Annotated[str, Field(max_length=200)]] = Field(default_factory=dict)
