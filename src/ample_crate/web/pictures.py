"""Pictures of media files, and the files themselves, for the page, made once and kept."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, Literal

from flask import Response, request, send_file

from ..core.errors import NotFound
from ..core.planning.plan import Plan
from ..store.masters import file_identity
from .schemas import DifferenceQuery, LookQuery, PlannedQuery
from .services import services


def kept(what: str, make: Callable[[], bytes]) -> Response:
    """Give a picture from the store, making it first where it is missing.

    Args:
        what: everything that decides the picture: path, size and time of the file, frame, width.
        make: makes the JPEG.
    """
    folder = services().folders.pictures
    mark = hashlib.sha256(what.encode()).hexdigest()
    file = folder / mark[:2] / f"{mark}.jpg"
    if not file.exists():
        data = make()
        file.parent.mkdir(parents=True, exist_ok=True)
        handle, part = tempfile.mkstemp(dir=file.parent)
        try:
            with os.fdopen(handle, "wb") as out:
                out.write(data)
            os.replace(part, file)
        except OSError:
            # A full disk must not keep the picture from the page.
            with contextlib.suppress(OSError):
                os.unlink(part)
            return Response(data, mimetype="image/jpeg")
    # The address of a picture whose master may change carries its mark (`store.masters.mark`);
    # others are asked for anew.
    with contextlib.suppress(OSError):
        os.utime(file)  # what was longest not asked for goes first when the store is tidied
    return send_file(file, mimetype="image/jpeg", max_age=86400 if "v" in request.args else 0)


def _there(path: Path) -> Path:
    """Give the real place of a file that may be shown.

    Raises:
        NotFound: it was moved or deleted since it was taken in.
    """
    real = services().folders.inside(path)
    if not real.exists():
        raise NotFound(
            f"'{path.name}' is no longer where it was.",
            "Put it back there, or dismiss what was made of it.",
        )
    return real


def frame(
    path: Path, number: int, width: int, display: dict[str, Any] | None = None, mark: str = ""
) -> Response:
    """Give one frame of a file; `display` says how (see `media.pictures`), `mark` which bytes a
    master had when it was read.
    """
    real = _there(path)
    way = json.dumps(display, sort_keys=True)
    what = f"frame|{file_identity(real)}|{mark}|{path}|{number}|{width}|{way}"
    return kept(what, lambda: services().viewer.picture(real, number, width, display, mark))


def planned(
    inputs: Sequence[Path], plan: Plan, place: int, look: PlannedQuery, mark: str
) -> Response:
    """Give one frame of a deliverable as a plan will make it of its inputs."""
    return _of_plan("planned", inputs, plan, place, look, mark)


def coded(
    inputs: Sequence[Path], plan: Plan, place: int, look: PlannedQuery, mark: str
) -> Response:
    """Give one frame of a stretch of a deliverable as it looks coded."""
    return _of_plan("coded", inputs, plan, place, look, mark)


def _of_plan(
    kind: Literal["planned", "coded"],
    inputs: Sequence[Path],
    plan: Plan,
    place: int,
    look: PlannedQuery,
    mark: str,
) -> Response:
    real, viewer = [_there(path) for path in inputs], services().viewer
    recipe, known = plan.model_dump_json(), "|".join(map(file_identity, real))
    way = {"width": look.width, "ground": look.alpha, "mark": mark}
    if isinstance(look, LookQuery):
        way["field"] = look.field
    what = f"{kind}|{known}|{inputs[0]}|{place}|{json.dumps(way)}|{recipe}"
    make = {"planned": viewer.planned, "coded": viewer.coded}[kind]
    return kept(what, lambda: make(real, plan, place, way))


def difference(
    path: Path, inputs: Sequence[Path], plan: Plan, place: int, look: DifferenceQuery
) -> Response:
    """Give what one frame of a file differs from what a plan makes of its inputs."""
    real = [_there(one) for one in (path, *inputs)]
    recipe, known = plan.model_dump_json(), "|".join(map(file_identity, real))
    what = f"difference|{known}|{path}|{place}|{look.width}|{look.gain}|{recipe}"
    way = {"width": look.width, "gain": look.gain}
    make = services().viewer.difference
    return kept(what, lambda: make(real[0], real[1:], plan, place, way))


def magnified(
    path: Path, inputs: Sequence[Path], plan: Plan, place: int, at: tuple[int, int]
) -> dict[str, Any]:
    """Give samples of one frame of a file, and of what a plan makes of its inputs."""
    real = [_there(one) for one in (path, *inputs)]
    return services().viewer.magnified(real[0], real[1:], plan, place, at)


def play(path: Path) -> Response:
    """Give a file in pieces (range requests), for a browser that can play it."""
    real = _there(path)
    kinds = {".mp4": "video/mp4", ".mov": "video/mp4"}
    return send_file(
        real,
        mimetype=kinds.get(real.suffix, "application/octet-stream"),
        conditional=True,
        max_age=0,
    )
