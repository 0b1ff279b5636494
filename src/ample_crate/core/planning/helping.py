"""What would help where something is foretold to be late."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from .schedule import Queue, Slot, Task, schedule

Way = Literal["let go", "first", "worker", "quicker"]
# Ways that gain less than this say nothing.
WORTH = 1.0  # seconds


@dataclass(frozen=True)
class Help:
    """What would help, and what would come of it.

    Attributes:
        way: let its runs go now, make them first, have another worker, or make them at a quicker
        pace.
        pace: the quicker one; empty for other ways.
        spare: seconds that are left to the due time then; less than none where it is late still.
    """

    way: Way
    spare: float
    pace: str = ""


def helps(
    line: Queue,
    own: Collection[int],
    due: float,
    quicker: Mapping[str, Mapping[int, float]] | None = None,
) -> list[Help]:
    """List what would help, what gains most first.

    Args:
        line: of all runs, those that are meant among them.
        own: keys of the runs that are to be made in time.
        due: seconds from now when the last of them must be made.
        quicker: seconds that runs take at other paces, by pace and key.

    Returns:
        each way that is in time, or where none is, the one that comes nearest.
    """
    now = _spare(line.slots, own, due)
    found = [one for one in _ways(line, own, due, quicker or {}) if one.spare > now + WORTH]
    found.sort(key=lambda one: -one.spare)
    return [one for one in found if one.spare >= 0] or found[:1]


def _ways(
    line: Queue, own: Collection[int], due: float, quicker: Mapping[str, Mapping[int, float]]
) -> Iterator[Help]:
    tasks, workers = line.tasks, line.workers
    free = [_let_go(one) if one.key in own else one for one in tasks]
    if any(one.held or one.not_before for one in tasks if one.key in own):
        yield Help("let go", _spare(schedule(free, workers), own, due))
    first = sorted(free, key=lambda one: one.key not in own)
    yield Help("first", _spare(schedule(first, workers), own, due))
    more = {**workers, max(workers, default=0) + 1: 0.0}
    yield Help("worker", _spare(schedule(tasks, more), own, due))
    for pace, seconds in quicker.items():
        yield Help("quicker", _spare(schedule(_at(tasks, own, seconds), workers), own, due), pace)


def _let_go(one: Task) -> Task:
    return replace(one, held=False, not_before=0.0)


def _at(tasks: Sequence[Task], own: Collection[int], seconds: Mapping[int, float]) -> list[Task]:
    """Give runs as they are at another pace; what is begun goes on at the one that it has."""
    return [
        replace(one, seconds=min(one.seconds, seconds.get(one.key, one.seconds)))
        if one.key in own and one.lane is None
        else one
        for one in tasks
    ]


def _spare(slots: Mapping[int, Slot], own: Collection[int], due: float) -> float:
    """Give the seconds between the end of the last of some runs and the time at which it is due."""
    return due - max((slots[key].end for key in own if key in slots), default=0.0)
