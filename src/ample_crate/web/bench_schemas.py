"""What the planning bench sends and gets."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import Field, RootModel

from ..core.units.geometry import Rect
from ..work.carrying_over import Carried
from .schemas import In, Out


class RectOut(Out):
    """A rectangle in samples, from the top left."""

    x: int
    y: int
    width: int
    height: int

    @classmethod
    def of(cls, rect: Rect) -> RectOut:
        """Give a rectangle as it is sent."""
        return cls(x=rect.x, y=rect.y, width=rect.width, height=rect.height)


class PartOut(Out):
    """A part of the picture that may be chosen, by its name."""

    label: str
    region: RectOut


class SeenOut(Out):
    """How the route frames the picture."""

    crop: RectOut = Field(description="what is seen, in samples of the upright master")
    place: RectOut = Field(description="where it lies, in samples of the frame made")
    width: int
    height: int
    pixel_aspect: str
    roundness: float = Field(description="a circle's width by its height as shown")


class FramedQuery(In):
    """At which frame of the master's file; none for what is framed as most of it."""

    frame: int | None = Field(None, ge=0, le=2**31)


class ReframedOut(Out):
    """A range of the master's file that is framed otherwise than the rest, both ends within."""

    first: int
    last: int
    region: str = Field(description="empty for all of the picture")
    framing: str = Field(description="empty for that of the rest")


class FramingOut(Out):
    """How a deliverable's picture is framed at a frame, and how it could be."""

    width: int = Field(description="of the upright master's frame, in samples")
    height: int
    pixel_aspect: str
    picture: RectOut = Field(description="the part of the frame that is picture")
    region: RectOut = Field(description="the part that is taken")
    framing: str = Field(description="how it is set into the frame: pad, crop or stretch")
    reframed: list[ReframedOut]
    within: int | None = Field(description="which of those the frame lies in; none where in none")
    columns: int = Field(description="step in which columns are cut")
    lines: int = Field(description="step in which lines are cut")
    least: int = Field(description="columns and lines that are taken at least")
    parts: list[PartOut]
    seen: SeenOut | None = Field(description="none while nothing can be made")


class StripQuery(In):
    """Where a strip of consecutive frames begins, and how many it has."""

    place: int = Field(default=0, ge=0, le=10**8)
    count: int = Field(default=10, ge=1, le=60)


class ClockOut(Out):
    """How long a picture runs, and by which clock."""

    rate: str
    frames: int
    seconds: float
    fields: bool = Field(description="whether its frames are two fields")


class ShownOut(Out):
    """A frame of what is made, and the master's frame that it shows."""

    place: int
    source: int
    other: int | None = Field(
        description="the other of the master's frames that it is made of, if one is"
    )
    share: float = Field(description="how near it is to that, from 0 to 1")
    followed: bool = Field(description="whether it is made along what moves, else mixed")
    standing: str | None = Field(description="what stands there around the programme, if anything")


class MotionOut(Out):
    """How a picture moves, before and after, and a strip of what is made."""

    own: ClockOut
    made: ClockOut | None = Field(description="none while nothing can be made")
    natural: str | None = Field(
        description="the rate at which the master could be taken so that every frame is shown once"
    )
    strip: list[ShownOut]


class ColourRowOut(Out):
    """A property of colour, in the master and as it is made."""

    key: str
    label: str
    master: str
    made: str
    why: str = Field(description="what changes it; empty where it stays")


class ColourOut(Out):
    """What becomes of a picture's colour."""

    rows: list[ColourRowOut] = Field(description="none while nothing can be made")
    clear: bool = Field(description="whether anything of the master can be seen through")
    shape: float = Field(description="of the master's frame as shown, width by height")


class KeepIn(In):
    """Which choices of a deliverable become the house's."""

    keys: list[str] = Field(default=[], description="none for all that can be kept")


class KeptOut(Out):
    """The version of a spec that says what the house chose."""

    spec: str
    version: int
    chosen: bool = Field(description="whether it says any; else it is left to each crate")


class CarryOver(In):
    """Which choices are carried over to which deliverables of the crate."""

    to: list[int]
    keys: list[str] = Field(
        default=[], description="none for all that are chosen, but for fields of the name"
    )


class LeftOutOut(Out):
    """A choice that could not carry over, and why."""

    item: str
    what: str
    why: str
    way_out: str


class AlikeOut(Out):
    """A deliverable that may take over what is chosen for another; `here` in the same crate."""

    id: int
    name: str
    here: bool


class AlikeList(RootModel[list[AlikeOut]]):
    """Several of them."""


class CarriedOver(Out):
    """What came of carrying choices over."""

    to: list[str] = Field(description="the deliverables that took any of them")
    left_out: list[LeftOutOut]

    @classmethod
    def of(cls, made: Sequence[tuple[str, Carried]]) -> CarriedOver:
        """Give it as it is sent; `made` says it for each deliverable, by its name."""
        left = [
            LeftOutOut(item=name, what=one.what, why=one.why, way_out=one.way_out)
            for name, carried in made
            for one in carried.left
        ]
        return cls(to=[name for name, carried in made if carried.taken], left_out=left)
