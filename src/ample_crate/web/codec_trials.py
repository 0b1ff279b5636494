"""Codecs tried on a part of a master: time, size, rate, quality and the cost of decoding, with
finished runs of the same codecs beside them.
"""

from __future__ import annotations

import csv
import io
from pathlib import Path
from typing import Annotated, Any

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core import formats
from ..core.errors import AmpleError, NotFound
from ..core.facts.span import Piece
from ..core.planning import tries
from ..store.models import Master
from ..store.queries import get
from ..store.studied import CodecTrial
from ..work import codec_trials, tried
from ..work.codec_trials import Before
from .schemas import ErrorOut, In, Numbered, Out
from .services import give, services
from .studies import Asked, StudyOut, add, standing

api = APIBlueprint(
    "codec_trials", __name__, url_prefix="/api/masters", abp_tags=[Tag(name="masters")]
)
PIECES = 40
TryText = Annotated[str, Field(min_length=1, max_length=500)]


class PieceIn(In):
    """A part of a master."""

    first: int = Field(ge=0, le=2**31)
    frames: int = Field(ge=1, le=2**31)


class TryCodecs(In):
    """What to try, as the command line has it, and on which parts, in order; none for all."""

    tries: list[TryText] = Field(min_length=1, max_length=codec_trials.MOST)
    pieces: list[PieceIn] = Field(default=[], max_length=PIECES)


class SpreadOut(Out):
    """A figure of quality over all frames: mean, 5th percentile, worst."""

    mean: float
    p5: float
    worst: float


class DecodingOut(Out):
    """Frames a second that are decoded, each asked for by itself in turn."""

    forwards: float
    backwards: float
    random: float


class CostOut(Out):
    """What a codec cost and gave."""

    wrapper: str
    passes: int
    seconds: float = Field(description="that encoding took")
    fps: float = Field(description="frames a second that were encoded")
    bytes: int
    bit_rate: int = Field(description="b/s, with the wrapper's own")
    psnr: SpreadOut
    ssim: SpreadOut
    xpsnr: SpreadOut
    decode: DecodingOut


class WhyNotOut(Out):
    """Why a codec cannot be made of a master, and what to do."""

    what: str
    way_out: str


class TriedOut(Out):
    """A codec that was tried: what came of it, or why it cannot be made."""

    text: str = Field(description="as it was asked")
    codec: str
    label: str
    came: CostOut | None
    error: WhyNotOut | None


class BeforeOut(Out):
    """A finished run of the same codec."""

    run: int
    crate: int
    deliverable: int
    name: str
    label: str
    mine: bool = Field(description="whether it is of this master")
    width: int
    height: int
    passes: int
    fps: float | None = Field(description="none where several workers shared it")
    bytes: int
    bit_rate: int
    xpsnr: float | None = Field(description="mean; none where nobody compared")


class CodecOut(Out):
    """A codec that can be tried."""

    key: str
    label: str
    rated: bool = Field(description="whether it keeps to a rate")
    passes: int = Field(description="that its encoder can make")


class CodecTrialOut(StudyOut):
    """Codecs tried on a part of a master, and where that stands; `state` is "none" where nobody
    asked. `tries` and `pieces` are what was asked last; `stale` says that the master is another by
    now.
    """

    hindrance: ErrorOut | None
    codecs: list[CodecOut]
    tries: list[str]
    pieces: list[PieceIn]
    frames: int = Field(description="of the part")
    tried: list[TriedOut]
    stale: bool
    before: list[BeforeOut]


@api.post(
    "/<int:id>/codec-trial",
    summary="Try codecs on a part of a master",
    responses={200: CodecTrialOut},
)
def begin(path: Numbered, body: TryCodecs) -> Response:
    """Order it, anew where it was done before, unless that goes on."""
    with services().database.session() as session:
        row = get(session, Master, path.id, lock=True)
        pieces = [Piece(first=one.first, frames=one.frames) for one in body.pieces]
        codec_trials.begin(session, row, body.tries, pieces)
        return _given(session, row)


@api.get("/<int:id>/codec-trial/table.csv", summary="The codecs that were tried, as a table")
def table(path: Numbered) -> Response:
    """Give what came of each codec as comma-separated values, as the command line does."""
    with services().database.session() as session:
        row = get(session, Master, path.id)
        found = codec_trials.rows_of(codec_trials.STUDY.of(session, row.id), row)
        if not found:
            raise NotFound("Nothing was tried yet.", "Try some codecs first.")
        name = f"codecs_{path.id}.csv"
    out = io.StringIO()
    writer = csv.DictWriter(out, tried.COLUMNS, restval="", lineterminator="\r\n")
    writer.writeheader()
    writer.writerows(map(tried.flat, found))
    head = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(out.getvalue(), mimetype="text/csv", headers=head)


def _given(session: Session, master: Master) -> Response:
    row: CodecTrial | None = codec_trials.STUDY.of(session, master.id)
    hindrance = None
    try:
        codec_trials.require_moving(master)
    except AmpleError as error:
        hindrance = ErrorOut.model_validate(error.as_json())
    found = codec_trials.rows_of(row, master)
    asked: dict[str, Any] = {"tries": [], "pieces": []} if row is None else row.asked
    codecs = sorted({one["codec"] for one in found})
    return give(
        CodecTrialOut(
            **standing(row),
            hindrance=hindrance,
            codecs=_codecs(),
            tries=asked["tries"],
            pieces=[PieceIn.model_validate(one) for one in asked["pieces"]],
            frames=codec_trials.frames_of(asked["pieces"], master),
            tried=[_tried(one) for one in found],
            stale=row is not None and row.found is not None and not found,
            before=[_before(one, master) for one in codec_trials.before(session, codecs)],
        )
    )


def _codecs() -> list[CodecOut]:
    found = [
        CodecOut(
            key=key,
            label=formats.PICTURE[key].label,
            rated=tries.passes_of(key) > 0,
            passes=max(1, tries.passes_of(key)),
        )
        for key in formats.made_picture()
    ]
    return sorted(found, key=lambda one: one.label.lower())


def _tried(row: tried.Row) -> TriedOut:
    error, encode = row.get("error"), row.get("encode", {})
    return TriedOut(
        text=row["try"],
        codec=row["codec"],
        label=formats.PICTURE[row["codec"]].label,
        came=None if error else CostOut.model_validate(row | encode),
        error=None if error is None else WhyNotOut.model_validate(error),
    )


def _before(one: Before, master: Master) -> BeforeOut:
    run, plan = one.run, one.plan
    picture = plan.picture
    assert picture is not None
    size = run.size or 0
    return BeforeOut(
        run=run.id,
        crate=run.deliverable.crate_id,
        deliverable=run.deliverable_id,
        name=Path(run.path or "").name,
        label=formats.PICTURE[picture.codec].label,
        mine=run.deliverable.master_id == master.id,
        width=picture.format.width,
        height=picture.format.height,
        passes=plan.passes,
        fps=None if not one.encode else plan.frames / one.encode,
        bytes=size,
        bit_rate=round(8 * size / plan.seconds),
        xpsnr=one.quality,
    )


add(
    api,
    Asked(
        name="codec-trial",
        of=Master,
        study=codec_trials.STUDY,
        begin=None,
        given=_given,
        out=CodecTrialOut,
        shows="Codecs tried on a part of a master",
        begins="",
        stops="Stop trying codecs",
    ),
)
