"""What was chosen for one deliverable, chosen for others of its crate, or of its master."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, BadValue
from ..core.facts.span import Span
from ..store.models import Crate, Deliverable
from . import choosing, trimming, undoing

RANGE = "range"  # what of its master it takes, carried over like a choice


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
        keys: which of them, and `RANGE`; none for all that are chosen, but for the fields of the
            name, which is each one's own.
    """
    chosen = source.choices
    own = [key for key in chosen if not key.startswith("name.")]
    wanted = {key: chosen.get(key) for key in keys or own if key != RANGE}
    before = undoing.state(target)
    left = _take_range(source, target) if RANGE in keys else None
    carried = _take(wanted, target)
    undoing.remember(target, before)
    if left is not None:
        carried.left.insert(0, left)
    elif RANGE in keys:
        carried.taken.insert(0, RANGE)
    return carried


def _take_range(source: Deliverable, target: Deliverable) -> LeftOut | None:
    """Take of the same master what another takes of it; else say why not."""
    if target.master_id != source.master_id:
        return LeftOut("its range", "It is of another master.", "Trim this one by itself.")
    span = None if source.span is None else Span.model_validate(source.span)
    copied = target.choices.get("picture") == "copied"
    if span is not None and copied and not span.left_out:
        return LeftOut(
            "its range",
            "The picture is copied here, and where a copy begins is looked for in the file.",
            "Take the range on its own bench.",
        )
    trimming.take(target, span or trimming.whole(target))
    return None


def take_over(wanted: Mapping[str, Any], target: Deliverable) -> Carried:
    """Choose some values for a deliverable, each that it can take; None for what is planned."""
    before = undoing.state(target)
    made = _take(wanted, target)
    undoing.remember(target, before)
    return made


def _take(wanted: Mapping[str, Any], target: Deliverable) -> Carried:
    made = Carried([], [])
    for key in choosing.in_order(wanted):
        value = wanted[key]
        try:
            choosing.choose(target, key, value)
            made.taken.append(key)
        except AmpleError as error:
            said = LeftOut(choosing.in_words(key, value), error.what, error.way_out)
            made.left.append(said)
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
