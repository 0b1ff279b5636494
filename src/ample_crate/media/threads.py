"""Work beside the reading of a file: in order in one thread, or side by side in several with what
comes of it taken in order.
"""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Generic, TypeVar

# A child has so much memory and no more, however many cores there are.
MOST_THREADS = 16
AHEAD = 4  # pieces of work that may wait for each thread: more would only take memory
MOST_WAITING = 256  # pieces that may wait for one that does them in turn

Made = TypeVar("Made")


class InOrder(Generic[Made]):
    """Works pieces out side by side, and gives what comes of them in the order in which they came.

    Args:
        take: told of each result, in the thread that puts work in.
    """

    def __init__(self, take: Callable[[Made], None]) -> None:
        self._take = take
        self._threads = min(MOST_THREADS, len(os.sched_getaffinity(0)))
        self._pool = ThreadPoolExecutor(self._threads)
        self._waiting = deque[Future[Made]]()

    def put(self, work: Callable[..., Made], *args: object) -> None:
        """Put a piece of work in; where too much waits, wait for the first."""
        self._waiting.append(self._pool.submit(work, *args))
        while len(self._waiting) > AHEAD * self._threads or (
            self._waiting and self._waiting[0].done()
        ):
            self._take(self._waiting.popleft().result())

    def finish(self) -> None:
        """Wait for all of it."""
        while self._waiting:
            self._take(self._waiting.popleft().result())
        self._pool.shutdown()


class Beside:
    """Does what it is given one after the other, in one thread of its own.

    Args:
        most: pieces that may wait.
    """

    def __init__(self, most: int = MOST_WAITING) -> None:
        self._pool, self._most = ThreadPoolExecutor(1), most
        self._waiting = deque[Future[None]]()

    def put(self, work: Callable[..., None], *args: object) -> None:
        """Have something done after what was put before; where too much waits, wait for the
        first.
        """
        self._waiting.append(self._pool.submit(work, *args))
        while len(self._waiting) > self._most or (self._waiting and self._waiting[0].done()):
            self._waiting.popleft().result()

    def wait(self) -> None:
        """Wait for all that was put so far."""
        while self._waiting:
            self._waiting.popleft().result()

    def finish(self) -> None:
        """Wait for all of it."""
        self.wait()
        self._pool.shutdown()
