"""What a run made, played as a player would: ordered by a person, carried out by a worker."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import Refused
from ..core.planning import stored
from ..media import looks, ops
from ..store.models import Deliverable, Run
from ..store.places import Folders
from ..store.studied import Rehearsal
from .studies import Study, Work

BESIDE = 4  # other files that one is shown beside


def file_of(run: Run) -> Path:
    """Give the file that a run made.

    Raises:
        Refused: there is none, or it has no picture.
    """
    plan = stored.route_of(run.route).plan
    if run.state != "done" or run.path is None:
        raise Refused("This run has made no file.", "Wait until it is done, or run it again.")
    if plan is None or plan.picture is None:
        raise Refused("What was made has no picture.", "Listen to it instead.")
    return Path(run.path)


def _ready(session: Session, row: Rehearsal) -> Work:
    path = file_of(row.run)

    def played(folders: Folders, control: ops.Control) -> Mapping[str, Any]:
        return {"found": looks.rehearsal(folders.inside(path), control)}

    return played


STUDY = Study(Rehearsal, "run_id", "rehearse", "rehearsing", "rehearsal", _ready)


def begin(session: Session, run: Run) -> Rehearsal:
    """Order a rehearsal, anew where there was one, unless one is going on.

    Raises:
        Refused: there is nothing to play.
    """
    file_of(run)
    made: Rehearsal = STUDY.begin(session, run.id)
    return made


def beside(session: Session, run: Run) -> Sequence[Rehearsal]:
    """List the last rehearsals of other files of the same master."""
    master = run.deliverable.master_id
    mine = Deliverable.master_id == master
    known = Rehearsal.found.is_not(None)
    wanted = select(Rehearsal).join(Run).join(Deliverable, Run.deliverable_id == Deliverable.id)
    rows = wanted.where(mine, known, Rehearsal.run_id != run.id)
    return session.scalars(rows.order_by(Rehearsal.at.desc()).limit(BESIDE)).all()
