"""What was chosen for a deliverable, gone back to and taken up again."""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session

from ..core.errors import Refused
from ..store.models import Deliverable, Master
from . import choosing

KEPT = 50  # steps back


def remember(deliverable: Deliverable, before: dict[str, Any]) -> None:
    """Remember how it was before something was chosen, if that changed anything."""
    if before == state(deliverable):
        return
    deliverable.earlier = [*deliverable.earlier, before][-KEPT:]
    deliverable.later = []


def state(deliverable: Deliverable) -> dict[str, Any]:
    """Give all that is chosen: {choices, sound, under, span, cut}, the second and third as masters'
    numbers.
    """
    sound, under = deliverable.sound, deliverable.under
    return {
        "choices": dict(deliverable.choices),
        "sound": None if sound is None else sound.id,
        "under": None if under is None else under.id,
        "span": deliverable.span,
        "cut": deliverable.cut,
    }


def undo(session: Session, deliverable: Deliverable) -> list[str]:
    """Go back to what was chosen before.

    Returns:
        what of it the spec does not allow any more, in words.

    Raises:
        Refused: there is nothing to go back to.
    """
    if not deliverable.earlier:
        raise Refused("There is no earlier choice.", "Choose anew.")
    now, back = state(deliverable), deliverable.earlier[-1]
    deliverable.earlier = deliverable.earlier[:-1]
    deliverable.later = [*deliverable.later, now]
    return _take(session, deliverable, back)


def redo(session: Session, deliverable: Deliverable) -> list[str]:
    """Take up again what was gone back from; returns and raises as `undo`."""
    if not deliverable.later:
        raise Refused("There is no later choice.", "Choose anew.")
    now, on = state(deliverable), deliverable.later[-1]
    deliverable.later = deliverable.later[:-1]
    deliverable.earlier = [*deliverable.earlier, now]
    return _take(session, deliverable, on)


def _take(session: Session, deliverable: Deliverable, wanted: dict[str, Any]) -> list[str]:
    deliverable.choices = {}
    if "span" in wanted:  # before ranges could be changed none was remembered
        deliverable.span, deliverable.cut = wanted["span"], wanted["cut"]
    for name in ("sound", "under"):
        id = wanted[name]
        setattr(deliverable, name, None if id is None else session.get(Master, id))
    return choosing.take(deliverable, wanted["choices"])
