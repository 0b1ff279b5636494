"""A finished file and what went into its encoder, to be played together."""

from __future__ import annotations

from typing import Any

from flask import Response, send_file
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, NotFound
from ..core.planning import stored
from ..store.models import Run
from ..store.queries import get
from ..store.studied import Viewing
from ..work import pairs, viewing
from .schemas import ErrorOut, Numbered
from .services import give, services
from .studies import Asked, StudyOut, add, standing

api = APIBlueprint("viewings", __name__, url_prefix="/api/runs", abp_tags=[Tag(name="runs")])


class ViewedOut(StudyOut):
    """The copy of both, and where making it stands.

    `hindrance` says why it cannot be made. The copy shows what goes into the encoder above, the
    file below; in its sound of four channels left and right of the former come first.
    """

    hindrance: ErrorOut | None
    there: bool = Field(description="whether it can be played")
    frames: int
    first: int = Field(description="the frame of the file that it begins with")
    rate: float | None = Field(description="frames a second")
    width: int = Field(description="of either picture")
    height: int
    sound: bool
    sides: bool = Field(description="whether the sound was made anew, and either can be heard")


@api.get("/<int:id>/viewing/copy", summary="The copy of both itself, in pieces")
def copy(path: Numbered) -> Response:
    """Give the copy."""
    with services().database.session() as session:
        row = viewing.STUDY.of(session, get(session, Run, path.id).id)
        file = viewing.file_of(row, services().folders)
    return send_file(file, mimetype="video/mp4", conditional=True, max_age=0)


def _given(session: Session, run: Run) -> Response:
    row: Viewing | None = viewing.STUDY.of(session, run.id)
    found: dict[str, Any] = (row.found if row is not None else None) or {}
    hindrance = None
    try:
        pairs.pair_of(run)
    except AmpleError as error:
        hindrance = ErrorOut.model_validate(error.as_json())
    plan = stored.route_of(run.route).plan
    picture = None if plan is None else plan.picture
    return give(
        ViewedOut(
            **standing(row),
            hindrance=hindrance,
            there=_there(row),
            frames=found.get("frames", 0),
            first=found.get("first", 0),
            rate=None if picture is None else float(picture.format.rate),
            width=found.get("width", 0),
            height=found.get("height", 0),
            sound=found.get("sound", False),
            sides=found.get("sides", False),
        )
    )


def _there(row: Viewing | None) -> bool:
    try:
        viewing.file_of(row, services().folders)
    except NotFound:
        return False
    return True


add(
    api,
    Asked(
        name="viewing",
        of=Run,
        study=viewing.STUDY,
        begin=viewing.begin,
        given=_given,
        out=ViewedOut,
        shows="A copy of both to play",
        begins="Make a copy of both to play",
        stops="Stop making a copy of both",
    ),
)
