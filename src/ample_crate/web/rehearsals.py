"""Rehearsals: how what a run made plays, every way, in one layer and in several."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core.errors import AmpleError
from ..core.quality.rehearsal import WAYS, asked, short
from ..store.models import Run
from ..store.studied import Rehearsal
from ..work import rehearsing
from ..work.status import spec_of
from .schemas import ErrorOut, Out
from .services import give
from .studies import Asked, StudyOut, add, standing

api = APIBlueprint("rehearsals", __name__, url_prefix="/api/runs", abp_tags=[Tag(name="runs")])


class PlayedOut(Out):
    """What came of playing one way in so many layers."""

    way: str
    layers: int
    shown: int
    late: int = Field(description="pictures that came late")
    worst: float = Field(description="the longest wait, milliseconds")
    could: float = Field(description="pictures of all layers a second that there could be")
    waits: list[float] = Field(description="of each picture, milliseconds; none beside others")
    frames: list[list[int]] = Field(description="that each layer shows in turn; none beside others")


class WayOut(Out):
    """A way to play."""

    key: str
    says: str


class BesideOut(Out):
    """Another file of the same master, as it was played."""

    run: int
    name: str
    at: str
    played: list[PlayedOut]


class AskedOut(Out):
    """How the recipient plays the file, by the spec."""

    said: str
    source: str
    ways: list[str]
    layers: int
    short: list[str] = Field(description="ways in which more pictures came late than may")


class RehearsalOut(StudyOut):
    """How a file plays, and where finding that out stands; `state` is "none" where nobody asked."""

    hindrance: ErrorOut | None
    name: str
    rate: float | None = Field(description="pictures a second that are due")
    frames: int
    seconds: float = Field(description="that it took")
    ways: list[WayOut]
    played: list[PlayedOut]
    asked: AskedOut | None
    beside: list[BesideOut]


def _given(session: Session, run: Run) -> Response:
    row: Rehearsal | None = rehearsing.STUDY.of(session, run.id)
    found: Mapping[str, Any] = (row.found if row is not None else None) or {}
    hindrance = None
    try:
        rehearsing.file_of(run)
    except AmpleError as error:
        hindrance = ErrorOut.model_validate(error.as_json())
    rate = found.get("rate")
    return give(
        RehearsalOut(
            **standing(row),
            hindrance=hindrance,
            name=_name(run),
            rate=None if rate is None else _fps(rate),
            frames=found.get("frames", 0),
            seconds=found.get("seconds", 0.0),
            ways=[WayOut(key=way.key, says=way.says) for way in WAYS],
            played=_played(found),
            asked=_asked(run, found),
            beside=[_beside(one) for one in rehearsing.beside(session, run)],
        )
    )


def _asked(run: Run, found: Mapping[str, Any]) -> AskedOut | None:
    wanted = spec_of(run.deliverable.crate).playback
    if wanted is None:
        return None
    played = _ways(found)
    return AskedOut(
        said=wanted.said(),
        source=wanted.source,
        ways=list(wanted.ways),
        layers=wanted.layers,
        short=short(played, wanted.ways, wanted.layers, wanted.late) if played else [],
    )


def _beside(row: Rehearsal) -> BesideOut:
    return BesideOut(
        run=row.run_id,
        name=_name(row.run),
        at=row.at.isoformat(),
        # Their pictures one by one are on pages of their own.
        played=[PlayedOut(**{**one, "waits": []}, frames=[]) for one in _ways(row.found or {})],
    )


def _played(found: Mapping[str, Any]) -> list[PlayedOut]:
    return [
        PlayedOut(**one, frames=asked(one["way"], one["layers"], found["frames"], one["shown"]))
        for one in _ways(found)
    ]


def _ways(found: Mapping[str, Any]) -> Sequence[Mapping[str, Any]]:
    ways: Sequence[Mapping[str, Any]] = found.get("played", ())
    return ways


def _name(run: Run) -> str:
    return Path(run.path or "").name


def _fps(rate: str) -> float:
    over, _, under = rate.partition("/")
    return int(over) / int(under or 1)


add(
    api,
    Asked(
        name="rehearsal",
        of=Run,
        study=rehearsing.STUDY,
        begin=rehearsing.begin,
        given=_given,
        out=RehearsalOut,
        shows="How a file plays",
        begins="Play as a player would",
        stops="Stop a rehearsal",
    ),
)
