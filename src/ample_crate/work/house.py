"""What is chosen once, and kept as the house's: a new version of the spec says it."""

from __future__ import annotations

from collections.abc import Sequence
from copy import deepcopy
from typing import Any

from sqlalchemy.orm import Session

from ..core.errors import BadValue, Refused
from ..core.planning.under import BACKGROUND
from ..core.specs.delivery import STILL
from ..core.specs.spec import BEGINS_WITH, EITHER
from ..store import specs
from ..store.models import Deliverable, SpecVersion
from . import usual
from .carrying_over import Carried, take_over
from .status import spec_of


def may_keep(key: str, value: object) -> bool:
    """Say whether a choice can be the house's: the fields of a name, tracks and other masters are
    each one's own.
    """
    if key.startswith("name.") or (key, value) == (BACKGROUND, STILL):
        return False
    return "." in key or key in BEGINS_WITH


def keep(session: Session, one: Deliverable, keys: Sequence[str]) -> SpecVersion:
    """Keep what is chosen for a deliverable as the house's, in a new version of its crate's spec:
    what is not chosen there is the house's choice no more.

    Args:
        session: keeps it.
        one: whose choices they are.
        keys: which of them; none for all. What cannot be the house's is passed over.

    Raises:
        BadValue: nothing of it is chosen that the house could keep.
        Refused: another version is being written, or the house has all of it already.
    """
    chosen = one.choices
    wanted = [key for key in keys or chosen if may_keep(key, chosen.get(key))]
    newest = _newest(session, one.crate.spec_id)
    document = deepcopy(newest.document)
    for key in wanted:
        _put(document, key, chosen.get(key))
    if document == newest.document:
        if any(key in chosen for key in wanted):
            raise Refused("The house has chosen so already.", "New crates begin with it.")
        raise BadValue("Nothing is chosen that the house could keep.", "Choose something first.")
    return specs.save(session, document, newest.version)


def _newest(session: Session, id: str) -> SpecVersion:
    rows = specs.versions(session, id)
    newest = rows[-1]
    if specs.current(rows) is not newest:
        raise Refused(
            f"Version {newest.version} of the spec is not in force yet.",
            "Put it in force first, or write the choice there.",
        )
    return newest


def _put(document: dict[str, Any], key: str, value: Any) -> None:
    """Say a choice in a spec's document, or with None say it no more."""
    plain = "." in key and not key.startswith(EITHER)
    name = "house" if plain else "begins_with"
    said = dict(document.get(name) or {})
    if value in (None, ""):
        said.pop(key, None)
    else:
        said[key] = {**said.get(key, {}), "value": value} if plain else str(value)
    document[name] = said
    if not said:
        del document[name]


def begin(one: Deliverable) -> Carried:
    """Choose for a deliverable what its crate's spec has new ones begin with, where it can; and the
    set of house choices that is usual for the recipient.
    """
    usually = usual.house_of(one.crate)
    return take_over(spec_of(one.crate).begins_with | ({"house": usually} if usually else {}), one)
