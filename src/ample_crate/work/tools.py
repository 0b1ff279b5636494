"""What a task works with."""

from __future__ import annotations

from dataclasses import dataclass

from ..store.database import Database
from ..store.places import Folders
from .crew import Announced
from .home import Home
from .supply import Shared, Supply


@dataclass(frozen=True)
class Tools:
    """What a task works with.

    Attributes:
        house: the name that bags carry as their source.
        mine: what the worker that carries it out says of itself.
        home: the installation, where the worker does not see its folders.
    """

    database: Database
    folders: Folders
    house: str = ""
    mine: Announced | None = None
    home: Home | None = None

    @property
    def supply(self) -> Supply:
        """Give where masters are found, and what is made is laid."""
        return self.home or Shared(self.database, self.folders)

    @property
    def worker(self) -> int | None:
        """Give the number of the worker, once it has announced itself."""
        return None if self.mine is None else self.mine.id
