"""Which workers there are, by the connections that they hold: the database knows at once when one
ends, however that goes.
"""

from __future__ import annotations

import platform
import secrets
from collections.abc import Sequence

from sqlalchemy import text
from sqlalchemy.orm import Session

ENCODES = "encodes"
PREFIX = "ample worker"
IDLE = text(
    """
    select (select count(distinct application_name) from pg_stat_activity
            where datname = current_database() and application_name like :named)
        - (select count(*) from procrastinate_jobs
           where queue_name = :queue and status in ('todo', 'doing'))
    """
)


def name(queues: Sequence[str]) -> str:
    """Make the name of a worker's connections, of at most 63 bytes, which is all that is kept."""
    host = platform.node()[:20]
    said = [ENCODES] if ENCODES in queues else []
    return " ".join([PREFIX, host, secrets.token_hex(4), *said])


def idle(session: Session) -> int:
    """Count the workers that encode, and for whom nothing waits."""
    values = {"named": f"{PREFIX} % {ENCODES}", "queue": ENCODES}
    return max(0, int(session.scalar(IDLE, values) or 0))
