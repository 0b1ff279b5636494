"""What a run made, held against its master frame by frame: ordered by a person, carried out by a
worker.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from ..core.quality import RANKED, figures
from ..media import ops
from ..store.models import Run
from ..store.places import Folders
from ..store.studied import Comparison
from .pairs import pair_of
from .studies import Study, Work


def _ready(session: Session, row: Comparison) -> Work:
    pair = pair_of(row.run)

    def compared(folders: Folders, control: ops.Control) -> Mapping[str, Any]:
        inputs = [folders.inside(path) for path in pair.inputs]
        found = ops.quality(folders.inside(pair.file), inputs, pair.plan, control)
        mean = figures(found.of_programme[RANKED]).mean
        return {"found": found.as_json(), "mean": mean}

    return compared


STUDY = Study(Comparison, "run_id", "quality", "comparing", "comparison", _ready)


def of(session: Session, run: Run) -> Comparison | None:
    """Give the comparison of a run, if there ever was one."""
    found: Comparison | None = STUDY.of(session, run.id)
    return found


def begin(session: Session, run: Run) -> Comparison:
    """Order a comparison, anew where there was one, unless one is going on.

    Raises:
        Refused: there is nothing to compare, or the master is another by now.
    """
    pair_of(run)
    made: Comparison = STUDY.begin(session, run.id)
    return made
