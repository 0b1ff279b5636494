"""What becomes of the colour of a deliverable's picture, and of its transparency."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..core.errors import Refused
from ..core.facts import Facts
from ..core.facts.properties import lookup
from ..core.formats import PICTURE
from ..core.planning import region
from ..core.planning.plan import Route
from ..store.models import Deliverable
from . import origins, status

KEYS = (
    "picture.matrix",
    "picture.primaries",
    "picture.transfer",
    "picture.range",
    "picture.chroma",
    "picture.bit_depth",
    "picture.alpha",
)
# Matrix, primaries and transfer change as a set.
SET, OF_A_SET = "picture.matrix", frozenset({"picture.primaries", "picture.transfer"})
HELD = frozenset({"picture.range", "picture.chroma", "picture.bit_depth"})
UNSTATED = "not stated"


@dataclass(frozen=True)
class Row:
    """A property of colour.

    Attributes:
        key, label: of the property.
        master, made: its value in the master, and as it is made.
        why: what changes it; empty where it stays, or is not known of both.
    """

    key: str
    label: str
    master: str
    made: str
    why: str


@dataclass(frozen=True)
class Colour:
    """What becomes of the colour.

    Attributes:
        rows: of each property; none while nothing can be made.
        clear: whether anything of the master can be seen through.
        shape: of the master's upright frame as shown, width by height.
    """

    rows: list[Row]
    clear: bool
    shape: Fraction


def of(deliverable: Deliverable) -> Colour:
    """Say what becomes of the colour of a deliverable's picture.

    Raises:
        Refused: its master has no picture, or is not read yet.
    """
    master = origins.delivered(deliverable)
    if region.picture_of(master) is None:
        raise Refused("The master has no picture.", "Look at its sound instead.")
    frame = region.frame_of(master)
    route = status.item_of(deliverable).route
    known = route is not None and route.facts.value("picture.codec") is not None
    rows = [_row(key, master, route) for key in KEYS] if known and route is not None else []
    shape = frame.aspect * Fraction(frame.size.width, frame.size.height)
    return Colour(rows, bool(master.value("picture.alpha")), shape)


def _row(key: str, master: Facts, route: Route) -> Row:
    prop = lookup(key)
    before, after = (
        UNSTATED if value is None else prop.kind.show(value)
        for value in (master.value(key), route.facts.value(key))
    )
    changes = UNSTATED not in {before, after} and before != after
    return Row(key, prop.label, before, after, _why(key, route) if changes else "")


def _why(key: str, route: Route) -> str:
    """Say what changes a property: a step, how the codec holds samples, or a caution."""
    keys = {key, SET} if key in OF_A_SET else {key}
    said = [step.title for step in route.steps if keys & set(step.rows)]
    if not said and key in HELD:
        return f"{PICTURE[str(route.facts.value('picture.codec'))].label} holds its samples so"
    return "; ".join(said or [caution.what for caution in route.cautions if caution.row == key])
