"""The masters that a deliverable is made of: that of its picture, another whose sound goes with it,
and another that its transparency is laid over.
"""

from __future__ import annotations

from pathlib import Path

from ..core.facts import Facts
from ..core.facts.span import Span
from ..core.planning import beside, request
from ..core.planning.beside import Beside
from ..core.planning.request import Item
from ..core.specs.delivery import STILL
from ..store import masters
from ..store.models import Deliverable, Master

# From what stands most in the way to what does least.
STATES = ("failed", "changed", "reading", "measuring", "ready")


def of(deliverable: Deliverable) -> list[Master]:
    """List them, that of the picture first, then as a plan's inputs."""
    laid = deliverable.choices.get("background") == STILL
    more = [deliverable.sound, deliverable.under if laid else None]
    return [deliverable.master, *(row for row in more if row is not None)]


def paths(deliverable: Deliverable) -> list[Path]:
    """List their files."""
    return [Path(row.path) for row in of(deliverable)]


def hindrance(deliverable: Deliverable) -> Master:
    """Give the one whose state stands most in the way."""
    return min(of(deliverable), key=lambda row: STATES.index(row.state))


def state(deliverable: Deliverable) -> str:
    """Give the state of all together."""
    return hindrance(deliverable).state


def ids(deliverable: Deliverable) -> set[int]:
    """Give the masters' numbers."""
    return {row.id for row in of(deliverable)}


def bytes_of(deliverable: Deliverable) -> str | None:
    """Name the masters' bytes: their SHA-256, joined by "+"; None where one is not known."""
    sums = [row.sha256 for row in of(deliverable)]
    return None if None in sums else "+".join(map(str, sums))


def sound_of(deliverable: Deliverable) -> Beside | None:
    """Give what is known of the other master whose sound goes along, if there is one."""
    row = deliverable.sound
    return None if row is None else Beside(row.name, masters.known(row))


def under_of(deliverable: Deliverable) -> Beside | None:
    """Give what is known of the master that transparency may be laid over, if there is one."""
    row = deliverable.under
    return None if row is None else Beside(row.name, masters.known(row))


def known(deliverable: Deliverable) -> Facts:
    """Give what is known of the masters together.

    Raises:
        BadValue, Impossible: the sound cannot be laid as chosen.
    """
    picture, sound = masters.known(deliverable.master), sound_of(deliverable)
    if sound is None:
        return picture
    chosen = str(deliverable.choices.get(beside.LAID, ""))
    return beside.joined(picture, sound, beside.lay(picture, sound, chosen))


def delivered(deliverable: Deliverable) -> Facts:
    """Give the facts of what is delivered: the range, upright, with the tracks that were chosen.

    Raises:
        BadValue: the range, or the tracks, are none of the masters'.
        Impossible: the sound cannot be laid as chosen.
    """
    span = Span.model_validate(deliverable.span) if deliverable.span else None
    item = Item(span=span, sound=sound_of(deliverable))
    return request.delivered(masters.known(deliverable.master), item, deliverable.choices)
