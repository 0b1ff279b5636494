"""Orders that stand: written, tried, turned on and off, answered."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import BadValue
from ..core.specs import documents
from ..core.specs.order import FORM, StandingOrder
from ..store import specs
from ..store.queries import get
from ..store.standing import Order, OrderEvent, OrderItem
from ..work import answering, dry_runs, standing
from .order_schemas import (
    AnswerIn,
    OrderItemOut,
    OrderLine,
    OrderList,
    OrderOut,
    OrderPage,
    OrderSaid,
    OrderTextIn,
    State,
    Switch,
    TriedList,
    TryOrder,
)
from .schemas import In, Numbered
from .services import give, services

api = APIBlueprint("orders", __name__, url_prefix="/api/orders", abp_tags=[Tag(name="orders")])
SHOWN_ITEMS, SHOWN_LINES = 300, 200


class OrderPath(In):
    """A path to an order."""

    id: str = Field(max_length=100)


class ItemsQuery(In):
    """Which of what arrived is shown."""

    state: State | None = None


@api.get("", summary="Every order", responses={200: OrderList})
def listed() -> Response:
    """List the orders, with what asks."""
    return _list()


def _list() -> Response:
    with services().database.session() as session:
        counts = standing.counts(session)
        rows = session.scalars(select(Order).order_by(Order.id))
        return give(OrderList(root=[_order(session, row, counts) for row in rows]))


def _order(session: Session, row: Order, counts: dict[str, dict[str, int]]) -> OrderOut:
    order = standing.read(row)
    spec, recipient = _of_spec(session, order)
    asking = standing.items_of(session, row.id, "asks", 1)
    gone = standing.missing(order, services().folders)
    return OrderOut(
        id=row.id,
        title=order.title,
        sentence=order.said(spec, recipient),
        document=row.document,
        on=row.on,
        since=row.since,
        spec_title=spec,
        recipient=recipient,
        counts=counts.get(row.id, {}),
        asks=_item(asking[0]) if asking else None,
        trouble=None if gone is None else gone.sentence(),
    )


def _of_spec(session: Session, order: StandingOrder) -> tuple[str, str]:
    """Give the title of an order's spec, and the name of its recipient."""
    row = specs.get(session, order.spec)
    return specs.read(row).title, row.recipient.name


def _item(row: OrderItem) -> OrderItemOut:
    return OrderItemOut.model_validate(
        {
            "id": row.id,
            "order": row.order_id,
            "name": row.name,
            "master": row.master_id,
            "crate": row.crate_id,
            "number": None if row.crate is None else row.crate.number,
            "state": row.state,
            "said": row.said,
            "question": row.question,
            "arrived_at": row.arrived_at,
            "changed_at": row.changed_at,
        }
    )


@api.post("/read", summary="Read an order without keeping it", responses={200: OrderSaid})
def read(body: OrderTextIn) -> Response:
    """Say what an order says; a mistake is told with its line."""
    order = _read(body)
    with services().database.session() as session:
        sentence = order.said(*_of_spec(session, order))
    text = documents.written(standing.document_of(order))
    return give(OrderSaid(sentence=sentence, document=order, yaml=text))


def _read(body: OrderTextIn) -> StandingOrder:
    if body.text is not None:
        return FORM.parse(body.text, "The order")
    if body.document is None:
        raise BadValue("There is no order.", "Send it as text or as plain data.")
    return FORM.parse_document(body.document, "The order")


@api.put("", summary="Keep an order", responses={200: OrderPage})
def keep(body: OrderTextIn) -> Response:
    """Keep an order; a new one is off."""
    order = _read(body)
    with services().database.session() as session:
        standing.keep(session, order)
        return _page(session, order.id)


@api.get("/<id>", summary="An order", responses={200: OrderPage})
def page(path: OrderPath, query: ItemsQuery) -> Response:
    """Give an order with what arrived under it, and its log."""
    with services().database.session() as session:
        return _page(session, path.id, query.state or "")


def _page(session: Session, id: str, state: str = "") -> Response:
    session.flush()
    row = standing.named(session, id)
    head = _order(session, row, standing.counts(session))
    lines = session.scalars(
        select(OrderEvent)
        .where(OrderEvent.order_id == id)
        .order_by(OrderEvent.id.desc())
        .limit(SHOWN_LINES)
    )
    items = standing.items_of(session, id, state, SHOWN_ITEMS)
    items.sort(key=lambda one: one.state != "asks")
    return give(
        OrderPage(
            **head.model_dump(),
            items=[_item(one) for one in items],
            log=[OrderLine(at=one.at, what=one.what, item=one.item_id) for one in lines],
            yaml=documents.written(row.document),
        )
    )


@api.post("/<id>/switch", summary="Turn an order on or off", responses={200: OrderPage})
def switch(path: OrderPath, body: Switch) -> Response:
    """Turn an order on, for what comes from now on, or off."""
    with services().database.session() as session:
        standing.switch(session, standing.named(session, path.id), body.on)
        return _page(session, path.id)


@api.delete("/<id>", summary="Forget an order", responses={200: OrderList})
def forget(path: OrderPath) -> Response:
    """Forget an order that is off; crates that it made stay."""
    with services().database.session() as session:
        standing.forget(session, standing.named(session, path.id))
    return _list()


@api.post("/try", summary="Say what an order would do", responses={200: TriedList})
def try_out(body: TryOrder) -> Response:
    """Try an order on masters that are here; nothing is kept."""
    order = _read(OrderTextIn(text=body.text, document=body.document))
    with services().database.session() as session:
        made = dry_runs.tried(session, order, body.masters)
        session.rollback()
    return give(TriedList.model_validate(made))


@api.post("/items/<int:id>/answer", summary="Answer what is asked", responses={200: OrderItemOut})
def answer(path: Numbered, body: AnswerIn) -> Response:
    """Answer what an item of an order asks; it goes on then, or is left out."""
    with services().database.session() as session:
        item = get(session, OrderItem, path.id, lock=True)
        answering.answer(session, item, body.key, body.fields)
        session.flush()
        session.refresh(item)
        return give(_item(item))
