"""What was chosen for one deliverable, chosen for others of its crate, or of its master."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, BadValue
from ..store.models import Crate, Deliverable
from . import choosing, undoing


@dataclass(frozen=True)
class LeftOut:
    """A choice that another deliverable does not take: what, in words, why, and what to do."""

    what: str
    why: str
    way_out: str


@dataclass(frozen=True)
class Carried:
    """Which choices another deliverable took, by key, and which it does not take."""

    taken: list[str]
    left: list[LeftOut]


def carry_over(source: Deliverable, target: Deliverable, keys: Sequence[str]) -> Carried:
    """Choose for one deliverable what is chosen for another; what is not chosen there is as
    planned here too.

    Args:
        source: whose choices they are.
        target: who takes them.
        keys: which of them; none for all that are chosen, but for the fields of the name, which is
            each one's own.
    """
    chosen = source.choices
    own = [key for key in chosen if not key.startswith("name.")]
    return take_over({key: chosen.get(key) for key in keys or own}, target)


def take_over(wanted: Mapping[str, Any], target: Deliverable) -> Carried:
    """Choose some values for a deliverable, each that it can take; None for what is planned."""
    before = undoing.state(target)
    made = Carried([], [])
    for key in choosing.in_order(wanted):
        value = wanted[key]
        try:
            choosing.choose(target, key, value)
            made.taken.append(key)
        except AmpleError as error:
            said = LeftOut(choosing.in_words(key, value), error.what, error.way_out)
            made.left.append(said)
    undoing.remember(target, before)
    return made


def alike(session: Session, source: Deliverable) -> list[Deliverable]:
    """List the deliverables that may take over what is chosen for one: the others of its crate, and
    those of the same master in other open crates.
    """
    same = (
        select(Deliverable)
        .join(Deliverable.crate)
        .where(Crate.state == "open", Crate.removed_at.is_(None))
        .where(Crate.id != source.crate_id, Deliverable.master_id == source.master_id)
        .order_by(Crate.number, Deliverable.position, Deliverable.id)
    )
    here = [one for one in source.crate.deliverables if one is not source]
    return [*here, *session.scalars(same)]


def others(session: Session, source: Deliverable, ids: Sequence[int]) -> list[Deliverable]:
    """Pick of those that are alike some by their numbers.

    Raises:
        BadValue: one is none of them.
    """
    there = {one.id: one for one in alike(session, source)}
    if not ids or not set(ids) <= set(there):
        raise BadValue(
            "Not all of these can take over what is chosen here.",
            "Choose some of those on the page.",
        )
    return [there[id] for id in ids]
