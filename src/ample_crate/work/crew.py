"""Which workers there are, by the connections that they hold: the database knows at once when one
ends, however that goes.
"""

from __future__ import annotations

import os
import platform
import secrets
import zlib
from collections import Counter
from collections.abc import Sequence

from sqlalchemy import text
from sqlalchemy.orm import Session

ENCODES = "encodes"
PREFIX = "ample worker"
THERE = text(
    """
    select distinct application_name from pg_stat_activity
    where datname = current_database() and application_name like :named
    """
)
ASKED = text(
    """
    select count(*) from procrastinate_jobs
    where queue_name = :queue and status in ('todo', 'doing')
    """
)
# Processors that one run is taken to keep busy. Two workers on two of them gained nothing (measured
# here); that four are enough for one is a guess.
CHAIN = "4"


def name(queues: Sequence[str]) -> str:
    """Make the name of a worker's connections, of at most 63 bytes, which is all that is kept: its
    machine, how many processors it may use there and which, and a number of its own.
    """
    mine = sorted(os.sched_getaffinity(0))
    which = zlib.crc32(bytes(str(mine), "ascii")) & 0xFFFF
    said = [ENCODES] if ENCODES in queues else []
    place = [platform.node()[:20], str(len(mine)), f"{which:04x}"]
    return " ".join([PREFIX, *place, secrets.token_hex(4), *said])


def encoding(session: Session) -> int:
    """Count the workers that encode."""
    return len(set(session.scalars(THERE, {"named": f"{PREFIX} % {ENCODES}"})))


def idle(session: Session) -> int:
    """Count the workers that encode, for whom nothing waits, and that have processors to work on:
    those that share some count as far as these go round, but one at least.
    """
    each = float(os.environ.get("AMPLE_CHAIN", CHAIN))
    named = session.scalars(THERE, {"named": f"{PREFIX} % {ENCODES}"})
    sharing = Counter(tuple(one.removeprefix(PREFIX).split()[:3]) for one in named)
    able = sum(
        min(workers, max(1, int(int(processors) / each)))
        for (_, processors, _), workers in sharing.items()
    )
    return max(0, able - int(session.scalar(ASKED, {"queue": ENCODES}) or 0))
