"""Uploads in pieces: the open tus 1.0 protocol with creation and termination.

Each piece is appended to a part file as it arrives; its size on disk is the offset, so nothing is lost
when the line drops or the server restarts.
"""

from __future__ import annotations

import base64
import binascii
import os
import secrets
from pathlib import Path

from flask import Response, request
from flask_openapi3 import APIBlueprint  # type: ignore[attr-defined]
from sqlalchemy import select

from ..core.errors import BadValue, NotFound
from ..core.naming import safe_name
from ..media.ops import room_for
from ..store import masters
from ..store.models import Upload
from ..work.orders import order
from .house import give, house, problem
from .schemas import Unfinished, UnfinishedOne

api = APIBlueprint("uploads", __name__, url_prefix="/api/uploads")
VERSION, CHUNK = "1.0.0", 1 << 20
LARGEST = 2 * 10**12  # bytes


def _answer(status: int, **headers: str) -> Response:
    response = Response(status=status)
    response.headers["Tus-Resumable"] = VERSION
    response.headers["Cache-Control"] = "no-store"
    for name, value in headers.items():
        response.headers[name.replace("_", "-")] = value
    return response


def _metadata(header: str) -> dict[str, str]:
    found = {}
    for pair in header.split(","):
        key, _, value = pair.strip().partition(" ")
        try:
            found[key] = base64.b64decode(value, validate=True).decode("utf-8")
        except (binascii.Error, UnicodeDecodeError):
            raise BadValue("The upload's metadata cannot be read.", "Start the upload again from the page.") from None
    return found


def _part(id: str) -> Path:
    if not id.isalnum():
        raise NotFound("There is no such upload.", "Start it again.")
    return house().folders.uploads / f"{id}.part"


def _row(id: str) -> Upload:
    with house().database.session() as session:
        row = session.get(Upload, id)
        if row is None:
            raise NotFound("There is no such upload.", "Start it again.")
        return row


@api.post("", summary="tus: begin an upload", doc_ui=False)
def begin() -> Response:
    """Begin an upload: Upload-Length and Upload-Metadata with the file's name."""
    try:
        length = int(request.headers["Upload-Length"])
    except (KeyError, ValueError):
        raise BadValue("The upload does not say how long it is.", "Start it again from the page.") from None
    if length > LARGEST or length < 0:
        return problem(413, "Too large", f"A file of {length} bytes is larger than can be taken.", "Hand it in by an intake folder.")
    name = safe_name(_metadata(request.headers.get("Upload-Metadata", "")).get("filename", ""))
    if length:
        room_for(house().folders.uploads, length)
    id = secrets.token_hex(12)
    _part(id).touch(exist_ok=False)
    with house().database.session() as session:
        session.add(Upload(id=id, name=name, length=length))
    if length == 0:
        _finish(id)
    return _answer(201, Location=f"/api/uploads/{id}", Upload_Offset="0")


@api.get("/unfinished", summary="Uploads that were begun and not finished", responses={200: Unfinished})
def unfinished() -> Response:
    """List what is only in part here: choosing the same file again goes on where it stands."""
    made = []
    with house().database.session() as session:
        for row in session.scalars(select(Upload).where(Upload.master_id.is_(None)).order_by(Upload.created_at)):
            part = _part(row.id)
            if part.exists():
                made.append(UnfinishedOne(id=row.id, name=row.name, length=row.length, arrived=part.stat().st_size, begun_at=row.created_at))
    return give(Unfinished(root=made))


@api.route("/<id>", methods=["HEAD"])
def where(id: str) -> Response:
    """Say how much has arrived."""
    row, part = _row(id), _part(id)
    offset = part.stat().st_size if part.exists() else row.length
    return _answer(200, Upload_Offset=str(offset), Upload_Length=str(row.length))


@api.route("/<id>", methods=["PATCH"])
def append(id: str) -> Response:
    """Take the next piece, which must begin where the last one ended."""
    row, part = _row(id), _part(id)
    if request.content_type != "application/offset+octet-stream":
        return problem(415, "Unsupported", "A piece comes as application/offset+octet-stream.", "Start it again from the page.")
    have = part.stat().st_size if part.exists() else row.length
    if request.headers.get("Upload-Offset") != str(have):
        return problem(409, "Conflict", f"The next piece begins at {have}.", "Ask where the upload stands, then go on.")
    if have < row.length:
        try:
            _append(part, row.length - have)
        except OSError:
            return problem(507, "No room", "The disk is full.", "Free some room and resume; what arrived is kept.", "no-room")
    offset = part.stat().st_size if part.exists() else row.length
    answer = _answer(204, Upload_Offset=str(offset))
    if offset == row.length and row.master_id is None:
        answer.headers["Ample-Master"] = str(_finish(id))
    return answer


def _append(part: Path, most: int) -> None:
    with open(part, "ab") as file:
        while most > 0:
            try:
                piece = request.stream.read(min(CHUNK, most))
            except (OSError, ValueError):  # the line dropped: what arrived stays
                break
            if not piece:
                break
            file.write(piece)
            most -= len(piece)
        file.flush()
        os.fsync(file.fileno())


def _finish(id: str) -> int:
    with house().database.session() as session:
        row = session.get(Upload, id, with_for_update=True)
        assert row is not None
        if row.master_id is not None:
            return row.master_id
        folder = house().folders.masters / id
        folder.mkdir(parents=True, exist_ok=True)
        final = folder / row.name
        if _part(id).exists():
            os.replace(_part(id), final)
        master = masters.add(session, final, row.name, "upload")
        row.master_id = master.id
        order(session, "take_in", master.id)
        return master.id


@api.route("/<id>", methods=["DELETE"])
def stop(id: str) -> Response:
    """End an upload that is not wanted any more."""
    _row(id)
    _part(id).unlink(missing_ok=True)
    with house().database.session() as session:
        row = session.get(Upload, id)
        if row is not None:
            session.delete(row)
    return _answer(204)


@api.route("", methods=["OPTIONS"])
def options() -> Response:
    """Say what of the protocol is spoken."""
    return _answer(204, Tus_Version=VERSION, Tus_Extension="creation,termination", Tus_Max_Size=str(LARGEST))
