"""What of its master a deliverable takes, and what stands before and after it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field

from ..core.facts.span import Piece, Span, without
from ..core.planning.trimming import Taken
from ..store.database import tell
from ..store.models import Deliverable
from ..store.queries import get
from ..work import around, cuts, trimming, undoing
from ..work.acts import nothing_runs, open_crate
from .crate_schemas import CratePage, FrontAndBack
from .crates import page_of
from .schemas import In, Numbered, Out
from .services import give, services

api = APIBlueprint(
    "trimming", __name__, url_prefix="/api/crates/deliverables", abp_tags=[Tag(name="crates")]
)


class StretchOut(Out):
    """A part of what is made: bars, a slate, black, or the programme."""

    kind: str
    first: int
    frames: int
    label: str = Field(description="timecode of its first frame; empty where there is none")


class EndsOut(Out):
    """What stands around a programme."""

    asked: str = Field(description="the leader that the spec asks for, as it is chosen")
    rate: str | None
    stretches: list[StretchOut] = Field(description="none while nothing can be made")


class LengthOut(Out):
    """A length that the spec takes, in seconds."""

    least: float
    most: float | None = Field(description="none where it may be as long as it likes")


class FittedOut(FrontAndBack):
    """What would bring a length to what is asked, by black alone."""

    black: float = Field(description="seconds of black to be set after it besides")


class RangeOut(FrontAndBack):
    """What a deliverable takes of its master."""

    left_out: list[FrontAndBack] = Field(description="what of it is not taken, in order")
    taken: int = Field(description="frames that are taken")
    whole: int = Field(description="frames of the master")
    seconds: float = Field(description="of what comes of it, with what stands around it")
    clear: FrontAndBack = Field(description="the same without the black at its ends")
    asked: list[LengthOut] = Field(description="lengths that the spec takes; none for any")
    holds: bool = Field(description="whether the length is as asked")
    fitted: FittedOut | None = Field(description="none where picture would have to go")


class TakeRange(In):
    """The range of its master that a deliverable takes."""

    first: int = Field(ge=0)
    frames: int = Field(ge=1)
    left_out: list[Piece] = Field(
        default_factory=list, description="what of it is not taken: the rest is joined"
    )


@api.get(
    "/<int:id>/ends",
    summary="What stands around a deliverable's programme",
    responses={200: EndsOut},
)
def show_ends(path: Numbered) -> Response:
    """Give the parts of what is made, and the leader that the spec asks for."""
    with services().database.session() as session:
        found = around.of(get(session, Deliverable, path.id))
    parts = [
        StretchOut(kind=one.kind, first=one.first, frames=one.frames, label=one.label)
        for one in found.stretches
    ]
    rate = None if found.rate is None else str(found.rate)
    return give(EndsOut(asked=found.asked, rate=rate, stretches=parts))


@api.get(
    "/<int:id>/range",
    summary="What a deliverable takes of its master",
    responses={200: RangeOut},
)
def show_range(path: Numbered) -> Response:
    """Give the range, the length that comes of it, and what would bring it to what is asked."""
    with services().database.session() as session:
        found = trimming.of(get(session, Deliverable, path.id))
    fitted, left_out = found.fitted, found.taken.left_out
    return give(
        RangeOut(
            **_range(found.taken),
            left_out=[FrontAndBack(first=one.first, frames=one.frames) for one in left_out],
            taken=found.taken.count,
            whole=found.whole,
            seconds=float(found.seconds),
            clear=FrontAndBack(**_range(found.taken.clear)),
            asked=[
                LengthOut(least=float(low), most=None if high is None else float(high))
                for low, high in found.asked
            ],
            holds=found.holds,
            fitted=None
            if fitted is None
            else FittedOut(**_range(fitted.taken), black=float(fitted.black)),
        )
    )


def _range(taken: Taken) -> dict[str, int]:
    return {"first": taken.first, "frames": taken.frames}


@api.put("/<int:id>/range", summary="Take a range of the master", responses={200: CratePage})
def take_range(path: Numbered, body: TakeRange) -> Response:
    """Take a range of the master, or all of it."""
    part = without(Span(first=body.first, frames=body.frames), body.left_out)
    cut = _cut(path.id, part)
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        crate = open_crate(session, one.crate_id)
        nothing_runs(one.runs)
        before = undoing.state(one)
        trimming.take(one, part)
        one.cut = cut or one.cut
        undoing.remember(one, before)
        tell(session, "crate", crate.id)
        return page_of(session, crate.id)


def _cut(deliverable: int, part: Span) -> dict[str, Any] | None:
    """Look where a copy of a range begins, where one is chosen; the file is read before the
    database is held.
    """
    with services().database.session() as session:
        one = get(session, Deliverable, deliverable)
        trimming.check(one, part)
        rate, copied = cuts.rate_of(one), one.choices.get("picture") == "copied"
        path, sha256 = Path(one.master.path), one.master.sha256
    if rate is None or not copied or part.left_out:
        return None
    return cuts.find(path, sha256, part, rate)
