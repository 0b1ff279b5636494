"""What is made of a deliverable's sound: its matrix, and what was heard of it."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

import numpy as np
from flask import Response, send_file
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, NotFound
from ..core.planning.matrix import decibels
from ..core.units import peaks
from ..store.models import Deliverable
from ..store.queries import get
from ..store.studied import Hearing
from ..work import hearing
from .schemas import ErrorOut, In, Numbered, Out
from .services import give, services
from .studies import Asked, StudyOut, add, standing

api = APIBlueprint(
    "hearing", __name__, url_prefix="/api/crates/deliverables", abp_tags=[Tag(name="crates")]
)

COLUMNS = 600
MINUTE = 600  # tenths of a second
WORST, APART = 8, 20  # moments that are named, and tenths of a second between them


class SideOut(Out):
    """What was heard of a track, as it is taken or as it is made."""

    speakers: list[str]
    loudness: float | None = Field(description="integrated, LUFS; none of silence")
    range: float = Field(description="of loudness, LU")
    short_term: float | None = Field(description="the loudest 3 s, LUFS")
    true_peak: float = Field(description="dBTP")
    most: list[float] = Field(description="the highest sample of each channel, dBFS")
    momentary: list[float] = Field(description="the loudest of each column of time, LUFS")


class HeldOut(Out):
    """A moment at which a limiter works hardest."""

    seconds: float
    held: float = Field(description="dB")


class HeardOut(Out):
    """What was heard of a track before it is coded."""

    taken: SideOut
    made: SideOut
    as_mixed: bool = Field(description="whether what is taken was heard as it is mixed")
    gain: float = Field(description="dB that the whole is turned by")
    held: list[float] = Field(description="dB that peaks are held by at most, by column of time")
    most_held: float
    seconds_held: float
    worst: list[HeldOut]
    seconds: float = Field(description="how long it lasts")
    there: bool = Field(description="whether it can be listened to")


class SoundTrackOut(Out):
    """A track that is made of a master's sound, and what was heard of it."""

    number: int
    taken: list[str] = Field(description="the channels that are taken, by loudspeaker")
    made: list[str]
    gains: list[list[float | None]] = Field(
        description="a row a channel made, a figure a channel taken: dB, none for nothing"
    )
    target: float | None
    ceiling: float | None
    heard: HeardOut | None


class HearingOut(StudyOut):
    """What is made of sound, and where hearing it stands; `state` is "none" where nobody asked.

    `hindrance` says why it cannot be heard; `stale` that what was heard is other sound than the one
    that is planned now.
    """

    hindrance: ErrorOut | None
    stale: bool
    tracks: list[SoundTrackOut]


class TrackPath(Numbered):
    """A track that was heard, counted from 1."""

    track: int = Field(ge=1, le=99)


class MetersQuery(In):
    """Where a minute of levels begins, in tenths of a second."""

    first: int = Field(default=0, ge=0, le=10**8)


class MetersOut(Out):
    """The highest sample of each channel in each tenth of a second of a minute, dBFS, and by how
    much peaks are held, dB.
    """

    first: int
    taken: list[list[float]]
    made: list[list[float]]
    held: list[float]


@api.get(
    "/<int:id>/hearing/<int:track>/meters",
    summary="A minute of levels of a track that was heard",
    responses={200: MetersOut},
)
def meters(path: TrackPath, query: MetersQuery) -> Response:
    """Give the levels of each channel by tenths of a second."""
    with services().database.session() as session:
        track = _heard(session, get(session, Deliverable, path.id), path.track)
    ends = slice(query.first, query.first + MINUTE)

    def minute(packed: str, scale: peaks.Scale = peaks.LEVELS) -> list[float]:
        return _listed(scale.unpacked(packed)[ends])

    return give(
        MetersOut(
            first=query.first,
            taken=[minute(channel) for channel in track["taken"]["peaks"]],
            made=[minute(channel) for channel in track["made"]["peaks"]],
            held=minute(track["held"], peaks.HELD),
        )
    )


