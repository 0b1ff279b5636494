"""How a deliverable's picture is framed, and which parts of it offer themselves."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.errors import Refused
from ..core.planning import region
from ..core.planning.framed import Framed, framed
from ..core.units.geometry import Alignment, Frame, Rect
from ..store.models import Deliverable
from . import origins, status


@dataclass(frozen=True)
class Framing:
    """How a picture is framed.

    Attributes:
        master: the upright frame that is there.
        picture: the part of it that is picture.
        region: the part that is taken.
        alignment: steps in which a part is taken.
        parts: parts that offer themselves, by name.
        framed: what the route does; None while it cannot be made.
    """

    master: Frame
    picture: Rect
    region: Rect
    alignment: Alignment
    parts: dict[str, Rect]
    framed: Framed | None


def of(deliverable: Deliverable) -> Framing:
    """Say how a deliverable is framed.

    Raises:
        BadValue: the region that was chosen is none of the master's any more.
        Refused: its master has no picture, or is not read yet.
    """
    master = origins.delivered(deliverable)
    picture = region.picture_of(master)
    if picture is None:
        raise Refused("The master has no picture.", "Look at its sound instead.")
    chosen = region.region_of(master, str(deliverable.choices.get(region.REGION, "")))
    plan = status.shown(deliverable)
    seen = None if plan is None or plan.picture is None else framed(plan.picture)
    active = status.spec_of(deliverable.crate).coding.active_width
    return Framing(
        master=region.frame_of(master),
        picture=picture,
        region=chosen or picture,
        alignment=region.alignment_of(str(master.value("picture.chroma") or "")),
        parts=region.parts(master, None if seen is None else seen.shape(active)),
        framed=seen,
    )
