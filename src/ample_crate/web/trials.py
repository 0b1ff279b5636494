"""A file that is tried and not kept: held against a spec, or read for rules that it suggests."""

from __future__ import annotations

import json
import queue
import shutil
import tempfile
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]

from ..core.errors import BadMedia, BadValue, Cancelled
from ..core.ledger import ledger, needed, overall
from ..core.specs import naming
from ..core.specs.drafting import proposals
from ..core.specs.spec import Spec
from ..media import benches, ops
from ..store import specs
from ..store.places import Folders
from ..work import logs
from . import spec_views, views
from .services import services
from .spec_schemas import Trial, TrialQuery

api = APIBlueprint("trials", __name__, url_prefix="/api/trials", abp_tags=[Tag(name="trials")])
CHUNK = 1 << 20
SIGN_OF_LIFE = (
    0.5  # seconds between lines while nothing is new, so that a reader who left is noticed
)


@api.post("", summary="Try a file without keeping it", responses={200: Trial})
def try_file(query: TrialQuery) -> Response:
    """Take a file as the request's body, measure it, and forget it.

    Answers in lines of JSON: `{"progress": …}` while it is measured, then `{"trial": …}` or
    `{"problem": …}`. A reader who goes away ends the work.
    """
    spec = None
    if query.spec is not None:
        with services().database.session() as session:
            spec = specs.read(specs.get(session, query.spec, query.version))
    folder = Path(tempfile.mkdtemp(prefix="trial-", dir=services().folders.uploads))
    try:
        path = _take(folder, naming.safe_name(query.name))
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    lines = _lines(path, folder, spec)
    answer = Response(
        lines,
        mimetype="application/x-ndjson",
        headers={"X-Accel-Buffering": "no", "Cache-Control": "no-store"},
    )
    # A generator that never began is not told that its reader left: the folder is ours to clear
    # either way.
    answer.call_on_close(lambda: shutil.rmtree(folder, ignore_errors=True))
    return answer


def clear(folders: Folders) -> None:
    """Clear away what a server that was killed in mid-trial left behind."""
    for left in folders.uploads.glob("trial-*"):
        shutil.rmtree(left, ignore_errors=True)


def _take(folder: Path, name: str) -> Path:
    length = request.content_length
    if not length:
        raise BadMedia(f"'{name}' is empty.", "Choose the file again.")
    benches.room_for(folder, length)
    path, have = folder / name, 0
    with open(path, "wb") as file:
        while have < length and (piece := request.stream.read(min(CHUNK, length - have))):
            file.write(piece)
            have += len(piece)
    if have < length:
        raise BadValue(f"Only {have} of {length} bytes of '{name}' arrived.", "Send it again.")
    return path


def _lines(path: Path, folder: Path, spec: Spec | None) -> Iterator[str]:
    told: queue.Queue[dict[str, Any] | None] = queue.Queue()
    left = threading.Event()
    worker = threading.Thread(target=_measure, args=(path, spec, told, left), daemon=True)
    worker.start()
    try:
        while True:
            try:
                body = told.get(timeout=SIGN_OF_LIFE)
            except queue.Empty:
                body = {}
            if body is None:
                return
            yield json.dumps(body) + "\n"
    finally:
        left.set()
        worker.join()
        shutil.rmtree(folder, ignore_errors=True)


def _measure(
    path: Path, spec: Spec | None, told: queue.Queue[dict[str, Any] | None], left: threading.Event
) -> None:
    try:
        depth = "everything" if spec is None else ops.depth_for(needed([spec]))
        measured = ops.measure(path, lambda body: told.put({"progress": body}), left.is_set, depth)
        findings = [] if spec is None else ledger(measured.facts, spec)
        looked = Trial(
            name=path.name,
            seconds=measured.seconds,
            notes=measured.notes,
            proposals=[]
            if spec is not None
            else [spec_views.proposal(p) for p in proposals(measured.facts, f"as in {path.name}")],
            verdict=overall(findings) if findings else None,
            findings=[views.finding(f) for f in findings],
        )
        told.put({"trial": looked.model_dump(mode="json")})
    except Cancelled:
        pass
    except Exception as error:  # told, and not left to a thread that nobody reads
        told.put({"problem": logs.as_error(error)})
    finally:
        told.put(None)
