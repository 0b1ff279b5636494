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
        held: whether a person holds it back: it is placed after all others, as if it were let go
        now.
    """

    key: int
    seconds: float
    lane: int | None = None
    not_before: float = 0.0
    held: bool = False


@dataclass(frozen=True)
class Slot:
    """When a run is made, in seconds from now, and by which worker."""

    lane: int
    begin: float
    end: float


@dataclass(frozen=True)
class Queue:
    """Runs as they are placed over workers.

    Attributes:
        tasks: as they are taken.
        workers: when each may take one, by its lane, in seconds from now.
        slots: when each is made, by its key.
    """

    tasks: tuple[Task, ...]
    workers: Mapping[int, float]
    slots: Mapping[int, Slot]

    def after(self, seconds: Sequence[float]) -> tuple[float, float]:
        """Give when the first of some runs begins, and the last of them ends, that are ordered
        after all others; in seconds from now.
        """
        if not seconds:
            return 0.0, 0.0
        if any(one.not_before or one.held for one in self.tasks):
            # What is not begun yet lets them go before it.
            more = [Task(-1 - n, one) for n, one in enumerate(seconds)]
            found = schedule([*self.tasks, *more], self.workers)
            slots = [found[one.key] for one in more]
            return min(slot.begin for slot in slots), max(slot.end for slot in slots)
        busy = _busy(self.slots.values())
        lanes = [max(since, busy.get(lane, 0.0)) for lane, since in self.workers.items()]
        heapq.heapify(lanes)
        first, last = lanes[0], 0.0
        for one in seconds:
            ends = heapq.heappop(lanes) + one
            last = max(last, ends)
            heapq.heappush(lanes, ends)
        return first, last


def queue(tasks: Sequence[Task], workers: Iterable[int]) -> Queue:
    """Place runs over workers.

    Args:
        tasks: as `schedule` has them; their keys are not negative.
        workers: lanes of those that take what comes. Where there is none, those are counted that
        are at work, or one: what has none now gets one back.
    """
    lanes = set(workers) or {one.lane for one in tasks if one.lane is not None} or {0}
    free = dict.fromkeys(sorted(lanes), 0.0)
    return Queue(tuple(tasks), free, schedule(tasks, free))


EMPTY = Queue((), {0: 0.0}, {})


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
    waiting = sorted((one for one in tasks if one.lane is None), key=lambda one: one.held)
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
