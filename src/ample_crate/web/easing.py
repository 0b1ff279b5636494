"""What would make a deliverable's pictures look better at the planned rate."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core.errors import AmpleError
from ..store.models import Deliverable
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
    found, hindrance, offered = None, None, []
    try:
        offered = [way.says for way in easing.ways(one)]
        found = easing.found(row, one)
    except AmpleError as error:
        hindrance = ErrorOut.model_validate(error.as_json())
    known = row is not None and row.found is not None
    return give(
        EasingOut(
            **standing(row),
            hindrance=hindrance,
            stale=known and found is None,
            offered=offered,
            bit_rate=None if found is None else found["rate"],
            ways=[] if found is None else [_eased(way) for way in found["ways"]],
        )
    )


def _eased(way: Mapping[str, Any]) -> EasedOut:
    poor = way["poor"]
    row = {**way, **way["figures"], "poor": None if poor is None else round(poor)}
    return EasedOut.model_validate(row)


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
