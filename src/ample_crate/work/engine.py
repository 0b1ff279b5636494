"""The worker engine on the application's own database, and the worker process."""

from __future__ import annotations

import asyncio
import contextlib
import logging
import os
from collections.abc import AsyncIterator, Awaitable, Callable, Coroutine, Iterable
from datetime import UTC, datetime
from typing import Any

import procrastinate
from procrastinate import exceptions
from procrastinate.jobs import Job
from procrastinate.manager import JobManager
from psycopg.conninfo import make_conninfo

from ..handover import standins
from ..handover.signing import SigningKey
from ..media.pausing import GATE
from ..store.database import AWAY, Database
from ..store.models import Recipient
from ..store.places import Folders
from . import crate_tasks, crew, logs, standing, tasks
from .home import Home
from .intake import Watcher
from .orders import QUEUES
from .reconcile import forgotten, reconcile
from .tools import Tools

log = logging.getLogger(__name__)
# Seconds. A worker on a crowded machine may be late with its sign of life by many beats and still
# be at work.
HEARTBEAT, STALLED_AFTER, WATCH_EVERY, HEARD_EVERY = 2.0, 20.0, 3.0, 1.0
# What the id of a task is of.
ABOUT = {
    "ingest": "master",
    "compare": "master",
    "proxy": "master",
    "encode": "run",
    "segment": "segment",
    "seal": "crate",
    "hand_over": "crate",
}
RECONCILED_EVERY = float(os.environ.get("AMPLE_RECONCILE", "60"))


def worker_app(url: str) -> procrastinate.App:
    """Make the engine for a worker process."""
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=url))
    for module in (tasks, crate_tasks):
        app.add_tasks_from(module.registry, namespace="ample")
    return app


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
    """Take up jobs again whose worker is gone: the engine finds them but leaves the deciding to
    us.
    """
    while True:
        try:
            for job in await app.job_manager.get_stalled_jobs(
                seconds_since_heartbeat=STALLED_AFTER
            ):
                log.warning(
                    "job %s (%s) lost its worker; it is taken up again", job.id, job.task_name
                )
                await app.job_manager.retry_job(job)
        except exceptions.ConnectorException:
            log.warning("the database is away; looked again in a while")
        await asyncio.sleep(HEARTBEAT)


async def _watch(watcher: Watcher) -> None:
    """Take in what is new in watched folders, and move on what arrived under orders."""
    while True:
        try:
            await asyncio.to_thread(watcher.poll)
        except Exception:
            log.exception("a watched folder could not be looked at")
        try:
            await asyncio.to_thread(standing.advance, watcher.database, watcher.folders)
        except Exception:
            log.exception("orders could not be moved on")
        await asyncio.sleep(WATCH_EVERY)


class _Jobs(JobManager):
    """The engine's jobs, of which a worker that is to rest takes none."""

    # Until it has been heard what is wanted.
    closed = True

    async def fetch_job(self, queues: Iterable[str] | None, worker_id: int) -> Job | None:
        """Give the next job that waits, unless the worker is to take none."""
        return None if self.closed else await super().fetch_job(queues, worker_id)


async def _announce(tools: Tools, mine: crew.Announced, jobs: _Jobs) -> None:
    """Say that this worker is there, and do what is wanted of it."""

    wanted: crew.Wanted = "working"

    def say() -> crew.Wanted:
        with tools.database.session() as session:
            return mine.say(session, wanted, GATE.resting)

    while True:
        try:
            wanted = await asyncio.to_thread(say)
            jobs.closed = wanted != "working"
            GATE.put(wanted == "paused")
        except AWAY:
            log.warning("the database is away; announced again in a while")
        await asyncio.sleep(HEARD_EVERY)


class _Bench:
    """What this worker is doing, as it knows itself."""

    def __init__(self, app: procrastinate.App, tools: Tools) -> None:
        self.app, self.tools, self.db = app, tools, tools.database
        self.worker: int | None = None
        self.busy: set[int] = set()
        self._doubtful: set[int] = set()

    async def watch(self, process: Callable[[], Awaitable[Any]], context: Any, worker: Any) -> Any:
        """Keep in mind which jobs are being done (a middleware of the engine)."""
        self.worker = worker.worker_id
        self.busy.add(context.job.id)
        task, of = context.job.task_name.removeprefix("ample:"), context.job.task_kwargs.get("id")
        try:
            with logs.about(task=task, job=context.job.id, **{ABOUT.get(task, "of"): of}):
                return await process()
        finally:
            self.busy.discard(context.job.id)

    async def poll(self) -> None:
        """Take up again what nobody does, at the start and each minute."""
        while True:
            try:
                if self.tools.home is None:
                    await asyncio.to_thread(reconcile, self.db, self.tools.folders)
                await self._let_go()
            except (*AWAY, exceptions.ConnectorException):
                log.warning("the database is away; looked again in a while")
            await asyncio.sleep(RECONCILED_EVERY)

    async def _let_go(self) -> None:
        """Hand back jobs that are said to be done here and are not; twice seen, for one may just be
        beginning or ending.
        """
        found = await asyncio.to_thread(self._forgotten) if self.worker is not None else set[int]()
        for id in found & self._doubtful:
            log.warning("job %s was left over when the database was away; it is taken up again", id)
            await self.app.job_manager.retry_job_by_id_async(id, retry_at=datetime.now(UTC))
        self._doubtful = found

    def _forgotten(self) -> set[int]:
        assert self.worker is not None
        with self.db.session() as session:
            return forgotten(session, self.worker, self.busy)


def _introduce(tools: Tools) -> None:
    """Make the house's key at the first start, and give its public half to every recipient."""
    public = SigningKey.kept(tools.folders.keys).public_pem
    with tools.database.session() as session:
        inboxes = [str(row.document["inbox"]) for row in session.query(Recipient)]
    for inbox in inboxes:
        standins.introduce(tools.folders.inboxes / inbox, public)


@contextlib.asynccontextmanager
async def _beside(*jobs: Coroutine[Any, Any, None]) -> AsyncIterator[None]:
    """Run jobs beside the worker for as long as it runs."""
    running = [asyncio.create_task(job) for job in jobs]
    try:
        yield
    finally:
        for task in running:
            task.cancel()


async def work(
    url: str,
    folders: Folders,
    queues: tuple[str, ...] = QUEUES,
    house: str = "",
    home: Home | None = None,
) -> None:
    """Run one worker until it is told to stop.

    Args:
        url: of the database.
        folders: that it works in.
        queues: that it works on.
        house: the name that bags carry as their source.
        home: the installation, where the worker does not see its folders.
    """
    mine = crew.Announced(queues, folders.runs)
    tools = Tools(Database(url), folders, house, mine, home)
    app = worker_app(make_conninfo(url, application_name=mine.connection))
    app.job_manager = jobs_taken = _Jobs(app.connector)
    bench = _Bench(app, tools)
    if "handover" in queues:
        await asyncio.to_thread(_introduce, tools)
    jobs = [_rescue(app), bench.poll(), _announce(tools, mine, jobs_taken)]
    if "masters" in queues:
        jobs.append(_watch(Watcher(tools.database, folders)))
    async with app.open_async(), _beside(*jobs):
        await app.run_worker_async(
            queues=list(queues),
            concurrency=1,
            additional_context={"tools": tools},
            fetch_job_polling_interval=1.0,
            update_heartbeat_interval=HEARTBEAT,
            stalled_worker_timeout=STALLED_AFTER,
            shutdown_graceful_timeout=3.0,
            worker_middleware=[bench.watch],
        )
    tools.database.dispose()
