"""Keeps what grows within bounds, once a day: caches, removed crates, unfinished uploads, finished
jobs, logs.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from ..core.units.values import show_bytes
from ..store.database import Database, tell
from ..store.models import Crate, Master, PaceTrial, Run, Tidying
from ..store.places import Folders, data_directory
from ..store.studied import CodecTrial, Hearing, Viewing
from . import arrivals, codec_trials, paces
from .orders import order

GB, MB = 10**9, 10**6
DAILY = timedelta(days=1)
TIDYINGS_KEPT = 60


@dataclass(frozen=True)
class Bounds:
    """How much is kept, and how long.

    Attributes:
        pictures, proxies, log: bytes of made-once pictures, proxies, and the database's log.
        removed: how long a removed crate can be had back.
        jobs: how long finished jobs of the engine are kept.
    """

    pictures: int = 2 * GB
    proxies: int = 20 * GB
    log: int = 20 * MB
    removed: timedelta = timedelta(days=7)
    jobs: timedelta = timedelta(days=7)


BOUNDS = Bounds()


@dataclass
class Cleared:
    """What one tidying cleared away, by count; `bytes` of files in all."""

    pictures: int = 0
    proxies: int = 0
    crates: int = 0
    runs: int = 0
    uploads: int = 0
    jobs: int = 0
    trials: int = 0
    logs: int = 0
    bytes: int = 0


@dataclass(frozen=True)
class Holding:
    """What one thing takes on disk, and what bounds it."""

    name: str
    what: str
    bytes: int
    files: int
    bound: str


def due(session: Session, now: datetime) -> bool:
    """Say whether the last tidying lies a day back."""
    last = session.scalar(select(func.max(Tidying.at)))
    return last is None or now - last >= DAILY


def order_if_due(session: Session) -> None:
    """Order the daily tidying; one that waits already is not doubled."""
    if due(session, datetime.now(UTC)):
        order(session, "tidy", 0)


def tidy(db: Database, folders: Folders, bounds: Bounds = BOUNDS) -> Cleared:
    """Bring everything within its bounds; each part stands by itself, so that one that fails stops
    no other.
    """
    now, cleared = datetime.now(UTC), Cleared()
    before = shutil.disk_usage(folders.media).free
    cleared.pictures = _oldest(folders.pictures, bounds.pictures)
    with db.session() as session:
        cleared.proxies = _proxies(session, folders, bounds.proxies)
        cleared.crates = _removed(session, now - bounds.removed)
        cleared.uploads = arrivals.expire(session, folders, now)
    with db.session() as session:
        cleared.runs = _runs(session, folders)
        cleared.jobs = _jobs(session, now - bounds.jobs)
        cleared.trials = _trials(session)
    cleared.logs = cut_log(data_directory() / "database" / "server.log", bounds.log)
    cleared.bytes = max(0, shutil.disk_usage(folders.media).free - before)
    with db.session() as session:
        session.add(Tidying(document=asdict(cleared)))
        session.flush()
        kept = select(Tidying.id).order_by(Tidying.id.desc()).limit(TIDYINGS_KEPT)
        session.execute(delete(Tidying).where(Tidying.id.not_in(kept)))
        tell(session, "all", 0)
    return cleared


def _files(folder: Path) -> Iterator[tuple[Path, os.stat_result]]:
    for root, _, names in os.walk(folder):
        for name in names:
            path = Path(root) / name
            try:
                yield path, path.lstat()
            except OSError:
                continue


def _oldest(folder: Path, most: int) -> int:
    """Remove the files that were longest not asked for, until the rest is within bounds; give how
    many.
    """
    files = sorted(_files(folder), key=lambda item: item[1].st_mtime)
    total, gone = sum(told.st_size for _, told in files), 0
    for path, told in files:
        if total <= most:
            break
        path.unlink(missing_ok=True)
        total, gone = total - told.st_size, gone + 1
    return gone


def _proxies(session: Session, folders: Folders, most: int) -> int:
    """Remove proxies that no master has and copies that nobody ordered, then the oldest; a
    master whose copy is gone has it made anew when it is looked at.
    """
    known = {
        str(row.proxy.get("file")): row
        for row in session.scalars(select(Master).where(Master.proxy.is_not(None)))
        if row.proxy
    }
    kept = {("heard", id) for id in session.scalars(select(Hearing.id))}
    kept |= {("viewed", id) for id in session.scalars(select(Viewing.id))}
    gone = 0
    for path, _ in list(_files(folders.proxies)):
        mine = path.name in known or _row_of(path.name) in kept
        if not mine and not path.name.startswith("."):
            path.unlink(missing_ok=True)
            gone += 1
    gone += _oldest(folders.proxies, most)
    for name, row in known.items():
        if (row.proxy or {}).get("state") == "ready" and not (folders.proxies / name).exists():
            row.proxy = None
            tell(session, "master", row.id)
    return gone


def _row_of(name: str) -> tuple[str, int]:
    """Say of which row a copy is that can be listened to or looked at, by its file's name."""
    start, _, rest = name.partition(".")[0].partition("-")
    number = rest.partition("-")[0]
    return start, int(number) if number.isdecimal() else 0


