"""Finds what is in a working state without a living job, and takes it up again."""

from __future__ import annotations

import logging

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ..store.database import Database, tell
from ..store.models import Crate, Deliverable
from ..store.places import Folders
from . import turns
from .arrivals import take_up
from .housekeeping import order_if_due
from .kept import out_of_date
from .orders import order, order_all
from .running import advance

log = logging.getLogger(__name__)
LOCK = 7_462_333  # of the one worker that looks at a time
# What is told of, which rows are at work, the task that a living job of theirs has, and of which
# item.
WORKING: tuple[tuple[str, str, str, str], ...] = (
    ("master", "state in ('reading', 'measuring')", "ingest", "master.id"),
    ("master", "proxy->>'state' in ('waiting', 'making')", "proxy", "master.id"),
    # What is made from the reading of another lives by the job of that one.
    (
        "run",
        "state in ('queued', 'running', 'stopping')",
        "encode",
        "coalesce(run.lead_id, run.id)",
    ),
    ("segment", "state in ('offered', 'making')", "segment", "segment.id"),
    (
        "comparison",
        "state in ('waiting', 'comparing', 'stopping')",
        "quality",
        "comparison.id",
    ),
    ("sampling", "state in ('waiting', 'sampling', 'stopping')", "sample", "sampling.id"),
    ("easing", "state in ('waiting', 'easing', 'stopping')", "ease", "easing.id"),
    ("hearing", "state in ('waiting', 'hearing', 'stopping')", "hear", "hearing.id"),
    (
        "rehearsal",
        "state in ('waiting', 'rehearsing', 'stopping')",
        "rehearse",
        "rehearsal.id",
    ),
    ("viewing", "state in ('waiting', 'viewing', 'stopping')", "view", "viewing.id"),
    (
        "codec_trial",
        "state in ('waiting', 'trying', 'stopping')",
        "try_codecs",
        "codec_trial.id",
    ),
    ("crate", "state = 'sealing'", "seal", "crate.id"),
    ("crate", "state = 'handing over'", "hand_over", "crate.id"),
)


def reconcile(db: Database, folders: Folders) -> list[tuple[str, int]]:
    """Order anew what is at work and has no job that waits or is being done.

    Each task looks at its row first, so that one order too many does no harm.

    Returns:
        task and id of what was ordered.
    """
    with db.session() as session:
        if not session.scalar(text("select pg_try_advisory_xact_lock(:key)"), {"key": LOCK}):
            return []
        found = [
            (task, id, table)
            for table, working, task, by in WORKING
            for id in _without_job(session, table, working, task, by)
        ]
        for task, id, table in found:
            log.warning("%s %s was at work without a job; '%s' is ordered anew", table, id, task)
            order(session, task, id)
            tell(session, table, id)
        _advance(session)
        # A night that ended holds back what it did not come to.
        turns.arrange(session)
        for master in take_up(session, folders):
            log.warning("an upload was all there and no master yet; it is master %s now", master)
        order_all(session, "work_out", out_of_date(session))
        order_if_due(session)
        return [(task, id) for task, id, _ in found]


def _advance(session: Session) -> None:
    """Start what was wanted and waits for nothing any more, should nobody have done so when that
    came.
    """
    waiting = select(Deliverable.crate_id).where(Deliverable.wanted_at.is_not(None))
    for crate in session.scalars(
        select(Crate)
        .where(Crate.id.in_(waiting))
        .order_by(Crate.id)
        .with_for_update(key_share=True)
    ):
        advance(session, crate)


def _without_job(session: Session, table: str, working: str, task: str, by: str) -> list[int]:
    query = text(
        f"""
        select id from {table} where {working} and not exists (
            select from procrastinate_jobs job
            where job.task_name = :task and job.status in ('todo', 'doing')
            and (job.args->>'id')::bigint = {by})
        order by id
        """
    )
    return list(session.scalars(query, {"task": f"ample:{task}"}))


def forgotten(session: Session, worker: int, busy: set[int]) -> set[int]:
    """List the jobs that are said to be done by a worker, which itself does not know of them.

    That comes of a database that was away when the worker wanted to say that it had ended one.
    """
    query = text("select id from procrastinate_jobs where status = 'doing' and worker_id = :worker")
    return set(session.scalars(query, {"worker": worker})) - busy
