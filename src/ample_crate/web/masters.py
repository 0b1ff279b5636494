"""Masters: listed, taken from intake folders, looked at."""

from __future__ import annotations

import shutil
from pathlib import Path

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import BadValue, NotFound, Refused
from ..store.database import tell
from ..store.models import Deliverable, Master
from ..store.queries import get, specs_in_force
from . import pictures, views
from .house import give, house
from .schemas import FramePath, FrameQuery, IntakeFile, IntakeOut, MasterOut, MasterPage, Masters, Numbered, Removed, TakeIn

api = APIBlueprint("masters", __name__, url_prefix="/api/masters", abp_tags=[Tag(name="masters")])


def add(session: Session, path: Path, name: str, origin: str) -> Master:
    """Add a master; the caller orders its reading once the session is committed."""
    row = Master(name=name, path=str(path), origin=origin, size=path.stat().st_size)
    session.add(row)
    session.flush()
    tell(session, "master", row.id)
    return row


@api.get("", summary="Every master", responses={200: Masters})
def listed() -> Response:
    """List the masters, newest first."""
    with house().database.session() as session:
        return give(Masters(root=[views.master(m) for m in session.scalars(select(Master).order_by(Master.id.desc()).limit(2000))]))


@api.get("/intake", summary="What lies in the intake folders", responses={200: IntakeOut})
def intake() -> Response:
    """List the intake folders' files."""
    folders = house().folders.intake
    with house().database.session() as session:
        taken = set(session.scalars(select(Master.path)))
    files = []
    for number, folder in enumerate(folders):
        for path in sorted(folder.iterdir()) if folder.is_dir() else []:
            if path.is_file() and not path.name.startswith("."):
                files.append(IntakeFile(folder=number, name=path.name, size=path.stat().st_size, taken=str(path.resolve()) in taken))
    return give(IntakeOut(folders=[str(f) for f in folders], files=files))


@api.post("/intake", summary="Take files from an intake folder, in place", responses={200: Masters})
def take_in(body: TakeIn) -> Response:
    """Take files in without copying them."""
    folders = house().folders.intake
    if body.folder >= len(folders):
        raise NotFound("There is no such intake folder.", "Open the list again.")
    paths = []
    for name in body.names:
        path = folders[body.folder] / name
        # The name is a plain name: a path that climbs out of the folder is not.
        if Path(name).name != name or not house().folders.inside(path).is_relative_to(folders[body.folder]):
            raise Refused(f"'{name}' lies outside the intake folder.", "Choose a file from the list.")
        if not path.is_file():
            raise NotFound(f"'{name}' is not in the intake folder any more.", "Open the list again.")
        paths.append(path.resolve())
    with house().database.session() as session:
        rows = [add(session, path, path.name, "intake") for path in paths]
    for row in rows:
        house().desk.order("take_in", row.id)
    return give(Masters(root=[views.master(_fresh(row.id)) for row in rows]))


def _fresh(id: int) -> Master:
    with house().database.session() as session:
        return get(session, Master, id)


@api.get("/<int:id>", summary="A master's page", responses={200: MasterPage})
def page(path: Numbered) -> Response:
    """Give a master's page."""
    with house().database.session() as session:
        row = get(session, Master, path.id)
        used = session.scalars(select(Deliverable).where(Deliverable.master_id == row.id))
        names = sorted({f"{d.crate.number} {d.crate.title}" for d in used})
        return give(views.master_page(row, specs_in_force(session), names))


@api.post("/<int:id>/read", summary="Read a master again", responses={200: MasterOut})
def read_again(path: Numbered) -> Response:
    """Read and measure a master again."""
    with house().database.session() as session:
        row = get(session, Master, path.id, lock=True)
        if not Path(row.path).is_file():
            raise NotFound(f"'{row.name}' is not there any more.", "Put the file back, then read it again.")
        row.state, row.error, row.progress = "reading", None, None
        tell(session, "master", row.id)
    house().desk.order("take_in", path.id)
    return give(views.master(_fresh(path.id)))


@api.delete("/<int:id>", summary="Dismiss a master", responses={200: Removed})
def dismiss(path: Numbered) -> Response:
    """Dismiss a master that no crate uses; a file in an intake folder stays where it is."""
    with house().database.session() as session:
        row = get(session, Master, path.id, lock=True)
        user = session.scalars(select(Deliverable).where(Deliverable.master_id == row.id)).first()
        if user is not None:
            raise Refused(f"'{row.name}' is in crate {user.crate.number}.", "Take it out of the crate first.")
        file, uploaded = Path(row.path), row.origin == "upload"
        session.delete(row)
        tell(session, "master", path.id)
    if uploaded and file.resolve().is_relative_to(house().folders.masters):
        shutil.rmtree(file.parent, ignore_errors=True)
    return give(Removed(id=path.id))


@api.get("/<int:id>/frames/<int:frame>", summary="One frame as JPEG, at its display aspect")
def frame(path: FramePath, query: FrameQuery) -> Response:
    """Give a frame."""
    row = _fresh(path.id)
    if row.state in {"reading", "failed"}:
        raise BadValue("There is no picture of this master yet.", "Wait until it has been read.")
    return pictures.frame(Path(row.path), path.frame, query.width)


@api.get("/<int:id>/play", summary="The file itself, in pieces")
def play(path: Numbered) -> Response:
    """Give the file for a browser that can play it."""
    return pictures.play(Path(_fresh(path.id).path))
