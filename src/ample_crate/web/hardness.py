"""How hard the pictures of a deliverable are: what quality a rate buys of them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, NotFound
from ..core.planning import ready, share
from ..core.units.values import read_bit_rate
from ..store import masters
from ..store.models import Deliverable
from ..store.past import past
from ..store.queries import get
from ..store.studied import Sampling
from ..work import hardness, origins, sampling, status
from ..work.hardness import Learned
from . import pictures
from .schemas import ErrorOut, FramePath, Out, PlannedQuery
from .services import give, services
from .studies import Asked, StudyOut, add, standing

api = APIBlueprint(
    "hardness", __name__, url_prefix="/api/crates/deliverables", abp_tags=[Tag(name="crates")]
)

SHORT = 10  # seconds
LEAST, MOST, POINTS = 0.25, 4.0, 33  # of the planned rate; of the curve


class BoughtOut(Out):
    """What a rate buys."""

    bit_rate: int = Field(description="of the picture, b/s")
    size: int = Field(description="of the files, in bytes")
    make: float | None = Field(description="seconds to encode them; none where nothing tells")
    send: float = Field(description="seconds to send them over the recipient's line")
    near: bool = Field(description="whether it lies near what was tried, and can be foretold")
    psnr: float
    ssim: float
    xpsnr: float


class ZoneOut(Out):
    """A figure of quality, and the rate from which on it is reached."""

    quality: float
    bit_rate: int | None = Field(description="none where that lies far from what was tried")
    size: int | None = Field(description="of the files at that rate, in bytes")


class HardOut(Out):
    """A stretch, and how good it is at the planned rate."""

    first: int = Field(description="its first frame, of what is made")
    frames: int
    seconds: float = Field(description="from the start of what is made")
    bit_rate: int
    xpsnr: float


class SampledOut(Out):
    """What was looked at, and what that took."""

    stretches: int
    frames: int
    of: int
    seconds: float


class LearnedOut(Out):
    """What was learned, seen from the present plan."""

    points: list[BoughtOut]
    planned: BoughtOut
    cap: BoughtOut | None = Field(description="at the rate that fills the cap")
    cap_of: str
    allowed: list[int | None] = Field(description="the least and the most that the spec takes, b/s")
    tried: list[int] = Field(description="the least and the most rate that was tried, b/s")
    short: bool = Field(description="whether an encoder may spend otherwise over so few seconds")
    clean: ZoneOut
    poor: ZoneOut
    hardest: list[HardOut]
    sampled: SampledOut
    above: float = Field(
        description="dB by which earlier runs came out above what samples foretold: counted in"
    )


class CodedQuery(PlannedQuery):
    """How a frame is shown as it looks coded, and at which rate of the picture, b/s."""

    rate: int = Field(ge=1000, le=10**11)


class HardnessOut(StudyOut):
    """How hard pictures are, and where learning that stands; `state` is "none" where nobody asked.

    `hindrance` says why it cannot be learned; `stale` that what was learned is of another picture
    than the one that is planned now.
    """

    hindrance: ErrorOut | None
    stale: bool
    learned: LearnedOut | None


@api.get(
    "/<int:id>/coded/<int:frame>",
    summary="A frame of a part that was looked at, as it looks coded at a rate, as JPEG",
)
def coded(path: FramePath, query: CodedQuery) -> Response:
    """Give a frame of what will be made as the encoder leaves it; frames are counted from the first
    made.
    """
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        plan, row = sampling.plan_of(one), sampling.STUDY.of(session, one.id)
        found = sampling.learned(row, one)
        if found is None:
            raise NotFound("It was not looked at yet.", "Look how hard these pictures are first.")
        part, place = hardness.part_of(found, plan, path.frame, query.rate)
        files, mark = origins.paths(one), masters.mark(one.master)
    return pictures.coded(files, part, place, query, mark)


def _given(session: Session, one: Deliverable) -> Response:
    row: Sampling | None = sampling.STUDY.of(session, one.id)
    found, hindrance, known = None, None, ready.NO_PAST
    try:
        sampling.plan_of(one)
        known = past(session)
        found = sampling.learned(row, one, known)
    except AmpleError as error:
        hindrance = ErrorOut.model_validate(error.as_json())
    kept = row is not None and row.found is not None
    return give(
        HardnessOut(
            **standing(row),
            hindrance=hindrance,
            stale=kept and found is None,
            learned=None if found is None else _learned(found, one, known),
        )
    )


def _learned(found: Learned, one: Deliverable, known: ready.Past) -> LearnedOut:
    item, told = status.item_of(one), found.document()
    assert item.route is not None
    plan = item.route.shown
    assert plan is not None
    encode = ready.encode_seconds(plan.effort, plan.work, known, plan.made_as)
    size, seconds = item.route.size, found.of / found.rate
    line = read_bit_rate(str(one.crate.recipient.document["line_rate"]))
    spec = status.spec_of(one.crate)
    cap, of = share.cap_of_item(spec, item.share)

    def weighs(rate: float) -> int:
        return max(0, round(size + (rate - found.planned) * seconds / 8))

    def zone(one: Mapping[str, Any]) -> ZoneOut:
        rate = one["bit_rate"]
        return ZoneOut(**one, size=None if rate is None else weighs(rate))

    def bought(rate: float) -> BoughtOut:
        slower = found.hardness.slower(rate, found.planned)
        return BoughtOut(
            bit_rate=round(rate),
            size=weighs(rate),
            make=None if slower is None else encode * slower,
            send=ready.transfer_seconds(weighs(rate), line),
            near=found.hardness.reaches(rate),
            **found.hardness.figures(rate),
        )

    fills = None if cap is None else found.planned + 8 * (cap - size) / seconds
    step = (MOST / LEAST) ** (1 / (POINTS - 1))
    points = [bought(found.planned * LEAST * step**n) for n in range(POINTS)]
    return LearnedOut(
        points=[point for point in points if point.near],
        planned=bought(found.planned),
        cap=None if fills is None or fills <= 0 else bought(fills),
        cap_of=of,
        allowed=list(sampling.allowed(item)),
        tried=[round(rate) for rate in found.hardness.tried],
        short=seconds < SHORT,
        clean=zone(told["clean"]),
        poor=zone(told["poor"]),
        hardest=[HardOut.model_validate(part) for part in told["hardest"]],
        sampled=SampledOut.model_validate(told["sampled"]),
        above=found.hardness.above,
    )


add(
    api,
    Asked(
        name="hardness",
        of=Deliverable,
        study=sampling.STUDY,
        begin=sampling.begin,
        given=_given,
        out=HardnessOut,
        shows="What quality a rate buys of a deliverable's pictures",
        begins="Learn what quality a rate buys of a deliverable's pictures",
        stops="Stop learning what quality a rate buys",
    ),
)
