"""A route as data: what the planner hands to the page, to the store and to the child that
encodes.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, PlainSerializer, WithJsonSchema

from ..facts import Facts
from ..units.values import fraction

Exact = Annotated[
    Fraction,
    BeforeValidator(fraction),
    PlainSerializer(lambda v: f"{v.numerator}/{v.denominator}", return_type=str),
    WithJsonSchema({"type": "string", "description": "an exact fraction such as 25/1"}),
]


class Part(BaseModel):
    """A part of a plan; unknown names are refused."""

    model_config = ConfigDict(extra="forbid", frozen=True, arbitrary_types_allowed=True)


class Operation(Part):
    """One thing done to every frame, in order.

    Kinds: frames_from_fields (deinterlace; `rate` of the frames made), resample (to `rate`), turn
    (by `degrees` anticlockwise, a multiple of 90), crop, scale, pad (by `x`, `y`, `width`,
    `height`), colour (`source` to `target` matrix), fields_from_frames (`order` first; the frames
    come at field rate).
    """

    kind: Literal[
        "frames_from_fields",
        "resample",
        "turn",
        "crop",
        "scale",
        "pad",
        "colour",
        "fields_from_frames",
    ]
    x: int = 0
    y: int = 0
    width: int = 0
    height: int = 0
    rate: Exact = Fraction(0)
    order: str = ""
    source: str = ""
    target: str = ""
    degrees: int = 0


class PictureSource(Part):
    """How the master's picture is to be understood; `uneven` frames do not last equally long.

    `first` is the frame that is delivered first, found by its time where the clock is `steady`;
    `reclock` gives the frames `rate` whatever their time stamps say.
    """

    rate: Exact
    interlaced: bool
    order: str
    pixel_aspect: Exact
    matrix: str
    primaries: str
    transfer: str
    full_range: bool
    first: int = 0
    steady: bool = False
    reclock: bool = False
    uneven: bool = False


class PictureTarget(Part):
    """The picture to make. Bit rates are b/s, `buffer` is the VBV in bits; `named` has the stream's
    header name both.
    """

    codec: str
    profile: str
    level: Exact | None
    profile_level: str
    width: int
    height: int
    pixel_aspect: Exact
    rate: Exact
    interlaced: bool
    order: str
    chroma: str
    bit_depth: int
    matrix: str
    bit_rate: int
    max_rate: int
    buffer: int
    constant: bool
    passes: Literal[1, 2]
    gop: int
    b_frames: int
    reference_frames: int
    slices: int = 1
    named: bool = False


class SoundTarget(Part):
    """The sound to make.

    Attributes:
        tracks: of the master, counted from 1, whose channels are taken in this order; none for
        silence.
        gains: a row a channel made, in the layout's order; in it a figure a channel taken.
        limited: whether peaks can add up over full scale, so that a limiter holds them.
    """

    codec: str
    sample_rate: int
    layout: str
    bit_rate: int | None
    tracks: list[int]
    gains: list[list[Exact]]
    limited: bool = False


class Plan(Part):
    """All that the child needs to make the file; and what it is held to: what it may weigh, the
    least and the most picture rate.
    """

    source: PictureSource
    operations: list[Operation]
    picture: PictureTarget
    sound: SoundTarget | None
    wrapper: str
    index_in_front: bool
    seconds: Exact
    size_cap: int | None = None
    least_rate: Exact | None = None
    most_rate: Exact | None = None


class Step(Part):
    """One step of the route, its reason, and the ledger rows it bridges."""

    title: str
    reason: str
    rows: list[str]


class Caution(Part):
    """Something to know before running: what, why it matters, the figures, the way out."""

    row: str
    what: str
    why: str
    figures: str
    way_out: str
    blocks: bool = False


class Route(Part):
    """The planned chain from a master to a deliverable.

    Attributes:
        plan: None where a caution blocks.
        predicted: facts that the finished file should have, as `Facts.as_json` gives them.
        size: predicted bytes.
        choices: the value in force of each property that leaves room.
    """

    steps: list[Step]
    cautions: list[Caution]
    plan: Plan | None
    predicted: dict[str, dict[str, Any]]
    size: int
    choices: dict[str, Any]

    @property
    def facts(self) -> Facts:
        """Give the predicted facts."""
        return Facts.from_json(self.predicted)
