"""Uploads in pieces: the open tus protocol 1.0.0 with creation, checksum, expiration and
termination.

Each piece is appended to a part file as it arrives; its size on disk is the offset, so nothing is
lost when the line drops or the server restarts. One writes at a time: the part file is locked while
a piece comes in.
"""

from __future__ import annotations

import base64
import binascii
import fcntl
import hashlib
import os
import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from email.utils import format_datetime
from pathlib import Path
from typing import IO

from flask import Response, request
from flask_openapi3 import APIBlueprint  # type: ignore[attr-defined]
from sqlalchemy import select

from ..core.errors import BadValue, NotFound
from ..core.specs.naming import safe_name
from ..media.benches import room_for
from ..store.models import Upload
from ..work import arrivals
from .master_schemas import Unfinished, UnfinishedOne
from .services import give, problem, services

api = APIBlueprint("uploads", __name__, url_prefix="/api/uploads")
VERSION, CHUNK = "1.0.0", 1 << 20
EXTENSIONS = "creation,checksum,expiration,termination"
ALGORITHMS = ("md5", "sha1", "sha256")
LARGEST = 2 * 10**12  # bytes
LONGEST_SAID = 4096  # characters of metadata
AGAIN = "Start it again from the page."


def _answer(status: int, **headers: str) -> Response:
    response = Response(status=status)
    response.headers["Cache-Control"] = "no-store"
    for name, value in headers.items():
        response.headers[name.replace("_", "-")] = value
    return response


@api.before_request
def _speaks() -> Response | None:
    """Refuse another version of the protocol; what is no part of it (the list for the page) says
    none.
    """
    if request.method == "OPTIONS":
        return _spoken_here()
    if request.method == "GET" or request.headers.get("Tus-Resumable") == VERSION:
        return None
    answer = problem(
        412,
        "Precondition Failed",
        f"Uploads speak tus {VERSION} here.",
        "Send 'Tus-Resumable: 1.0.0'.",
        "version",
    )
    answer.headers["Tus-Version"] = VERSION
    return answer


@api.after_request
def _spoken(response: Response) -> Response:
    if request.method != "GET":
        response.headers["Tus-Resumable"] = VERSION
    return response


class MethodOverride:
    """Lets a client that can only GET and POST say what it means (tus 1.0.0,
    X-HTTP-Method-Override).
    """

    def __init__(self, app: object) -> None:
        self.app = app

    def __call__(self, environ: dict[str, str], start_response: object) -> object:
        meant = environ.get("HTTP_X_HTTP_METHOD_OVERRIDE", "").upper()
        if environ.get("PATH_INFO", "").startswith("/api/uploads") and meant in {
            "PATCH",
            "DELETE",
            "HEAD",
            "OPTIONS",
        }:
            environ["REQUEST_METHOD"] = meant
        return self.app(environ, start_response)  # type: ignore[operator]


def _metadata(header: str) -> dict[str, str]:
    """Read 'key base64,key base64'; a key may stand without a value."""
    found: dict[str, str] = {}
    for pair in header.split(",") if header else ():
        key, _, value = pair.strip().partition(" ")
        try:
            found[key] = base64.b64decode(value, validate=True).decode("utf-8")
        except (binascii.Error, UnicodeDecodeError):
            raise BadValue("The upload's metadata cannot be read.", AGAIN) from None
    return found


def _part(id: str) -> Path:
    if not (id.isascii() and id.isalnum()):
        raise NotFound("There is no such upload.", "Start it again.")
    return arrivals.part(services().folders, id)


def _row(id: str) -> Upload:
    _part(id)
    with services().database.session() as session:
        row = session.get(Upload, id)
        if row is None:
            raise NotFound("There is no such upload, or it has expired.", "Start it again.")
        return row


def _expiry(part: Path) -> dict[str, str]:
    return (
        {"Upload_Expires": format_datetime(arrivals.expires_at(part), usegmt=True)}
        if part.exists()
        else {}
    )


@api.post("", summary="tus: begin an upload", doc_ui=False)
def begin() -> Response:
    """Begin an upload: Upload-Length and Upload-Metadata with the file's name."""
    said = request.headers.get("Upload-Length", "")
    if not (said.isascii() and said.isdigit()):
        return problem(
            400, "Bad Request", "The upload does not say how long it is.", AGAIN, "bad-value"
        )
    if int(said) > LARGEST:
        return problem(
            413,
            "Content Too Large",
            f"A file of {said[:30]} bytes is larger than can be taken.",
            "Hand it in by an intake folder.",
            "too-long",
        )
    metadata = request.headers.get("Upload-Metadata", "")
    if len(metadata) > LONGEST_SAID:
        return problem(400, "Bad Request", "The upload's metadata is too long.", AGAIN, "bad-value")
    return _begun(int(said), metadata)


def _begun(length: int, metadata: str) -> Response:
    name = safe_name(_metadata(metadata).get("filename", ""))
    if length:
        room_for(services().folders.uploads, length)
    id = secrets.token_hex(12)
    part = _part(id)
    part.touch(exist_ok=False, mode=0o640)
    with services().database.session() as session:
        row = Upload(id=id, name=name, length=length, said=metadata)
        session.add(row)
        session.flush()
        if length == 0:
            arrivals.finish(session, services().folders, row)
    return _answer(201, Location=f"/api/uploads/{id}", Upload_Offset="0", **_expiry(part))


