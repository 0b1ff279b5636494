"""Many at once: crates for several specs, one made like another, choices for several items."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.orm import Session

from ..core.errors import AmpleError, BadValue, Refused
from ..core.specs.filling import Filling
from ..handover.bag import highest_number
from ..store import specs
from ..store.models import Crate, Deliverable, Master, NamedSpan, SpecVersion
from ..store.places import Folders
from ..store.queries import get, next_number
from . import carrying_over, house
from .carrying_over import Carried, LeftOut
from .sheets import mark_of, require_at_rest

Part = tuple[Master, dict[str, Any] | None]  # a master, and the range of it


@dataclass(frozen=True)
class Wanted:
    """A crate to make: its title, its spec by id, and when it is due."""

    title: str
    spec: str
    due_at: datetime


def make(session: Session, wanted: Wanted, folders: Folders) -> Crate:
    """Make an empty crate, with a number of its own.

    Raises:
        NotFound: there is no such spec.
        Refused: it is not in force.
    """
    crate = unnumbered(session, wanted)
    crate.number = next_number(session, highest_number(folders.bags, folders.inboxes))
    session.add(crate)
    session.flush()
    return crate


def unnumbered(session: Session, wanted: Wanted) -> Crate:
    """Make an empty crate that has no number yet and is not kept; raises as `make`."""
    spec = _in_force(session, wanted.spec)
    due = wanted.due_at
    return Crate(
        number=0,
        title=wanted.title.strip(),
        recipient_key=spec.recipient_key,
        spec_id=spec.id,
        spec_version=spec.version,
        due_at=due if due.tzinfo else due.replace(tzinfo=UTC),
    )


def _in_force(session: Session, id: str) -> SpecVersion:
    spec = specs.get(session, id)
    if specs.current(specs.versions(session, id)) is not spec:
        raise Refused(
            f"The spec '{id}' is not in force.",
            "Choose one that is, or put this one in force first.",
        )
    return spec


def parts(session: Session, masters: Sequence[int], spans: Sequence[int]) -> list[Part]:
    """Find what is to go into a crate: masters, and named ranges.

    Raises:
        BadValue: nothing is.
    """
    if not masters and not spans:
        raise BadValue(
            "Nothing was chosen to go into the crate.", "Choose a master, or a range of one."
        )
    whole: list[Part] = [(get(session, Master, id), None) for id in masters]
    ranges = [get(session, NamedSpan, id) for id in spans]
    return whole + [(get(session, Master, row.master_id), span_of(row)) for row in ranges]


def span_of(row: NamedSpan) -> dict[str, Any]:
    """Give a named range as an item keeps it."""
    return {"name": row.name, "first": row.first, "frames": row.frames}


def put_in(session: Session, crate: Crate, wanted: Sequence[Part]) -> list[str]:
    """Put masters, and ranges of some, into a crate that has them not yet.

    Returns:
        what the house begins with and one of them cannot take, in words.
    """
    there = {mark_of(d.master_id, d.span) for d in crate.deliverables}
    fresh = []
    for master, span in wanted:
        mark = mark_of(master.id, span)
        if mark not in there:
            there.add(mark)
            fresh.append(add_item(crate, master, span))
    session.flush()
    return [f"{left.what}: {left.why}" for one in fresh for left in house.begin(one).left]


def add_item(crate: Crate, master: Master, span: dict[str, Any] | None) -> Deliverable:
    """Add an item at the end of a crate."""
    item = Deliverable(master=master, span=span, position=len(crate.deliverables))
    crate.deliverables.append(item)
    return item


def clone(
    session: Session, crate: Crate, wanted: Sequence[tuple[Deliverable, Part]]
) -> list[tuple[Deliverable, Carried]]:
    """Fill a crate with items that are like others: what was chosen for these is chosen for them,
    but for their names.

    Args:
        session: of all of them.
        crate: without items.
        wanted: for each the item that it is like, and the master and range that it is made of.

    Returns:
        each with what it took, and what it cannot take.
    """
    items = [add_item(crate, master, span) for _, (master, span) in wanted]
    session.flush()
    return [
        (item, carrying_over.carry_over(like, item, []))
        for item, (like, _) in zip(items, wanted, strict=True)
    ]


def choose(wanted: Mapping[str, Any], items: Sequence[Deliverable]) -> list[Carried]:
    """Choose the same for several items, each what it can take; None for what is planned.

    Raises:
        Refused: a run of one of them goes on.
    """
    for item in items:
        require_at_rest(item)
    return [carrying_over.take_over(wanted, item) for item in items]


def fill_names(filling: Filling, items: Sequence[Deliverable]) -> list[Carried]:
    """Fill in the names of several items, in their order; raises as `choose`."""
    for item in items:
        require_at_rest(item)
    return [_filled(filling, item, place) for place, item in enumerate(items)]


def _filled(filling: Filling, item: Deliverable, place: int) -> Carried:
    try:
        values = filling.values(item.master.name, place)
    except AmpleError as error:
        what = ", ".join(filling.fields)
        return Carried([], [LeftOut(what, error.what, error.way_out)])
    named = {f"name.{field}": value.strip() or None for field, value in values.items()}
    return carrying_over.take_over(named, item)
