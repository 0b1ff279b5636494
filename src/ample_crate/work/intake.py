"""What lies in the intake folders, and taking it in: files in place, numbered images as one
master.
"""

from __future__ import annotations

import contextlib
import logging
import os
import secrets
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, NotFound, Refused
from ..core.facts.sequences import Sequence, gather
from ..media import sequence
from ..media.folders import DESCRIPTIONS
from ..store import masters
from ..store.database import Database
from ..store.models import Master, PassedOver, WatchedFolder
from ..store.places import Folders
from . import standing
from .orders import order

log = logging.getLogger(__name__)
SETTLED_AFTER = 6.0  # seconds without a change before a watched file counts as whole
MOST_LISTED = 5000
LONGEST_SHOWN = 200  # characters of a name that is told of
LOCK = 7_462_331  # of the one worker that watches


@dataclass(frozen=True)
class Item:
    """One thing that can be taken in: a file, a folder to look into, or a sequence of images.

    Attributes:
        kind: file, folder or sequence.
        name: within its folder; for a sequence the name of the whole.
        size: bytes; of a folder 0.
        count: images of a sequence, else 1.
        missing: numbers a sequence leaves out.
        taken: whether it is among the masters.
    """

    kind: str
    name: str
    size: int
    count: int
    missing: int
    taken: bool


def folder_of(folders: Folders, number: int, inner: str) -> Path:
    """Give a folder inside an intake folder.

    Raises:
        NotFound: there is none.
        Refused: it lies elsewhere, whatever links say.
    """
    if number >= len(folders.intake):
        raise NotFound("There is no such intake folder.", "Open the list again.")
    root = folders.intake[number]
    gone = NotFound(
        f"There is no folder '{inner[:LONGEST_SHOWN]}' any more.", "Open the list again."
    )
    try:
        path = (root / inner).resolve()
        there = path.is_dir()
    except (OSError, ValueError):  # longer than any name, or with a character that no name has
        raise gone from None
    if not path.is_relative_to(root):
        raise Refused(
            f"'{inner}' lies outside the intake folder.", "Choose a folder from the list."
        )
    if not there:
        raise gone
    return path


def _seen(folder: Path) -> tuple[list[str], list[str]]:
    """List the plain files and the folders of a folder, hidden ones left out."""
    files, inner = list[str](), list[str]()
    with os.scandir(folder) as entries:
        for entry in entries:
            if entry.name.startswith(".") or not _nameable(entry.name):
                continue
            # A link to nothing or in a circle, a socket or a pipe is neither file nor folder.
            with contextlib.suppress(OSError):
                if entry.is_dir():
                    inner.append(entry.name)
                elif entry.is_file():
                    files.append(entry.name)
            if len(files) >= 100 * MOST_LISTED:
                break
    return sorted(files), sorted(inner)


def _nameable(name: str) -> bool:
    """Say whether a name is text: bytes that are not cannot be shown, stored or asked for."""
    try:
        name.encode("utf-8")
    except UnicodeEncodeError:
        return False
    return "\0" not in name


def browse(session: Session, folder: Path) -> list[Item]:
    """List what lies in a folder, sequences as one."""
    files, inner = _seen(folder)
    found, rest = gather(files)
    taken = _taken(session)
    items = [Item("folder", name, 0, 1, 0, False) for name in inner]
    for one in found:
        size = sum((folder / n).stat().st_size for n in one.names)
        items.append(
            Item(
                "sequence",
                one.name,
                size,
                len(one.names),
                one.missing_count,
                _mark(folder, one) in taken,
            )
        )
    items += [
        Item("file", n, (folder / n).stat().st_size, 1, 0, str((folder / n).resolve()) in taken)
        for n in rest
        if (folder / n).is_file()
    ]
    return items[:MOST_LISTED]


def not_taken(
    session: Session, folder: Path, counts: Callable[[str], bool]
) -> list[tuple[str, int]]:
    """List what lies in a folder and those inside it and is no master yet, by name and bytes.

    Args:
        session: knows the masters.
        folder: inside an intake folder.
        counts: says of a name whether it is meant.
    """
    taken = _taken(session) | set(session.scalars(select(PassedOver.place)))
    left: list[tuple[str, int]] = []
    for place in _folders(folder):
        found, rest = gather(_seen(place)[0])
        groups = [(one.name, one.names) for one in found if _mark(place, one) not in taken]
        groups += [(one, (one,)) for one in rest if str((place / one).resolve()) not in taken]
        for name, files in groups:
            if counts(name):
                # What is taken away meanwhile is nothing that lies there.
                with contextlib.suppress(OSError):
                    left.append((name, sum((place / one).stat().st_size for one in files)))
    return left


def _taken(session: Session) -> set[str]:
    """Give what the masters came from: paths of files, and for sequences their folder and name."""
    return {
        place
        for row in session.execute(select(Master.path, Master.came_from))
        for place in row
        if place
    }


def _mark(folder: Path, one: Sequence) -> str:
    return f"{folder.resolve()}/{one.name}"


