"""How a deliverable's picture moves: by which clock, for how long."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..core.errors import Refused
from ..core.planning.plan import Plan
from ..core.planning.speed import speed_of
from ..store import masters
from ..store.models import Deliverable
from . import origins, status


@dataclass(frozen=True)
class Clock:
    """How long a picture runs, and by which clock.

    Attributes:
        rate: frames a second.
        frames: how many.
        seconds: for how long.
        fields: whether its frames are two fields.
    """

    rate: Fraction
    frames: int
    seconds: Fraction
    fields: bool


@dataclass(frozen=True)
class Motion:
    """How a picture moves.

    Attributes:
        own: as it is in the master.
        made: as it is made; None while it cannot be.
        natural: the rate at which the master could be taken so that every frame is shown once.
        plan: by which it is made.
    """

    own: Clock
    made: Clock | None
    natural: Fraction | None
    plan: Plan | None


def of(deliverable: Deliverable) -> Motion:
    """Say how a deliverable's picture moves.

    Raises:
        Refused: its master has no moving picture.
    """
    master, whole = origins.delivered(deliverable), masters.known(deliverable.master)
    rate = master.fraction("motion.rate")
    if rate is None:
        raise Refused("The master has no moving picture.", "Look at its framing instead.")
    frames = int(master.value("motion.frames") or 0)
    interlaced = master.value("motion.scan") == "interlaced"
    plan, made = status.shown(deliverable), None
    if plan is not None and plan.picture is not None:
        f = plan.picture.format
        made = Clock(f.rate, plan.frames, plan.seconds, f.fields is not None)
    speed = speed_of(whole, deliverable.choices)
    return Motion(
        own=Clock(rate, frames, frames / rate, interlaced),
        made=made,
        natural=speed.natural(None if made is None else made.rate),
        plan=plan,
    )
