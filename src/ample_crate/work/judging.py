"""What a run made, judged among the other items of its crate."""

from __future__ import annotations

from collections.abc import Sequence

from ..core.facts import Facts
from ..core.ledger import ledger
from ..core.planning import programme, stored
from ..handover import report
from ..store.models import Run
from .status import ItemStatus, spec_of


def judged(one: ItemStatus, made: Sequence[ItemStatus], run: Run, facts: Facts) -> report.Judged:
    """Judge what a run made among the other items of its crate, as a report tells of it.

    Args:
        one: where its deliverable stands.
        made: where all of the crate stand.
        run: that made it.
        facts: of what it made.
    """
    spec = programme.asked_of(spec_of(one.deliverable.crate), one.master)
    others = [s.measured for s in made if s is not one and s.measured is not None]
    return report.Judged(
        str(facts.value("file.name")),
        spec,
        one.master,
        facts,
        stored.route_of(run.route),
        ledger(facts, spec, one.master, others),
        others,
        [x for x in one.deliverable.exceptions if x["sha256"] == run.sha256],
        run.sha256 or "",
    )
