"""Runs: started, stopped, run again, looked at."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy.orm import Session

from ..core.errors import NotFound, Refused
from ..core.facts import Facts
from ..store import masters
from ..store.database import tell
from ..store.models import Deliverable, Run
from ..store.queries import get
from ..work import crates
from . import pictures, views
from .crates import start
from .house import give, house
from .schemas import FramePath, FrameQuery, Numbered, RunOut

api = APIBlueprint("runs", __name__, url_prefix="/api", abp_tags=[Tag(name="runs")])


@api.post("/deliverables/<int:id>/runs", summary="Run one deliverable, or run it again", responses={200: RunOut})
def run_one(path: Numbered) -> Response:
    """Start a run of one deliverable."""
    with house().database.session() as session:
        one = get(session, Deliverable, path.id)
        if one.crate.state != "open":
            raise Refused(f"Crate {one.crate.number} is {one.crate.state} and cannot change.", "Open a new revision of it.")
        standing = next(s for s in crates.standings(one.crate) if s.deliverable.id == one.id)
        run = start(session, standing)
        if run is None:
            raise Refused("This cannot be run now.", "A run may be going on, the master not be measured yet, or a caution block it.")
        tell(session, "run", run.id, crate=one.crate_id)
        session.refresh(run)
        return give(views.run(run))


@api.post("/runs/<int:id>/cancel", summary="Stop a run", responses={200: RunOut})
def cancel(path: Numbered) -> Response:
    """Stop a run: one that waits ends at once, one that works ends within a second or two."""
    with house().database.session() as session:
        run = get(session, Run, path.id, lock=True)
        if run.state == "queued":
            run.state, run.finished_at = "cancelled", crates.now()
        elif run.state == "running":
            run.state = "stopping"
        elif run.state != "stopping":
            raise Refused(f"The run is {run.state} already.", "There is nothing to stop.")
        tell(session, "run", run.id, crate=run.deliverable.crate_id)
        return give(views.run(run))


def _files(session: Session, id: int) -> tuple[Run, Path]:
    run = get(session, Run, id)
    if run.path is None:
        raise NotFound("This run has made no file.", "Wait until it is done.")
    return run, Path(run.path)


@api.get("/runs/<int:id>/frames/<int:frame>", summary="One frame of the deliverable as JPEG")
def frame(path: FramePath, query: FrameQuery) -> Response:
    """Give a frame of the finished file."""
    with house().database.session() as session:
        _, file = _files(session, path.id)
    return pictures.frame(file, path.frame, query.width)


def master_frame_of(run: Run, number: int) -> int:
    """Give the master's frame shown at the time of the deliverable's frame."""
    mine, theirs = Facts.from_json(run.facts or {}), masters.known(run.deliverable.master)
    here, there = mine.fraction("motion.rate"), theirs.fraction("motion.rate")
    if not here or not there:
        return number
    first = run.deliverable.span["first"] if run.deliverable.span else 0
    return first + int(Fraction(number) / here * there)


@api.get("/runs/<int:id>/master-frames/<int:frame>", summary="The master's frame at the time of the deliverable's frame")
def master_frame(path: FramePath, query: FrameQuery) -> Response:
    """Give the master's frame that belongs beside the deliverable's."""
    with house().database.session() as session:
        run, _ = _files(session, path.id)
        number, file = master_frame_of(run, path.frame), Path(run.deliverable.master.path)
    return pictures.frame(file, number, query.width)


@api.get("/runs/<int:id>/differences/<int:frame>", summary="What differs between master and deliverable, amplified eight times")
def difference(path: FramePath, query: FrameQuery) -> Response:
    """Give the difference picture."""
    with house().database.session() as session:
        run, file = _files(session, path.id)
        number, other = master_frame_of(run, path.frame), Path(run.deliverable.master.path)
    return pictures.difference(other, number, file, path.frame, query.width)


@api.get("/runs/<int:id>/play", summary="The deliverable itself, in pieces")
def play(path: Numbered) -> Response:
    """Give the file for a browser that can play it."""
    with house().database.session() as session:
        _, file = _files(session, path.id)
    return pictures.play(file)
