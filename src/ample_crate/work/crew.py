"""Which workers there are: they announce themselves, and the database knows by the connections that
they hold at once when one ends, however that goes.
"""

from __future__ import annotations

import os
import platform
import secrets
import shutil
import zlib
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, Literal, cast

from sqlalchemy import Row, bindparam, select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ..core.formats import PICTURE
from ..store.database import tell
from ..store.day import Worker

# Whoever takes what is encoded takes runs; workers of other machines take these alone.
ENCODES, RUNS = "encodes", "runs"
PREFIX = "ample worker"
Wanted = Literal["working", "drained", "paused"]
# Workers by their connections; one that has not announced itself yet has no number.
THERE = text(
    """
    select distinct application_name as connection, worker.id, worker.wanted
    from pg_stat_activity
    left join worker on worker.connection = application_name
    where datname = current_database() and application_name ~ :named
    order by worker.id
    """
)
ASKED = text(
    """
    select count(*) from procrastinate_jobs
    where queue_name in :queues and (
        status = 'doing'
        or status = 'todo' and (scheduled_at is null or scheduled_at <= now()))
    """
).bindparams(bindparam("queues", expanding=True))
SEEN_EVERY = timedelta(seconds=10)  # at least; news are said at once
# Processors that one run is taken to keep busy. Two workers on two of them gained nothing (measured
# here); that four are enough for one is a guess.
CHAIN = "4"


def _connection(queues: Sequence[str]) -> str:
    """Make the name of a worker's connections, of at most 63 bytes, which is all that is kept: its
    machine, how many processors it may use there and which, and a number of its own.
    """
    mine = sorted(os.sched_getaffinity(0))
    which = zlib.crc32(bytes(str(mine), "ascii")) & 0xFFFF
    said = [ENCODES] if ENCODES in queues else [RUNS] if RUNS in queues else []
    place = [platform.node()[:20], str(len(mine)), f"{which:04x}"]
    return " ".join([PREFIX, *place, secrets.token_hex(4), *said])


@dataclass
class Announced:
    """What a worker says of itself, for as long as it runs.

    Args:
        queues: that it works on.
        room: the folder that it writes into.
        place: tells it from others of its machine, and stays when it is started again.
    """

    queues: Sequence[str]
    room: Path
    place: str = field(default_factory=lambda: os.environ.get("AMPLE_PLACE", str(os.getpid())))
    machine: str = field(default_factory=platform.node)
    connection: str = ""
    id: int | None = None
    started: datetime = field(default_factory=lambda: datetime.now(UTC))

    def __post_init__(self) -> None:
        self.connection = _connection(self.queues)

    def say(self, session: Session, heard: Wanted, resting: bool) -> Wanted:
        """Announce it, and hear what is wanted of it.

        Args:
            session: is told.
            heard: what it does by now.
            resting: whether something that it is at holds still.
        """
        row = session.scalar(select(Worker).filter_by(machine=self.machine, place=self.place))
        now, said = datetime.now(UTC), (self.connection, heard, resting)
        news = row is None or (row.connection, row.heard, row.resting) != said
        if row is None or news or now - row.seen_at > SEEN_EVERY:
            row = self._put(session, heard, resting, now)
        if news:
            tell(session, "worker", row.id)
        self.id = row.id
        return cast(Wanted, row.wanted)

    def _put(self, session: Session, heard: Wanted, resting: bool, now: datetime) -> Worker:
        values = {
            "connection": self.connection,
            "processors": len(os.sched_getaffinity(0)),
            "queues": list(self.queues),
            "encoders": sorted(row.label for row in PICTURE.values() if row.made is not None),
            "room": shutil.disk_usage(self.room).free,
            "started_at": self.started,
            "seen_at": now,
            "heard": heard,
            "resting": resting,
        }
        put = insert(Worker).values(machine=self.machine, place=self.place, **values)
        row = session.scalars(
            put.on_conflict_do_update(constraint="uq_worker_machine", set_=values).returning(
                Worker
            ),
            execution_options={"populate_existing": True},
        )
        return row.one()


def _there(session: Session) -> Sequence[Row[Any]]:
    """List the workers that encode: the name of the connections of each, its number, and what is
    wanted of it.
    """
    return session.execute(THERE, {"named": f"^{PREFIX} .* ({ENCODES}|{RUNS})$"}).all()


def there(session: Session) -> list[Worker]:
    """List the workers that encode and are there, by their machines and places."""
    held = Worker.id.in_([row.id for row in _there(session)])
    return list(session.scalars(select(Worker).where(held).order_by(Worker.machine, Worker.id)))


def lanes(session: Session) -> list[int]:
    """Give the numbers of the workers that encode, and take what comes."""
    return [row.id for row in _there(session) if row.wanted == "working"]


def idle(session: Session) -> int:
    """Count the workers that encode, for whom nothing waits, and that have processors to work on:
    those that share some count as far as these go round, but one at least.
    """
    each = float(os.environ.get("AMPLE_CHAIN", CHAIN))
    working = [
        row.connection
        for row in _there(session)
        if row.wanted in (None, "working") and row.connection.endswith(ENCODES)
    ]
    sharing = Counter(tuple(one.removeprefix(PREFIX).split()[:3]) for one in working)
    able = sum(
        min(workers, max(1, int(int(processors) / each)))
        for (_, processors, _), workers in sharing.items()
    )
    return max(0, able - int(session.scalar(ASKED, {"queues": (ENCODES, RUNS)}) or 0))


def want(session: Session, worker: Worker, wanted: Wanted) -> None:
    """Say what is wanted of a worker; it hears of it within some seconds."""
    worker.wanted = wanted
    tell(session, "worker", worker.id)
