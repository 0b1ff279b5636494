"""Answering what an item of an order asks."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from sqlalchemy.orm import Session

from ..core.errors import BadValue, Refused
from ..core.planning import deciding
from ..core.planning.deciding import Question
from ..store.database import tell
from ..store.standing import OrderItem
from . import acts, carrying_over, running, status
from .order_log import log, told
from .orders import order


def answer(
    session: Session, item: OrderItem, key: str, fields: Mapping[str, str] | None = None
) -> None:
    """Answer what an item asks.

    Args:
        session: of it.
        item: whose row is held.
        key: of one of the answers that are proposed; empty where fields are filled in.
        fields: values of those that it asks for.

    Raises:
        Refused: it asks nothing.
        BadValue: the answer is none of those, or cannot be taken.
    """
    if item.state != "asks" or item.question is None:
        raise Refused(f"{item.name} asks nothing any more.", "Look at where it is now.")
    question = Question.model_validate(item.question)
    given = {name: value.strip() for name, value in (fields or {}).items() if value.strip()}
    if given:
        if not set(given) <= set(question.fields):
            raise BadValue("That is not what was asked.", "Fill in the fields that are shown.")
        _choose(item, given)
        _go_on(session, item, "What was asked was filled in.")
        return
    found = next((one for one in question.answers if one.key == key), None)
    if found is None:
        raise BadValue("That is none of the answers.", "Choose one of those that are proposed.")
    _ANSWERS.get(found.key, _chosen)(session, item, question, found)


def _left(session: Session, item: OrderItem, asked: Question, found: deciding.Answer) -> None:
    crate = item.crate
    if crate is not None and crate.state == "open" and crate.removed_at is None:
        acts.remove(session, crate)
    item.state, item.question, item.said = "left out", None, "A person left it out."
    log(session, item.order_id, f"{item.name}: {item.said}", item)
    told(session, item.order_id)


def _agreed(session: Session, item: OrderItem, asked: Question, found: deciding.Answer) -> None:
    item.agreed = [*item.agreed, asked.mark]
    _go_on(session, item, "A person said to go on.")


def _again(session: Session, item: OrderItem, asked: Question, found: deciding.Answer) -> None:
    master, crate = item.master, item.crate
    if crate is None and master is not None and master.state in ("failed", "changed"):
        master.state, master.error = "reading", None
        order(session, "ingest", master.id)
        tell(session, "master", master.id)
    elif crate is not None and crate.state == "refused":
        acts.hand_over(session, crate)
    elif crate is not None and crate.error is not None:
        crate.error = None
    elif crate is not None and crate.state == "open":
        for one in status.item_statuses(crate):
            running.start(session, one)
    _go_on(session, item, "A person said to try again.")


def _chosen(session: Session, item: OrderItem, asked: Question, found: deciding.Answer) -> None:
    _choose(item, found.choices)
    _go_on(session, item, f"A person answered: {found.label}.")


_ANSWERS: dict[str, Callable[[Session, OrderItem, Question, deciding.Answer], None]] = {
    deciding.LEAVE: _left,
    deciding.GO_ON: _agreed,
    deciding.AGAIN: _again,
}


def _choose(item: OrderItem, wanted: Mapping[str, str]) -> None:
    crate = item.crate
    if crate is None or not crate.deliverables:
        raise Refused("There is no crate to choose for any more.", "Leave it out.")
    done = [carrying_over.take_over(wanted, one) for one in crate.deliverables]
    left = [one for each in done for one in each.left]
    if left:
        raise BadValue(left[0].why, left[0].way_out)


def _go_on(session: Session, item: OrderItem, said: str) -> None:
    item.state = "works" if item.crate is not None else "waits"
    item.question, item.said = None, said
    log(session, item.order_id, f"{item.name}: {said}", item)
    told(session, item.order_id)
