"""What is made of a reading: one thing alone, or several beside each other of which each ends, or
fails, by itself.
"""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable, Iterator
from typing import Protocol

from ..core.errors import AmpleError, Cancelled
from . import causes
from .threads import Beside

MOST_WAITING = 6  # frames: a large one has tens of megabytes, and all branches wait for one reading


class Making(Protocol):
    """Has the work done that makes something of what is read.

    Attributes:
        shared: whether others are made of the same reading, and take the same frames.
    """

    shared: bool

    @property
    def error(self) -> AmpleError | None:
        """Give why it ended early, if it did."""

    @property
    def over(self) -> bool:
        """Say whether nothing more is to be made."""

    def trial(self) -> contextlib.AbstractContextManager[None]:
        """Begin something; what goes wrong within is kept where others are made beside it."""

    def do(self, work: Callable[..., None], *args: object) -> None:
        """Have a piece of work done after those before it."""

    def wait(self) -> None:
        """Wait for all work so far."""

    def finish(self) -> None:
        """Wait for all work, and let go of what does it."""


class Alone:
    """The one thing that is made: what goes wrong with it ends the reading too."""

    shared, over, error = False, False, None

    def trial(self) -> contextlib.AbstractContextManager[None]:
        """Keep nothing."""
        return contextlib.nullcontext()

    def do(self, work: Callable[..., None], *args: object) -> None:
        """Do it."""
        work(*args)

    def wait(self) -> None:
        """Nothing waits."""

    def finish(self) -> None:
        """Nothing is held."""


class Branch:
    """One of several things: it works in a thread of its own, and what goes wrong with it is kept.

    Args:
        path: of what is read.
        dropped: path of a file that comes to be there when nobody wants it any more.

    Attributes:
        error: why it ended early, if it did.
    """

    shared = True

    def __init__(self, path: str, dropped: str) -> None:
        self.error: AmpleError | None = None
        self._path, self._dropped = path, dropped
        self._thread = Beside(MOST_WAITING)

    @property
    def over(self) -> bool:
        """Say whether it has ended early."""
        return self.error is not None

    def do(self, work: Callable[..., None], *args: object) -> None:
        """Have a piece of work done after those before it; none any more where it has ended."""
        if self.error is None and os.path.exists(self._dropped):
            self.error = Cancelled("The work was stopped.", "Run it again when you like.")
        self._thread.put(self._try, work, *args)

    def _try(self, work: Callable[..., None], *args: object) -> None:
        with self.trial():
            if self.error is None:
                work(*args)

    @contextlib.contextmanager
    def trial(self) -> Iterator[None]:
        """Keep what goes wrong within."""
        try:
            yield
        except Exception as error:
            self.error = causes.told(error, self._path)

    def wait(self) -> None:
        """Wait for all work so far."""
        self._thread.wait()

    def finish(self) -> None:
        """Wait for all work, and let go of the thread."""
        self._thread.finish()
