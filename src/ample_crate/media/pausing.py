"""Holding work still: the children of this process stop where they are, and go on from there."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable, Iterator

import psutil

LOOKED_EVERY = 0.5  # seconds
UNSTOPPED = (psutil.NoSuchProcess, psutil.AccessDenied)


class Gate:
    """Says whether the children of this process are to hold still."""

    def __init__(self) -> None:
        self._open = threading.Event()
        self._open.set()
        self._resting, self._lock = 0, threading.Lock()

    @property
    def shut(self) -> bool:
        """Say whether they are to hold still."""
        return not self._open.is_set()

    @property
    def resting(self) -> bool:
        """Say whether one holds still now."""
        return self._resting > 0

    def put(self, shut: bool) -> None:
        """Have them hold still, or go on."""
        if shut:
            self._open.clear()
        else:
            self._open.set()

    def rest(self, pid: int, unless: Callable[[], bool]) -> None:
        """Hold a child and all that it started still, until the gate opens or something else is to
        come of it.

        Args:
            pid: the child's.
            unless: asked twice a second whether to wait no longer.
        """
        with self._counted(), _still(pid):
            while not self._open.wait(LOOKED_EVERY):
                if unless():
                    return

    @contextlib.contextmanager
    def _counted(self) -> Iterator[None]:
        with self._lock:
            self._resting += 1
        try:
            yield
        finally:
            with self._lock:
                self._resting -= 1


GATE = Gate()


@contextlib.contextmanager
def _still(pid: int) -> Iterator[None]:
    family = _family(pid)
    for one in family:
        with contextlib.suppress(*UNSTOPPED):
            one.suspend()
    try:
        yield
    finally:
        for one in reversed(family):
            with contextlib.suppress(*UNSTOPPED):
                one.resume()


def _family(pid: int) -> list[psutil.Process]:
    try:
        first = psutil.Process(pid)
        return [first, *first.children(recursive=True)]
    except psutil.NoSuchProcess:
        return []