@api.get(
    "/unfinished", summary="Uploads that were begun and not finished", responses={200: Unfinished}
)
def unfinished() -> Response:
    """List what is only in part here: choosing the same file again goes on where it stands."""
    made = []
    with services().database.session() as session:
        for row in session.scalars(
            select(Upload).where(Upload.master_id.is_(None)).order_by(Upload.created_at)
        ):
            part = _part(row.id)
            if part.exists():
                made.append(
                    UnfinishedOne(
                        id=row.id,
                        name=row.name,
                        length=row.length,
                        arrived=part.stat().st_size,
                        begun_at=row.created_at,
                    )
                )
    return give(Unfinished(root=made))


@api.route("/<id>", methods=["HEAD"])
def where(id: str) -> Response:
    """Say how much has arrived."""
    row, part = _row(id), _part(id)
    offset = part.stat().st_size if part.exists() else row.length
    said = {"Upload_Metadata": row.said} if row.said else {}
    return _answer(
        200, Upload_Offset=str(offset), Upload_Length=str(row.length), **said, **_expiry(part)
    )


@api.route("/<id>", methods=["PATCH"])
def append(id: str) -> Response:
    """Take the next piece, which must begin where the last one ended."""
    row, part = _row(id), _part(id)
    if request.content_type != "application/offset+octet-stream":
        return problem(
            415,
            "Unsupported Media Type",
            "A piece comes as application/offset+octet-stream.",
            AGAIN,
        )
    asked = request.headers.get("Upload-Checksum", "")
    algorithm = asked.partition(" ")[0]
    if asked and algorithm not in ALGORITHMS:
        return problem(
            400,
            "Bad Request",
            f"'{algorithm[:30]}' is no checksum that is taken here.",
            f"Use one of {', '.join(ALGORITHMS)}.",
            "bad-value",
        )
    with _writing(part) as file:
        if file is None:
            return problem(
                423,
                "Locked",
                "Another piece of this upload is coming in.",
                "Ask where the upload stands, then go on.",
                "locked",
            )
        # Only who holds the file knows where it ends.
        have = os.fstat(file.fileno()).st_size if part.exists() else row.length
        if request.headers.get("Upload-Offset") != str(have):
            return problem(
                409,
                "Conflict",
                f"The next piece begins at {have}.",
                "Ask where the upload stands, then go on.",
            )
        if (request.content_length or 0) > row.length - have:
            return problem(
                413, "Content Too Large", f"The upload ends at {row.length}.", AGAIN, "too-long"
            )
        if have < row.length and not _take(file, have, row.length - have, asked):
            return problem(
                460,
                "Checksum Mismatch",
                "The piece is not what its checksum says; it was not kept.",
                "Send it again.",
                "checksum",
            )
        offset = os.fstat(file.fileno()).st_size if part.exists() else row.length
        answer = _answer(204, Upload_Offset=str(offset), **_expiry(part))
        if offset == row.length:
            answer.headers["Ample-Master"] = str(_finished(id))
        return answer


@contextmanager
def _writing(part: Path) -> Iterator[IO[bytes] | None]:
    """Hold a part file for one writer; None where another holds it. One that is finished has no
    part any more.
    """
    try:
        file = open(part, "r+b")  # noqa: SIM115 (closed below)
    except FileNotFoundError:
        file = open(os.devnull, "r+b")  # noqa: SIM115 (closed below)
    with file:
        try:
            if file.name != os.devnull:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            yield None
            return
        yield file


def _pieces(most: int) -> Iterator[bytes]:
    """Give what comes in, until it is enough or the line drops: what arrived stays."""
    while most > 0:
        try:
            piece = request.stream.read(min(CHUNK, most))
        except (OSError, ValueError):
            return
        if not piece:
            return
        most -= len(piece)
        yield piece


def _take(file: IO[bytes], have: int, most: int, asked: str) -> bool:
    """Append what comes in; what its checksum contradicts is taken back, and the answer is no.

    Raises:
        NoRoom: the disk is full; what arrived is kept.
    """
    algorithm, _, wanted = asked.partition(" ")
    digest = hashlib.new(algorithm, usedforsecurity=False) if asked else None
    file.seek(have)
    try:
        for piece in _pieces(most):
            file.write(piece)
            most -= len(piece)
            if digest is not None:
                digest.update(piece)
        file.flush()
        os.fsync(file.fileno())
    except OSError:
        room_for(services().folders.uploads, most + CHUNK)
        raise
    if digest is not None and base64.b64encode(digest.digest()).decode() != wanted:
        file.truncate(have)
        os.fsync(file.fileno())
        return False
    return True


def _finished(id: str) -> int:
    with services().database.session() as session:
        row = session.get(Upload, id, with_for_update=True)
        if row is None:
            raise NotFound("There is no such upload any more.", "Start it again.")
        return arrivals.finish(session, services().folders, row)


@api.route("/<id>", methods=["DELETE"])
def stop(id: str) -> Response:
    """End an upload that is not wanted any more."""
    _row(id)
    _part(id).unlink(missing_ok=True)
    with services().database.session() as session:
        row = session.get(Upload, id)
        if row is not None:
            session.delete(row)
    return _answer(204)


def _spoken_here() -> Response:
    """Say what of the protocol is spoken."""
    return _answer(
        204,
        Tus_Version=VERSION,
        Tus_Extension=EXTENSIONS,
        Tus_Max_Size=str(LARGEST),
        Tus_Checksum_Algorithm=",".join(ALGORITHMS),
    )
