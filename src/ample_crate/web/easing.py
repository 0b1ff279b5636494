"""What would make a deliverable's pictures look better at the planned rate."""

from __future__ import annotations

from typing import Literal

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core.errors import AmpleError
from ..store.models import Deliverable
from ..store.past import past
from ..store.studied import Easing
from ..work import easing
from .schemas import ErrorOut, Out
from .services import give
from .studies import Asked, StudyOut, add, standing

api = APIBlueprint(
    "easing", __name__, url_prefix="/api/crates/deliverables", abp_tags=[Tag(name="crates")]
)


class EasedOut(Out):
    """What one other choice gives at the planned rate."""

    kind: Literal["frame", "rate", "codec"]
    key: str = Field(description="of the choice")
    value: str
    says: str
    near: bool = Field(description="whether the rate lies near what was tried")
    xpsnr: float = Field(description="of a smaller frame, against that frame before coding")
    psnr: float
    ssim: float
    poor: int | None = Field(
        description="b/s from which on it is not poor; none where that lies far from what was tried"
    )


class EasingOut(StudyOut):
    """What would help, and where looking at it stands; `hindrance` says why nothing can be looked
    at, `stale` that what was found is of what was planned before.
    """

    hindrance: ErrorOut | None
    stale: bool
    offered: list[str] = Field(description="what may be chosen otherwise, in words")
    bit_rate: int | None = Field(description="b/s at which it was looked at")
    ways: list[EasedOut]


def _given(session: Session, one: Deliverable) -> Response:
    row: Easing | None = easing.STUDY.of(session, one.id)
    found, hindrance, offered = None, None, list[easing.Way]()
    try:
        offered = easing.ways(one)
        found = easing.found(row, one, offered, past(session))
    except AmpleError as error:
        hindrance = ErrorOut.model_validate(error.as_json())
    known = row is not None and row.found is not None
    rate, eased = (None, []) if found is None else found
    return give(
        EasingOut(
            **standing(row),
            hindrance=hindrance,
            stale=known and found is None,
            offered=[way.says for way in offered],
            bit_rate=rate,
            ways=[_told(one) for one in eased],
        )
    )


def _told(one: easing.Eased) -> EasedOut:
    change = one.way.change
    return EasedOut(
        kind=change.kind,
        key=change.key,
        value=change.value,
        says=one.way.says,
        near=one.near,
        poor=None if one.poor is None else round(one.poor),
        **one.figures,
    )


add(
    api,
    Asked(
        name="easing",
        of=Deliverable,
        study=easing.STUDY,
        begin=easing.begin,
        given=_given,
        out=EasingOut,
        shows="What would make a deliverable's pictures look better at their rate",
        begins="Look at what would make a deliverable's pictures look better at their rate",
        stops="Stop looking at what would help",
    ),
)
