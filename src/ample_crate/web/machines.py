"""What workers of other machines ask for that do not see the media folders: masters, and a place
for what they made.

They show the installation's secret for machines, which lies with its keys.
"""

from __future__ import annotations

import base64
import binascii
import hashlib
import hmac
import json
import os
import secrets as random
from collections.abc import Sequence
from pathlib import Path, PurePosixPath
from typing import Any

from flask import Response, request, send_file
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field
from sqlalchemy.orm import Session

from ..core.errors import BadValue, NotFound, Refused
from ..core.planning import stored
from ..media import folders as stands_for
from ..media.benches import room_for
from ..store.models import Master, Run
from ..store.places import Folders
from ..store.queries import get
from ..work.sameness import require_same
from .schemas import In, Numbered, Out
from .services import give, problem, services

api = APIBlueprint(
    "machines", __name__, url_prefix="/api/machines", abp_tags=[Tag(name="other machines")]
)
SECRET = "machines"
PIECE = 1 << 20


def secret_of(folders: Folders) -> str:
    """Give the secret by which machines are known, made at the first call."""
    path = folders.keys / SECRET
    if not path.exists():
        part = path.with_name(f".{SECRET}.{os.getpid()}")
        part.touch(0o600)
        part.write_text(random.token_urlsafe(32))
        os.replace(part, path)
    return path.read_text().strip()


@api.before_request
def _known() -> Response | None:
    said = request.headers.get("Authorization", "").removeprefix("Bearer ")
    if hmac.compare_digest(said.encode(), secret_of(services().folders).encode()):
        return None
    return problem(
        401,
        "Unauthorized",
        "This is for the installation's own machines.",
        f"Set AMPLE_SECRET to what the file '{SECRET}' among the installation's keys says.",
        "secret",
    )


class FilePath(In):
    """A path to a file of a master."""

    id: int
    number: int = Field(ge=0)


class FileOfMaster(Out):
    """A file of a master: where it lies in the master's folder, and its bytes."""

    name: str
    size: int


class MasterForMachine(Out):
    """A master as another machine lays it out: `stands` names what stands for it, for a folder its
    description; each link leads to a file.
    """

    name: str
    sha256: str
    at: str
    stands: str
    files: list[FileOfMaster]
    description: dict[str, Any] | None
    links: list[tuple[str, str]]


@api.get("/masters/<int:id>", summary="A master's files", responses={200: MasterForMachine})
def master(path: Numbered) -> Response:
    """List the files of a master, which is compared with what was read of it."""
    sha256 = require_same(services().database, path.id)
    with services().database.session() as session:
        row = get(session, Master, path.id)
        stands, name = services().folders.inside(Path(row.path)), row.name
    files, links = stands_for.files_of(stands), stands_for.links_of(stands)
    names = _names(files) if links else {stands: stands.name}
    return give(
        MasterForMachine(
            name=name,
            sha256=sha256,
            at=f"/api/machines/masters/{path.id}",
            stands=stands.name,
            files=[FileOfMaster(name=names[f], size=f.stat().st_size) for f in files],
            description=json.loads(stands.read_text("utf-8")) if links else None,
            links=[(link, names[file]) for link, file in links],
        )
    )


def _names(files: Sequence[Path]) -> dict[Path, str]:
    """Give files the names that they have, in one folder where these differ."""
    if len({file.name for file in files}) == len(files):
        return {file: f"files/{file.name}" for file in files}
    return {file: f"files/{n}/{file.name}" for n, file in enumerate(files)}


@api.get("/masters/<int:id>/files/<int:number>", summary="A file of a master")
def file_of_master(path: FilePath) -> Response:
    """Give a file's bytes, or of these a range."""
    with services().database.session() as session:
        stands = services().folders.inside(Path(get(session, Master, path.id).path))
    files = stands_for.files_of(stands)
    if path.number >= len(files):
        raise NotFound(f"The master has {len(files)} files.", "Ask for one of these.")
    return send_file(files[path.number], "application/octet-stream", conditional=True)


class MadeFileQuery(In):
    """Which file of which start of a run comes."""

    start: int
    name: str = Field(min_length=1, max_length=1000)


@api.put("/runs/<int:id>/files", summary="Take a file that a run made")
def take(path: Numbered, query: MadeFileQuery) -> Response:
    """Take a file, which appears when it is whole and what its digest says."""
    with services().database.session() as session:
        _mine(session, path.id, query.start)
    to = _place(path.id, query.name)
    to.parent.mkdir(parents=True, exist_ok=True)
    room_for(to.parent, request.content_length or 0)
    part = to.with_name(f".{random.token_hex(8)}.part")
    try:
        if _written(part) != _digest():
            raise BadValue("The file did not come as its digest says.", "Send it again.")
        os.replace(part, to)
    finally:
        part.unlink(missing_ok=True)
    return Response(status=204)


def _written(part: Path) -> bytes:
    found = hashlib.sha256()
    with open(part, "wb") as file:
        while piece := request.stream.read(PIECE):
            file.write(piece)
            found.update(piece)
    return found.digest()


def _digest() -> bytes:
    """Read the digest that came with a file (RFC 9530)."""
    said = request.headers.get("Repr-Digest", "")
    try:
        if not (said.startswith("sha-256=:") and said.endswith(":")):
            raise ValueError
        return base64.b64decode(said[len("sha-256=:") : -1], validate=True)
    except (ValueError, binascii.Error):
        raise BadValue(
            "A file comes with its digest.", "Send 'Repr-Digest: sha-256=:...:' (RFC 9530)."
        ) from None


class Made(In):
    """What a start of a run made: the file, or the folder, that all of it is."""

    start: int
    name: str = Field(min_length=1, max_length=255)


class PlaceOut(Out):
    """What stands for what was made."""

    path: str


@api.post("/runs/<int:id>/made", summary="All that a run made has come", responses={200: PlaceOut})
def made(path: Numbered, body: Made) -> Response:
    """Say where what was made lies; a folder of images or streams is described."""
    with services().database.session() as session:
        run = _mine(session, path.id, body.start)
        plan = stored.route_of(run.route).plan
    there = _place(path.id, body.name)
    if plan is None or not there.exists():
        raise NotFound(f"'{body.name}' has not come.", "Send it first.")
    stands = stands_for.lay_out(there, plan) if there.is_dir() else there
    return give(PlaceOut(path=str(stands)))


def _mine(session: Session, id: int, start: int) -> Run:
    """Give a run that is being made, by the start that asks."""
    run = get(session, Run, id)
    if run.starts != start or run.state not in ("running", "stopping"):
        raise Refused("This run is another worker's by now.", "Leave what was made.")
    return run


def _place(run: int, name: str) -> Path:
    """Give the place of a file of a run, inside its folder whatever its name says."""
    parts = PurePosixPath(name).parts
    if not parts or any(part in ("..", "/") or part.startswith(".") for part in parts):
        raise BadValue(f"'{name}' is no name of a file that a run makes.", "Send another.")
    return services().folders.runs.joinpath(str(run), *parts)
