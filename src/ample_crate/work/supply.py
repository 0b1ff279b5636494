"""Where a worker finds the masters of a run, and where it lays what it made: in folders that it
shares with the installation, or (`home`) over HTTP.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from ..store.database import Database
from ..store.models import Master
from ..store.places import Folders
from ..store.queries import get
from .sameness import require_same

Tell = Callable[[dict[str, Any]], None]


@dataclass(frozen=True)
class Taken:
    """Masters as they lie for a run: their files, and the SHA-256 of their bytes, joined by "+"."""

    files: Sequence[Path]
    sha256: str


class Supply(Protocol):
    """Gives masters, and keeps what was made.

    Attributes:
        shared: whether other workers see the same folders.
    """

    shared: bool

    def take(self, ids: Sequence[int], told: Tell, stopped: Callable[[], bool]) -> Taken:
        """Give masters as they were read.

        Args:
            ids: their numbers.
            told: of progress, where that takes long.
            stopped: asked whether to stop.

        Raises:
            AmpleError: one of them is not there, or is another one.
        """

    def check(self, ids: Sequence[int]) -> None:
        """Make sure that masters are still what they were when they were taken.

        Raises:
            AmpleError: one of them is not.
        """

    def keep(self, run: int, start: int, made: Path) -> Path:
        """Have what a run made where the installation finds it, and say where that is.

        Args:
            run: its number.
            start: which of its starts made it.
            made: what stands for it here.
        """


class Shared:
    """Folders that the installation and the worker both see."""

    shared = True

    def __init__(self, db: Database, folders: Folders) -> None:
        self._db, self._folders = db, folders

    def take(self, ids: Sequence[int], told: Tell, stopped: Callable[[], bool]) -> Taken:
        """Give masters where they lie."""
        with self._db.session() as session:
            paths = [Path(get(session, Master, id).path) for id in ids]
        for path in paths:
            self._folders.inside(path)
        return Taken(paths, "+".join([require_same(self._db, id) for id in ids]))

    def check(self, ids: Sequence[int]) -> None:
        """Compare masters with what was read of them."""
        for id in ids:
            require_same(self._db, id)

    def keep(self, run: int, start: int, made: Path) -> Path:
        """Leave it where it is."""
        return made
