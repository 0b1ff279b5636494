"""What is told of a finished file: its ledger, how it was made, and how near it stays to its
master.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from ..core import quality as rules
from ..core.errors import Refused
from ..core.facts import Facts
from ..core.quality import Likeness
from ..handover import report
from ..store.models import Run
from . import quality
from .judging import judged
from .status import item_statuses


@dataclass(frozen=True)
class Told:
    """What is told of a finished file.

    Attributes:
        title: of it.
        entry: its ledger, as `report.entry` gathers it.
        found: by its comparison; None where there is none.
        moments: the worst, as `core.quality.moments` lists them.
    """

    title: str
    entry: dict[str, Any]
    found: Likeness | None
    moments: list[dict[str, Any]]


def of(session: Session, run: Run) -> Told:
    """Gather what is told of what a run made.

    Raises:
        Refused: it has made nothing that was measured.
    """
    if run.state != "done" or run.facts is None:
        raise Refused("This run has made no file.", "Wait until it is done, or run it again.")
    made = item_statuses(run.deliverable.crate)
    one = next(s for s in made if s.deliverable.id == run.deliverable_id)
    entry = report.entry(judged(one, made, run, Facts.from_json(run.facts)))
    row = quality.of(session, run)
    found = None if row is None or row.found is None else Likeness.from_json(row.found)
    title = f"{entry['file']} for {entry['spec']['title']}"
    return Told(title, entry, found, [] if found is None else moments(found, run))


def moments(found: Likeness, run: Run) -> list[dict[str, Any]]:
    """List the worst moments of a run's file; none where its rate is not known."""
    facts = Facts.from_json(run.facts or {})
    rate, start = facts.fraction("motion.rate"), facts.value("file.start_timecode")
    return [] if not rate else rules.moments(found, rate, None if start is None else str(start))
