"""Ordering background work, in the very transaction that makes it due."""

from __future__ import annotations

import json
from collections.abc import Sequence

from sqlalchemy import text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from . import turns

# What a run's order has is its turn (`turns.arrange`): others come before all of them, or after.
FIRST, LAST = 1_500_000_000, -1_500_000_000
# Queue and priority by task.
TASKS: dict[str, tuple[str, int]] = {
    "ingest": ("masters", 0),
    "compare": ("masters", 1),
    "proxy": ("proxies", 0),
    # Workers of other machines take these alone, and see no media folder.
    "encode": ("runs", 0),
    # Another run that waits goes first: it has nobody yet.
    "segment": ("encodes", LAST),
    "trial": ("encodes", FIRST),
    # What is due to be made goes before a look at what was.
    "quality": ("encodes", LAST - 1),
    "sample": ("encodes", FIRST),
    "ease": ("encodes", FIRST),
    "hear": ("encodes", FIRST),
    "rehearse": ("encodes", LAST - 1),
    "view": ("encodes", LAST - 1),
    "try_codecs": ("encodes", FIRST),
    "work_out": ("masters", -1),
    "seal": ("handover", 5),
    "hand_over": ("handover", 5),
    "tidy": ("handover", -5),
}
QUEUES = ("masters", "runs", "encodes", "handover", "proxies")
DEFER = text(
    """
    select procrastinate_defer_jobs_v1(array[
        row(:queue, :task, :priority, null, :once, cast(:args as jsonb), null)
        ::procrastinate_job_to_defer_v1])
    """
)


def order(session: Session, task: str, id: int) -> None:
    """Order a task on an item; an order that already waits is not doubled.

    The order stands when the session commits, and never without what the session changes besides.
    """
    queue, priority = TASKS[task]
    values = {
        "queue": queue,
        "task": f"ample:{task}",
        "priority": priority,
        "once": f"{task}-{id}",
        "args": json.dumps({"id": id}),
    }
    session.flush()
    try:
        with session.begin_nested():
            session.execute(DEFER, values)
    except IntegrityError as error:
        if "queueing_lock" not in str(error.orig):
            raise
    if task == "encode":
        turns.arrange(session, id)


def withdraw(session: Session, task: str, id: int) -> bool:
    """Withdraw the order of a task on an item; say whether it waited still."""
    return session.scalar(WITHDRAW, {"task": f"ample:{task}", "id": id}) is not None


def order_all(session: Session, task: str, ids: Sequence[int]) -> None:
    """Order a task on several items; those on which it waits already are passed over at once."""
    if not ids:
        return
    there = set(session.scalars(WAITING, {"task": f"ample:{task}"}))
    for id in ids:
        if id not in there:
            order(session, task, id)


WITHDRAW = text(
    """
    select procrastinate_cancel_job_v1(id, false, true) from procrastinate_jobs
    where task_name = :task and status = 'todo' and (args->>'id')::bigint = :id
    """
)
WAITING = text(
    "select (args->>'id')::bigint from procrastinate_jobs where task_name = :task and status = "
    "'todo'"
)
