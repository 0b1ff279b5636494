"""Who makes what when: runs in their order over workers, as the engine gives them out."""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Task:
    """A run to place.

    Attributes:
        key: names it.
        seconds: that it takes from now on.
        lane: the worker that is at it; None while it waits.
        not_before: seconds from now before which it is not begun: held until then.
    """

    key: int
    seconds: float
    lane: int | None = None
    not_before: float = 0.0


@dataclass(frozen=True)
class Slot:
    """When a run is made, in seconds from now, and by which worker."""

    lane: int
    begin: float
    end: float


def schedule(tasks: Sequence[Task], free: Mapping[int, float]) -> dict[int, Slot]:
    """Place runs: what goes on where it is, the others each with the worker that is free first.

    Args:
        tasks: in the order in which they are taken.
        free: for each worker by its lane the seconds until it may take one; what goes on there is
        counted besides.

    Returns:
        the slot of each by its key; none where there are no workers.
    """
    found = {one.key: Slot(one.lane, 0.0, one.seconds) for one in tasks if one.lane is not None}
    busy = _busy(found.values())
    lanes = [(max(since, busy.get(lane, 0.0)), lane) for lane, since in free.items()]
    heapq.heapify(lanes)
    waiting = [one for one in tasks if one.lane is None]
    while waiting and lanes:
        now, lane = heapq.heappop(lanes)
        one = next((task for task in waiting if task.not_before <= now), None)
        if one is None:
            # Nobody may be begun yet: the worker waits for the first that may.
            heapq.heappush(lanes, (min(task.not_before for task in waiting), lane))
            continue
        waiting.remove(one)
        found[one.key] = Slot(lane, now, now + one.seconds)
        heapq.heappush(lanes, (now + one.seconds, lane))
    return found


def _busy(slots: Iterable[Slot]) -> dict[int, float]:
    """Give for each worker when what goes on there ends."""
    ends: dict[int, float] = {}
    for slot in slots:
        ends[slot.lane] = max(slot.end, ends.get(slot.lane, 0.0))
    return ends
