"""What a run made, and what it was made of: held against each other, so both must be as they
were.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from ..core.errors import Refused
from ..core.planning import stored
from ..core.planning.plan import Plan
from ..store.models import Run
from . import origins


@dataclass(frozen=True)
class Pair:
    """What is held against what: a finished file, and the plan with its inputs."""

    file: Path
    inputs: Sequence[Path]
    plan: Plan


def pair_of(run: Run) -> Pair:
    """Give what a run made and of what.

    Raises:
        Refused: it made no picture, or the masters are others by now.
    """
    plan = stored.route_of(run.route).plan
    if run.state != "done" or run.path is None:
        raise Refused("This run has made no file.", "Wait until it is done, or run it again.")
    if plan is None or plan.picture is None:
        raise Refused("What was made has no picture.", "Listen to it instead.")
    if origins.bytes_of(run.deliverable) != run.master_sha256:
        raise Refused(
            "The master is another file than the one that this was made of.",
            "Put the master back as it was or, while the crate is open, run the item again.",
        )
    return Pair(Path(run.path), origins.paths(run.deliverable), plan)
