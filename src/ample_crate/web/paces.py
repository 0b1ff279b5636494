"""The paces of encoders: how fast each is on this machine, and how much of the picture it keeps."""

from __future__ import annotations

from datetime import datetime

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field

from ..store.models import PaceTrial
from ..work import paces
from .schemas import ErrorOut, In, Out
from .services import give, services

api = APIBlueprint("paces", __name__, url_prefix="/api/paces", abp_tags=[Tag(name="paces")])


class PaceOut(Out):
    """A pace: frames a second, and the luma's peak signal-to-noise ratio in dB; or why
    it is not offered here.
    """

    pace: str
    speed: float | None
    quality: float | None
    error: str | None


class PaceTrialOut(Out):
    """The newest trial of a codec: on which machine and when, of how many frames of which size, at
    how many b/s.
    """

    codec: str
    host: str
    state: str
    at: datetime
    frames: int | None
    size: str | None
    bit_rate: int | None
    paces: list[PaceOut]
    error: ErrorOut | None


class PaceTrialsOut(Out):
    """The newest trials; and the codecs that can be tried."""

    trials: list[PaceTrialOut]
    codecs: list[str]


class TryPaces(In):
    """The codec to try."""

    codec: str = Field(max_length=40)


@api.get("", summary="How fast paces are on this machine", responses={200: PaceTrialsOut})
def page() -> Response:
    """Give the newest trial of each codec."""
    return _page()


def _page() -> Response:
    with services().database.session() as session:
        trials = [_trial(row) for row in paces.newest(session)]
    return give(PaceTrialsOut(trials=trials, codecs=paces.several()))


@api.post("", summary="Try the paces of a codec", responses={200: PaceTrialsOut})
def begin(body: TryPaces) -> Response:
    """Order a trial, unless one is going on."""
    with services().database.session() as session:
        paces.begin(session, body.codec)
    return _page()


def _trial(row: PaceTrial) -> PaceTrialOut:
    found = row.document.get("paces", {})
    error = row.document.get("error")
    return PaceTrialOut(
        codec=row.codec,
        host=row.host,
        state=row.state,
        at=row.at,
        frames=row.document.get("frames"),
        size=row.document.get("size"),
        bit_rate=row.document.get("bit_rate"),
        paces=[
            PaceOut(
                pace=pace,
                speed=told.get("speed"),
                quality=told.get("quality"),
                error=told.get("error"),
            )
            for pace, told in found.items()
        ],
        error=None if error is None else ErrorOut.model_validate(error),
    )
