"""What a task works with."""

from __future__ import annotations

from dataclasses import dataclass

from ..store.database import Database
from ..store.places import Folders


@dataclass(frozen=True)
class Tools:
    """What a task works with."""

    database: Database
    folders: Folders
    house: str = ""