def _removed(session: Session, before: datetime) -> int:
    rows = session.scalars(select(Crate).where(Crate.removed_at < before)).all()
    for row in rows:
        session.delete(row)
    return len(rows)


def _runs(session: Session, folders: Folders) -> int:
    """Remove the files of runs that are no more."""
    known, gone = set(session.scalars(select(Run.id))), 0
    for folder in folders.runs.iterdir():
        if folder.name.isdigit() and int(folder.name) not in known:
            shutil.rmtree(folder, ignore_errors=True)
            gone += 1
    return gone + _tried(session, folders)


def _tried(session: Session, folders: Folders) -> int:
    """Remove what lies there of trials of codecs that do not go on."""
    at_work = CodecTrial.state.in_(codec_trials.STUDY.unfinished)
    ids = session.scalars(select(CodecTrial.id).where(at_work))
    kept, gone = {f"{codec_trials.PREFIX}{id}" for id in ids}, 0
    for folder in folders.runs.glob(f"{codec_trials.PREFIX}*"):
        if folder.name not in kept:
            shutil.rmtree(folder, ignore_errors=True)
            gone += 1
    return gone


def _jobs(session: Session, before: datetime) -> int:
    query = text(
        """
        delete from procrastinate_jobs where id in (
            select job.id from procrastinate_jobs job
            join procrastinate_events event on event.job_id = job.id
            where job.status in ('succeeded', 'failed', 'cancelled', 'aborted')
            group by job.id having max(event.at) < :before)
        """
    )
    return int(session.execute(query, {"before": before}).rowcount)  # type: ignore[attr-defined]


def _trials(session: Session) -> int:
    """Remove trials of paces that newer ones of the same codec stand for."""
    gone = delete(PaceTrial).where(PaceTrial.id.not_in([row.id for row in paces.newest(session)]))
    return int(session.execute(gone).rowcount)  # type: ignore[attr-defined]


def cut_log(path: Path, most: int) -> int:
    """Cut a log to its last half of what is kept."""
    if not path.is_file() or path.stat().st_size <= most:
        return 0
    with open(path, "r+b") as file:
        file.seek(-most // 2, os.SEEK_END)
        tail = file.read()
        file.seek(0)
        file.write(tail)
        file.truncate()
    return 1


def holdings(folders: Folders, bounds: Bounds = BOUNDS) -> list[Holding]:
    """Give what each thing takes on disk."""
    days = f"{bounds.removed.days} days"
    table = (
        (
            "masters",
            "Masters handed in through the browser, and sequences",
            folders.masters,
            "as long as they are masters",
        ),
        (
            "uploads",
            "Uploads that are not finished",
            folders.uploads,
            f"{arrivals.KEPT.days} days after their last piece",
        ),
        (
            "deliverables",
            "Files that runs made",
            folders.runs,
            f"as long as their crate; removed crates {days}",
        ),
        (
            "sealed crates",
            "Sealed bags, and those set aside",
            folders.bags,
            "until somebody takes them away",
        ),
        (
            "inboxes",
            "What the recipients' stand-ins received",
            folders.inboxes,
            "until somebody takes it away",
        ),
        (
            "pictures",
            "Pictures for the screen, made again when they are asked for",
            folders.pictures,
            f"at most {show_bytes(bounds.pictures)}",
        ),
        (
            "proxies",
            "Proxies that the page plays, made again when they are asked for",
            folders.proxies,
            f"at most {show_bytes(bounds.proxies)}",
        ),
    )
    intake = [
        (folder.name, "Files of an intake folder, read in place", folder, "never touched")
        for folder in folders.intake
    ]
    made = []
    for name, what, folder, bound in (*intake, *table):
        sizes = [told.st_size for _, told in _files(folder)]
        made.append(Holding(name, what, sum(sizes), len(sizes), bound))
    return made
