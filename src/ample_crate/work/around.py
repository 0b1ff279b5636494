"""What stands around a deliverable's programme, and where each part of what is made begins."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from ..core.planning import leader
from ..core.planning.plan import Plan
from ..core.units import timecode
from ..store.models import Deliverable
from . import status

PROGRAMME = "programme"


@dataclass(frozen=True)
class Stretch:
    """A part of what is made.

    Attributes:
        kind: "bars", "slate", "black" or "programme".
        first: its first frame.
        frames: how many.
        label: timecode of the first; empty where there is none.
    """

    kind: str
    first: int
    frames: int
    label: str


@dataclass(frozen=True)
class Ends:
    """What stands around a programme.

    Attributes:
        asked: the leader that the spec asks for; "" where it asks for none.
        rate: frames a second; None while nothing can be made.
        stretches: in order.
    """

    asked: str
    rate: Fraction | None
    stretches: tuple[Stretch, ...]


def of(deliverable: Deliverable) -> Ends:
    """Say what stands around a deliverable's programme."""
    asked = leader.asked(status.asked_of(status.item_of(deliverable)))
    plan = status.shown(deliverable)
    if plan is None or plan.picture is None:
        return Ends(asked, None, ())
    return Ends(asked, plan.picture.format.rate, tuple(_stretches(plan)))


def _stretches(plan: Plan) -> Iterator[Stretch]:
    parts: list[tuple[str, int]] = [(one.kind, one.frames) for one in plan.around.before]
    parts += [(PROGRAMME, plan.frames - plan.around.frames), ("black", plan.around.after)]
    first = 0
    for kind, frames in parts:
        if frames:
            yield Stretch(kind, first, frames, _label(plan, first))
        first += frames


def _label(plan: Plan, place: int) -> str:
    start, picture = plan.files[0].timecode, plan.picture
    if start is None or picture is None:
        return ""
    rate = picture.format.rate
    return timecode.show(timecode.read(start, rate) + place, rate, ";" in start)