def take(
    session: Session,
    folders: Folders,
    folder: Path,
    names: list[str],
    rate: Fraction = Fraction(25),
    production: str = "",
) -> list[Master]:
    """Take files and sequences in without copying a byte, and order their reading.

    Args:
        session: where the masters are added.
        folders: the installation's folders.
        folder: a folder inside an intake folder.
        names: as `browse` gives them.
        rate: frames a second of sequences.
        production: what they belong to.

    Raises:
        Refused, NotFound: a name is not in the folder any more, or leads out of it.
    """
    files, _ = _seen(folder)
    found = {s.name: s for s in gather(files)[0]}
    rows = []
    for name in names:
        if name in found:
            rows.append(lay(session, folders, folder, found[name], rate, production))
            continue
        path = folder / name
        # The name is a plain name: a path that climbs out of the folder is not.
        if Path(name).name != name or not folders.inside(path).is_relative_to(folder):
            raise Refused(
                f"'{name}' lies outside the intake folder.", "Choose a file from the list."
            )
        if not path.is_file():
            raise NotFound(
                f"'{name}' is not in the intake folder any more.", "Open the list again."
            )
        if path.resolve().name in DESCRIPTIONS:
            # Only those written here are followed: another's could lead anywhere.
            raise Refused(
                f"'{name}' is no media file: a file of this name stands for others.",
                "Take the images or streams themselves.",
            )
        rows.append(masters.add(session, path.resolve(), name, "intake", production=production))
        order(session, "ingest", rows[-1].id)
    return rows


def lay(
    session: Session,
    folders: Folders,
    folder: Path,
    one: Sequence,
    rate: Fraction,
    production: str = "",
) -> Master:
    """Lay out a sequence, add it as one master, and order its reading."""
    files = [folders.inside(folder / n) for n in one.names]
    path = sequence.lay_out(folders.masters / f"sequence-{secrets.token_hex(8)}", files, one, rate)
    row = masters.add(
        session, path, one.name, "sequence", sum(f.stat().st_size for f in files), production
    )
    row.came_from = _mark(folder, one)
    order(session, "ingest", row.id)
    return row


def watched(session: Session) -> set[str]:
    """Give the folders that are watched."""
    return set(session.scalars(select(WatchedFolder.folder)))


class Watcher:
    """Looks at watched folders again and again; what has not changed for a while and is new is
    taken in.
    """

    def __init__(self, database: Database, folders: Folders) -> None:
        self.database, self.folders = database, folders
        self._known: dict[str, tuple[tuple[int, int], float]] = {}

    def poll(self) -> list[int]:
        """Look once; give the ids of the masters that were taken in."""
        with self.database.session() as session:
            # Of several workers one watches.
            if not session.scalar(text("select pg_try_advisory_xact_lock(:key)"), {"key": LOCK}):
                return []
            made: list[int] = []
            known = _taken(session) | set(session.scalars(select(PassedOver.place)))
            for name in watched(session):
                root = Path(name)
                if root in self.folders.intake and root.is_dir():
                    made += [
                        row.id
                        for folder in _folders(root)
                        for row in self._new(session, folder, known)
                    ]
            return made + self._ordered(session, known)

    def _ordered(self, session: Session, known: set[str]) -> list[int]:
        """Take in what came into the folders of orders, as much as may be read for these now."""
        made: list[int] = []
        for root, wanted, room in standing.folders_of(session, self.folders):
            for folder in _folders(root) if wanted.source.deeper else [root]:
                rows = self._new(session, folder, known, wanted.source.counts, room)
                room -= len(rows)
                made += [row.id for row in rows]
                known |= {place for row in rows for place in (row.path, row.came_from) if place}
        return made

    def _new(
        self,
        session: Session,
        folder: Path,
        taken: set[str],
        counts: Callable[[str], bool] = lambda name: True,
        most: int = MOST_LISTED,
    ) -> list[Master]:
        files, _ = _seen(folder)
        found, rest = gather(files)
        ready = [
            s.name
            for s in found
            if _mark(folder, s) not in taken and all(self._settled(folder / n) for n in s.names)
        ]
        # A single numbered image may be the first of many that are still being written.
        ready += [
            n
            for n in rest
            if str((folder / n).resolve()) not in taken
            and (folder / n).is_file()
            and self._settled(folder / n)
        ]
        made: list[Master] = []
        for name in [one for one in ready if counts(one)][:most]:
            # One odd entry keeps nothing else out.
            try:
                with session.begin_nested():
                    made += take(session, self.folders, folder, [name])
            except (AmpleError, OSError) as error:
                log.warning("'%s' in a watched folder is left where it is: %s", name, error)
        return made

    def _settled(self, path: Path) -> bool:
        try:
            told = path.stat()
        except OSError:
            return False
        mark, now = (told.st_size, told.st_mtime_ns), time.monotonic()
        known = self._known.get(str(path))
        if known is None or known[0] != mark:
            self._known[str(path)] = (mark, now)
            return False
        return now - known[1] >= SETTLED_AFTER and told.st_size > 0


def _folders(root: Path) -> Iterator[Path]:
    for folder, inner, _ in os.walk(root):
        inner[:] = [n for n in inner if not n.startswith(".")]
        yield Path(folder)
