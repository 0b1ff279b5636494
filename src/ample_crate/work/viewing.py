"""What a run made beside what went into its encoder, to be played together: ordered by a person,
made by a worker.
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ..core.errors import NotFound
from ..media import looks, ops
from ..store.models import Run
from ..store.places import Folders
from ..store.studied import Viewing
from .pairs import pair_of
from .studies import Study, Work

NAME = "viewed"


def _ready(session: Session, row: Viewing) -> Work:
    pair, name = pair_of(row.run), f"{NAME}-{row.id}.mp4"

    def made(folders: Folders, control: ops.Control) -> Mapping[str, Any]:
        inputs = [folders.inside(path) for path in pair.inputs]
        out = folders.proxies / name
        found = looks.viewing(folders.inside(pair.file), inputs, pair.plan, out, control)
        return {"found": {**found, "file": name}}

    return made


STUDY = Study(Viewing, "run_id", "view", "viewing", "copy", _ready)


def begin(session: Session, run: Run) -> None:
    """Have a copy of both made, anew where there was one, unless that goes on.

    Raises:
        Refused: there is nothing to see beside each other, or the master is another by now.
    """
    pair_of(run)
    STUDY.begin(session, run.id)


def file_of(row: Viewing | None, folders: Folders) -> Path:
    """Give the copy.

    Raises:
        NotFound: there is none, or it was cleared away.
    """
    name = "" if row is None or row.found is None else str(row.found["file"])
    if not name or not (folders.proxies / name).is_file():
        raise NotFound("There is nothing to play yet.", "Have a copy of both made first.")
    return folders.proxies / name
