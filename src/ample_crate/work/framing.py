"""How a deliverable's picture is framed, and which parts of it offer themselves."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.errors import Refused
from ..core.planning import reframing, region
from ..core.planning.framed import Framed, framed
from ..core.planning.reframing import REFRAMED, Range
from ..core.units.geometry import Alignment, Frame, Rect
from ..store.models import Deliverable
from . import origins, status


@dataclass(frozen=True)
class Framing:
    """How a picture is framed at a frame.

    Attributes:
        master: the upright frame that is there.
        picture: the part of it that is picture.
        region: the part that is taken.
        framing: how that is set into the frame: pad, crop or stretch.
        ranges: those that are framed otherwise.
        within: which of them the frame lies in; None where in none.
        alignment: steps in which a part is taken.
        parts: parts that offer themselves, by name.
        framed: what the route does; None while it cannot be made.
    """

    master: Frame
    picture: Rect
    region: Rect
    framing: str
    ranges: tuple[Range, ...]
    within: int | None
    alignment: Alignment
    parts: dict[str, Rect]
    framed: Framed | None


def of(deliverable: Deliverable, frame: int | None = None) -> Framing:
    """Say how a deliverable is framed at a frame of its master's file; with none, as most of it.

    Raises:
        BadValue: the region that was chosen is none of the master's any more.
        Refused: its master has no picture, or is not read yet.
    """
    master = origins.delivered(deliverable)
    picture = region.picture_of(master)
    if picture is None:
        raise Refused("The master has no picture.", "Look at its sound instead.")
    choices, spec = deliverable.choices, status.spec_of(deliverable.crate)
    usual = str(choices.get("framing", spec.coding.framing))
    ranges = reframing.read(str(choices.get(REFRAMED, "")))
    within = None if frame is None else reframing.range_at(ranges, frame)
    text = str(choices.get(region.REGION, "")) if within is None else ranges[within].region
    chosen = region.region_of(master, text)
    plan = status.shown(deliverable)
    seen = None if plan is None or plan.picture is None else framed(plan.picture, frame)
    active = spec.coding.active_width
    return Framing(
        master=region.frame_of(master),
        picture=picture,
        region=chosen or picture,
        framing=usual if within is None else ranges[within].framing or usual,
        ranges=ranges,
        within=within,
        alignment=region.alignment_of(str(master.value("picture.chroma") or "")),
        parts=region.parts(master, None if seen is None else seen.shape(active)),
        framed=seen,
    )
