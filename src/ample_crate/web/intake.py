"""The intake folders on the server: looked into, taken from in place, watched; stills joined as a
sequence.
"""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]

from ..core.errors import BadValue, Refused
from ..core.facts.sequences import gather, rate_of
from ..store.database import tell
from ..store.models import Deliverable, Master, WatchedFolder
from ..store.queries import get
from ..work import intake
from . import views
from .master_schemas import (
    BrowseIntake,
    Ingest,
    IntakeFolder,
    IntakeItem,
    IntakeOut,
    Join,
    MasterOut,
    Masters,
    WatchFolder,
)
from .services import give, services

api = APIBlueprint("intake", __name__, url_prefix="/api/intake", abp_tags=[Tag(name="intake")])


@api.get("", summary="What lies in an intake folder", responses={200: IntakeOut})
def browse(query: BrowseIntake) -> Response:
    """List one place of the intake folders."""
    folders = services().folders
    with services().database.session() as session:
        watched = intake.watched(session)
        items = intake.browse(session, intake.folder_of(folders, query.folder, query.inner))
    return give(
        IntakeOut(
            folders=[IntakeFolder(path=str(f), watched=str(f) in watched) for f in folders.intake],
            folder=query.folder,
            inner=query.inner,
            items=[IntakeItem.model_validate(i) for i in items],
        )
    )


@api.post(
    "", summary="Take files and sequences from an intake folder, in place", responses={200: Masters}
)
def ingest(body: Ingest) -> Response:
    """Take files in without copying them."""
    folders = services().folders
    rate = rate_of(body.rate)
    folder = intake.folder_of(folders, body.folder, body.inner)
    with services().database.session() as session:
        rows = intake.take(session, folders, folder, body.names, rate, body.production.strip())
        for row in rows:
            session.refresh(row)
        return give(Masters(root=[views.master(row) for row in rows]))


@api.put("/watch", summary="Watch an intake folder, or stop", responses={200: IntakeFolder})
def watch(body: WatchFolder) -> Response:
    """Watch a folder: what is new there, and has not changed for a while, is taken in without being
    asked for.
    """
    path = str(intake.folder_of(services().folders, body.folder, ""))
    with services().database.session() as session:
        row = session.get(WatchedFolder, path)
        if body.on and row is None:
            session.add(WatchedFolder(folder=path))
        elif not body.on and row is not None:
            session.delete(row)
    return give(IntakeFolder(path=path, watched=body.on))


@api.post("/join", summary="Join stills as one sequence", responses={200: MasterOut})
def join(body: Join) -> Response:
    """Join stills whose names differ in their number alone; they become one master and are no
    masters of their own any more.
    """
    folders, rate = services().folders, rate_of(body.rate)
    with services().database.session() as session:
        rows = [get(session, Master, id, lock=True) for id in body.ids]
        for row in rows:
            if session.query(Deliverable).filter(Deliverable.uses(row.id)).first() is not None:
                raise Refused(f"'{row.name}' is in a crate.", "Take it out of the crate first.")
        found, rest = gather([r.name for r in rows])
        if len(found) != 1 or rest:
            raise BadValue(
                "These are not the numbered images of one sequence.",
                "Choose stills whose names differ in their last number alone.",
            )
        folder = folders.masters / f"joined-{secrets.token_hex(8)}"
        folder.mkdir()
        for row in rows:
            source = folders.inside(Path(row.path))
            if row.origin == "upload":
                os.replace(source, folder / row.name)
            else:
                (folder / row.name).symlink_to(source)
            session.delete(row)
            tell(session, "master", row.id)
        made = intake.lay(session, folders, folder, found[0], rate, rows[0].production)
        session.refresh(made)
        return give(views.master(made))
