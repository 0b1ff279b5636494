"""Files that come in by pieces: where their parts lie, and how they become masters."""

from __future__ import annotations

import os
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..store import masters
from ..store.models import Upload
from ..store.places import Folders
from .orders import order

KEPT = timedelta(days=7)  # since the last piece


def part(folders: Folders, id: str) -> Path:
    """Give the place of what has arrived of an upload."""
    return folders.uploads / f"{id}.part"


def expires_at(place: Path) -> datetime:
    """Say when an unfinished upload is cleared away."""
    return datetime.fromtimestamp(place.stat().st_mtime, UTC) + KEPT


def finish(session: Session, folders: Folders, row: Upload) -> int:
    """Make a master of an upload that is all there, once; give the master's id. The caller holds
    its row.
    """
    if row.master_id is not None:
        return row.master_id
    folder = folders.masters / row.id
    folder.mkdir(parents=True, exist_ok=True, mode=0o750)
    final, arrived = folder / row.name, part(folders, row.id)
    if arrived.exists():
        os.replace(arrived, final)
        final.chmod(0o644)  # the folders around it are closed; media processes run as another user
    master = masters.add(session, final, row.name, "upload")
    row.master_id = master.id
    order(session, "ingest", master.id)
    return master.id


def take_up(session: Session, folders: Folders) -> list[int]:
    """Finish uploads that are all there and whose finishing was cut off; give their masters'
    ids.
    """
    made = []
    for row in session.scalars(
        select(Upload).where(Upload.master_id.is_(None)).with_for_update(skip_locked=True)
    ):
        place, final = part(folders, row.id), folders.masters / row.id / row.name
        whole = place.exists() and place.stat().st_size == row.length
        if whole or (not place.exists() and final.exists()):
            made.append(finish(session, folders, row))
    return made


def expire(session: Session, folders: Folders, now: datetime) -> int:
    """Clear away uploads that nobody goes on with; give how many."""
    gone = 0
    for row in session.scalars(
        select(Upload).where(Upload.master_id.is_(None)).with_for_update(skip_locked=True)
    ):
        place = part(folders, row.id)
        if not place.exists() or expires_at(place) < now:
            place.unlink(missing_ok=True)
            session.delete(row)
            gone += 1
    return gone
