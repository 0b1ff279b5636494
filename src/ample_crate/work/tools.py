"""What a task works with."""

from __future__ import annotations

from dataclasses import dataclass

from ..store.database import Database
from ..store.places import Folders
from .crew import Announced


@dataclass(frozen=True)
class Tools:
    """What a task works with; `mine` is what the worker that carries it out says of itself."""

    database: Database
    folders: Folders
    house: str = ""
    mine: Announced | None = None

    @property
    def worker(self) -> int | None:
        """Give the number of the worker, once it has announced itself."""
        return None if self.mine is None else self.mine.id