@api.get("/<int:id>/hearing/<int:track>/copy", summary="Before and after, to listen to")
def copy(path: TrackPath) -> Response:
    """Give a track in four channels: left and right of what is taken, then of what is made."""
    with services().database.session() as session:
        row = hearing.STUDY.of(session, get(session, Deliverable, path.id).id)
        file = hearing.file_of(row, path.track, services().folders)
    return send_file(file, mimetype="video/mp4", conditional=True, max_age=0)


def _heard(session: Session, one: Deliverable, track: int) -> Mapping[str, Any]:
    row: Hearing | None = hearing.STUDY.of(session, one.id)
    found = hearing.heard(row, one, hearing.plan_of(one))
    if found is None or not 1 <= track <= len(found["tracks"]):
        raise NotFound("It was not heard yet.", "Have the sound heard first.")
    told: Mapping[str, Any] = found["tracks"][track - 1]
    return told


def _given(session: Session, one: Deliverable) -> Response:
    row: Hearing | None = hearing.STUDY.of(session, one.id)
    hindrance, planned, found = None, list[hearing.Planned](), None
    try:
        plan = hearing.plan_of(one)
        planned, found = hearing.planned(one, plan), hearing.heard(row, one, plan)
    except AmpleError as error:
        hindrance = ErrorOut.model_validate(error.as_json())
    known = row is not None and row.found is not None
    return give(
        HearingOut(
            **standing(row),
            hindrance=hindrance,
            stale=known and found is None,
            tracks=[
                _track(track, row, None if found is None else found["tracks"][n], n + 1)
                for n, track in enumerate(planned)
            ],
        )
    )


def _track(
    track: hearing.Planned, row: Hearing | None, heard: Mapping[str, Any] | None, place: int
) -> SoundTrackOut:
    return SoundTrackOut(
        number=track.number,
        taken=list(track.taken),
        made=list(track.made),
        gains=[[decibels(gain) for gain in line] for line in track.gains],
        target=_figure(track.target),
        ceiling=_figure(track.ceiling),
        heard=None if heard is None else _told(heard, _there(row, place)),
    )


def _there(row: Hearing | None, place: int) -> bool:
    try:
        hearing.file_of(row, place, services().folders)
    except NotFound:
        return False
    return True


def _told(heard: Mapping[str, Any], there: bool) -> HeardOut:
    held = peaks.HELD.unpacked(heard["held"])
    return HeardOut(
        taken=_side(heard["taken"]),
        made=_side(heard["made"]),
        as_mixed=heard["mixed"],
        gain=heard["gain"],
        held=_listed(peaks.in_columns(held, COLUMNS)),
        most_held=heard["most_held"],
        seconds_held=heard["seconds_held"],
        worst=_worst(held),
        seconds=len(held) / 10,
        there=there,
    )


def _side(side: Mapping[str, Any]) -> SideOut:
    columns = peaks.in_columns(peaks.LEVELS.unpacked(side["momentary"]), COLUMNS)
    named = {key: side[key] for key in SideOut.model_fields if key != "momentary"}
    return SideOut(**named, momentary=_listed(columns))


def _worst(held: peaks.Peaks) -> list[HeldOut]:
    """List the moments at which a limiter works hardest, two seconds apart at least."""
    left, found = held.copy(), list[HeldOut]()
    while len(found) < WORST and left.max(initial=0) > 0:
        place = int(np.argmax(left))
        found.append(HeldOut(seconds=place / 10, held=float(held[place])))
        left[max(0, place - APART) : place + APART] = 0
    return found


def _listed(levels: peaks.Peaks) -> list[float]:
    return [round(float(level), 1) + 0.0 for level in levels]


def _figure(value: Fraction | None) -> float | None:
    return None if value is None else float(value)


add(
    api,
    Asked(
        name="hearing",
        of=Deliverable,
        study=hearing.STUDY,
        begin=hearing.begin,
        given=_given,
        out=HearingOut,
        shows="What is made of a deliverable's sound",
        begins="Hear what is made of a deliverable's sound",
        stops="Stop hearing what is made of a deliverable's sound",
    ),
)
