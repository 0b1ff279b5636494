"""What a worker finds out when a person asks, as it is told: where it stands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from http import HTTPStatus
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint  # type: ignore[attr-defined]
from sqlalchemy.orm import Session

from ..store.models import Deliverable, Master, Run
from ..store.queries import get
from ..store.studied import Studied
from ..work.studies import Study
from .schemas import ErrorOut, Numbered, Out, Progress
from .services import services


class StudyOut(Out):
    """Where it stands; `state` is "none" where nobody asked."""

    id: int | None
    state: str
    progress: Progress | None
    error: ErrorOut | None
    at: datetime | None


def standing(row: Studied | None) -> dict[str, Any]:
    """Give where it stands, by the names of `StudyOut`."""
    if row is None:
        return {"id": None, "state": "none", "progress": None, "error": None, "at": None}
    return {
        "id": row.id,
        "state": row.state,
        "progress": None if row.progress is None else Progress.model_validate(row.progress),
        "error": None if row.error is None else ErrorOut.model_validate(row.error),
        "at": row.at,
    }


@dataclass(frozen=True)
class Asked:
    """What a person may have found out, and the words for it.

    Attributes:
        name: the last part of its address, after what it is of.
        of: the table of what it is of.
        study: the kind.
        begin: orders one of a row, anew where there was one, unless it goes on; None where that
            needs more than a row, and has a route of its own.
        given: answers with what is known of a row.
        out: the form of that answer.
        shows, begins, stops: summaries of its three routes.
    """

    name: str
    of: type[Run] | type[Deliverable] | type[Master]
    study: Study
    begin: Callable[[Session, Any], object] | None
    given: Callable[[Session, Any], Response]
    out: type[StudyOut]
    shows: str
    begins: str
    stops: str


def add(api: APIBlueprint, asked: Asked) -> None:
    """Give what is known, have it found out, and stop that: a route each."""
    place = f"/<int:id>/{asked.name}"
    answers: dict[str | int | HTTPStatus, Any] = {200: asked.out}

    @api.get(place, summary=asked.shows, responses=answers)
    def show(path: Numbered) -> Response:
        """Give what is known, and where finding it out stands."""
        with services().database.session() as session:
            return asked.given(session, get(session, asked.of, path.id))

    if asked.begin is not None:
        order = asked.begin

        @api.post(place, summary=asked.begins, responses=answers)
        def begin(path: Numbered) -> Response:
            """Order it, anew where it was found out before, unless that goes on."""
            with services().database.session() as session:
                # Of ten who press at once one orders it.
                row = get(session, asked.of, path.id, lock=True)
                order(session, row)
                return asked.given(session, row)

    @api.post(f"{place}/cancel", summary=asked.stops, responses=answers)
    def stop(path: Numbered) -> Response:
        """Stop what waits or goes on."""
        with services().database.session() as session:
            row = get(session, asked.of, path.id, lock=True)
            asked.study.stop(session, row.id)
            return asked.given(session, row)
