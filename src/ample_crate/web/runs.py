"""Runs: started, stopped, run again, looked at."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core.errors import NotFound, Refused
from ..core.planning import stored
from ..core.planning.places import source_of
from ..media import folders
from ..store import masters
from ..store.database import tell
from ..store.models import Deliverable, Run
from ..store.queries import get
from ..work import running, status
from ..work.acts import open_crate
from ..work.pairs import pair_of
from . import pictures, views
from .crate_schemas import RunOut
from .schemas import DifferenceQuery, FramePath, In, LookQuery, Numbered, Out
from .services import give, services

api = APIBlueprint("runs", __name__, url_prefix="/api", abp_tags=[Tag(name="runs")])


@api.post(
    "/deliverables/<int:id>/runs",
    summary="Run one deliverable, or run it again",
    responses={200: RunOut},
)
def run_one(path: Numbered) -> Response:
    """Start a run of one deliverable."""
    with services().database.session() as session:
        # The crate's row is held: of ten who press at once one starts a run, and none does while it
        # is being sealed.
        crate = open_crate(session, get(session, Deliverable, path.id).crate_id)
        made = status.item_statuses(crate)
        item = next((s for s in made if s.deliverable.id == path.id), None)
        if item is None:
            raise NotFound(
                f"There is no deliverable {path.id}.",
                "It may have been removed; go back to the crate.",
            )
        if item.going_on:
            raise Refused("A run of this is going on.", "Stop it first, or wait until it is done.")
        waits = running.waits_for(item, made)
        if waits:
            raise Refused(
                f"This waits {waits}.", "Press Run on the crate: it is run as soon as it can be."
            )
        run = running.start(session, item)
        if run is None:
            what, way_out = running.blocked([item]) or (
                "This cannot be run now.",
                "Look at the crate's page.",
            )
            raise Refused(what, way_out)
        tell(session, "run", run.id, crate=crate.id)
        session.refresh(run)
        return give(views.run(run))


@api.post("/runs/<int:id>/cancel", summary="Stop a run", responses={200: RunOut})
def cancel(path: Numbered) -> Response:
    """Stop a run: one that waits ends at once, one that works ends within a second or two."""
    with services().database.session() as session:
        run = get(session, Run, path.id, lock=True)
        if run.state not in status.UNFINISHED:
            raise Refused(f"The run is {run.state} already.", "There is nothing to stop.")
        running.stop(session, run)
        return give(views.run(run))


def _files(session: Session, id: int) -> tuple[Run, Path]:
    run = get(session, Run, id)
    if run.path is None:
        raise NotFound("This run has made no file.", "Wait until it is done.")
    return run, Path(run.path)


@api.get("/runs/<int:id>/frames/<int:frame>", summary="One frame of the deliverable as JPEG")
def frame(path: FramePath, query: LookQuery) -> Response:
    """Give a frame of the finished file."""
    with services().database.session() as session:
        _, file = _files(session, path.id)
    return pictures.frame(file, path.frame, query.width, _look(query))


def _look(query: LookQuery) -> dict[str, Any] | None:
    """Say how a frame is shown where it is not as usual."""
    asked = {"field": query.field, "alpha": query.alpha}
    return None if asked == {"field": "woven", "alpha": "checker"} else asked


def master_frame_of(run: Run, number: int) -> int:
    """Give the master's frame shown at the time of the deliverable's frame."""
    plan = stored.route_of(run.route).plan
    return number if plan is None else source_of(plan, number)


@api.get(
    "/runs/<int:id>/master-frames/<int:frame>",
    summary="The master's frame at the time of the deliverable's frame",
)
def master_frame(path: FramePath, query: LookQuery) -> Response:
    """Give the master's frame that belongs beside the deliverable's."""
    with services().database.session() as session:
        run, _ = _files(session, path.id)
        number, file = master_frame_of(run, path.frame), Path(run.deliverable.master.path)
    return pictures.frame(file, number, query.width, _look(query))


@api.get(
    "/runs/<int:id>/route-frames/<int:frame>",
    summary="What the route gives at the deliverable's frame, before it is coded, as JPEG",
)
def route_frame(path: FramePath, query: LookQuery) -> Response:
    """Give the master's picture through the steps of the route."""
    with services().database.session() as session:
        run = get(session, Run, path.id)
        pair, mark = pair_of(run), masters.mark(run.deliverable.master)
    return pictures.planned(pair.inputs, pair.plan, path.frame, query, mark)


@api.get(
    "/runs/<int:id>/differences/<int:frame>",
    summary="What differs between what the route gives and the deliverable, amplified eight times",
)
def difference(path: FramePath, query: DifferenceQuery) -> Response:
    """Give the difference picture."""
    with services().database.session() as session:
        pair = pair_of(get(session, Run, path.id))
    return pictures.difference(pair.file, pair.inputs, pair.plan, path.frame, query)


class SamplesQuery(In):
    """The sample in the middle: its column and line, from 0."""

    x: int = Field(ge=0, le=65535)
    y: int = Field(ge=0, le=65535)


class MagnifiedOut(Out):
    """Samples of one picture."""

    names: list[str] = Field(description="of the components")
    stored: int = Field(description="bits of a sample as it is decoded")
    depth: int = Field(description="bits at which values are told: the fewest of both pictures")
    values: list[list[list[int]]] = Field(description="lines, columns, components")
    colours: list[list[str]] = Field(description="lines, columns; as #rrggbb over a checker")


class SamplesOut(Out):
    """The same samples of what the route gives, and of what was made of it."""

    width: int
    height: int
    left: int
    top: int
    interlaced: bool
    sides: list[MagnifiedOut] = Field(description="what the route gives, and what was made")


@api.get(
    "/runs/<int:id>/samples/<int:frame>",
    summary="Samples about a place with their values, before coding and after",
    responses={200: SamplesOut},
)
def samples(path: FramePath, query: SamplesQuery) -> Response:
    """Give the samples about one place of a frame."""
    with services().database.session() as session:
        pair = pair_of(get(session, Run, path.id))
    found = pictures.magnified(pair.file, pair.inputs, pair.plan, path.frame, (query.x, query.y))
    return give(SamplesOut(**found))


@api.get("/runs/<int:id>/play", summary="The deliverable itself, in pieces")
def play(path: Numbered) -> Response:
    """Give the file for a browser that can play it."""
    with services().database.session() as session:
        _, file = _files(session, path.id)
    if file.name in folders.DESCRIPTIONS:
        raise NotFound("A folder of files is not played as one.", "Look at its frames instead.")
    return pictures.play(file)
