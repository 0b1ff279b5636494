"""Who makes what when: runs in their order over workers, as the engine gives them out."""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import count, islice


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


@dataclass(frozen=True)
class Queue:
    """Runs as they are placed over workers.

    Attributes:
        slots: when each is made, by its key.
        free: for each worker the seconds until it has nothing to do any more.
    """

    slots: Mapping[int, Slot]
    free: tuple[float, ...]

    def after(self, seconds: Sequence[float]) -> tuple[float, float]:
        """Give when the first of some runs begins, and the last of them ends, that come after all
        others; in seconds from now.
        """
        lanes = list(self.free) or [0.0]
        heapq.heapify(lanes)
        ends, first = [0.0], lanes[0]
        for one in seconds:
            ends.append(heapq.heappop(lanes) + one)
            heapq.heappush(lanes, ends[-1])
        return (first, max(ends)) if seconds else (0.0, 0.0)


EMPTY = Queue({}, (0.0,))


def queue(tasks: Sequence[Task], workers: int) -> Queue:
    """Place runs over some workers, one at least: what has none now gets one back.

    Args:
        tasks: as `schedule` has them.
        workers: how many there are; what goes on is counted among them.
    """
    lanes = {one.lane for one in tasks if one.lane is not None}
    # Numbers that nobody has who is at work.
    idle = (lane for lane in count() if lane not in lanes)
    lanes |= set(islice(idle, max(1, workers) - min(len(lanes), workers)))
    slots = schedule(tasks, dict.fromkeys(lanes, 0.0))
    busy = _busy(slots.values())
    return Queue(slots, tuple(busy.get(lane, 0.0) for lane in sorted(lanes)))


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
