"""The worker engine on the application's own database, and the worker process."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator, Coroutine
from typing import Any

import procrastinate
from procrastinate import exceptions

from ..store.database import Database
from ..store.places import Folders
from .intake import Watcher
from .tasks import tasks
from .tools import Tools

log = logging.getLogger(__name__)
# Seconds. A worker on a crowded machine may be late with its sign of life by many beats and still be at work.
HEARTBEAT, STALLED_AFTER, WATCH_EVERY = 2.0, 20.0, 3.0
QUEUES = ("masters", "encodes", "handover", "copies")


def worker_app(url: str) -> procrastinate.App:
    """Make the engine for a worker process."""
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=url))
    app.add_tasks_from(tasks, namespace="ample")
    return app


class Desk:
    """Takes orders for work from the web process."""

    def __init__(self, url: str) -> None:
        self._app = procrastinate.App(connector=procrastinate.SyncPsycopgConnector(conninfo=url))
        self._app.add_tasks_from(tasks, namespace="ample")
        self._app.open()

    def close(self) -> None:
        """Close the engine's connections."""
        self._app.close()

    def order(self, task: str, id: int, priority: int = 0) -> None:
        """Order a task on an item; an order that already waits is not doubled."""
        with contextlib.suppress(exceptions.AlreadyEnqueued):
            self._app.configure_task(f"ample:{task}", queueing_lock=f"{task}-{id}", priority=priority).defer(id=id)


def prepare(url: str) -> None:
    """Make the engine's tables where they are missing."""
    app = procrastinate.App(connector=procrastinate.SyncPsycopgConnector(conninfo=url))
    with app.open():
        missing = app.connector.get_sync_connector().execute_query_one(
            "select to_regclass('procrastinate_jobs') is null as missing"
        )
        if missing["missing"]:
            app.schema_manager.apply_schema()


async def _rescue(app: procrastinate.App) -> None:
    """Take up jobs again whose worker is gone: the engine finds them but leaves the deciding to us."""
    while True:
        with contextlib.suppress(exceptions.ConnectorException):
            for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER):
                log.warning("job %s (%s) lost its worker; it is taken up again", job.id, job.task_name)
                await app.job_manager.retry_job(job)
        await asyncio.sleep(HEARTBEAT)


async def _watch(app: procrastinate.App, watcher: Watcher) -> None:
    """Take in what is new in watched folders."""
    while True:
        try:
            for id in await asyncio.to_thread(watcher.look):
                await app.configure_task("ample:take_in", queueing_lock=f"take_in-{id}").defer_async(id=id)
        except Exception:
            log.exception("a watched folder could not be looked at")
        await asyncio.sleep(WATCH_EVERY)


@contextlib.asynccontextmanager
async def _beside(*jobs: Coroutine[Any, Any, None]) -> AsyncIterator[None]:
    """Run jobs beside the worker for as long as it runs."""
    tasks = [asyncio.create_task(job) for job in jobs]
    try:
        yield
    finally:
        for task in tasks:
            task.cancel()


async def work(url: str, folders: Folders, queues: tuple[str, ...] = QUEUES, house: str = "") -> None:
    """Run one worker until it is told to stop; `house` is the name that bags carry as their source."""
    tools = Tools(Database(url), folders, house)
    app = worker_app(url)
    jobs = [_rescue(app)] + ([_watch(app, Watcher(tools.database, folders))] if "masters" in queues else [])
    async with app.open_async(), _beside(*jobs):
        await app.run_worker_async(
            queues=list(queues), concurrency=1, additional_context={"tools": tools}, fetch_job_polling_interval=1.0,
            update_heartbeat_interval=HEARTBEAT, stalled_worker_timeout=STALLED_AFTER, shutdown_graceful_timeout=3.0,
        )  # fmt: skip
    tools.database.dispose()
