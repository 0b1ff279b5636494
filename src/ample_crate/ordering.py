"""`ample orders`: an order worked through by the installation's own workers."""

from __future__ import annotations

import argparse
import json
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, redirect_stdout
from functools import partial
from pathlib import Path
from typing import Any

from . import service
from .core.errors import AmpleError, BadValue
from .core.specs.order import FORM, StandingOrder
from .store.cluster import Cluster
from .store.database import Database
from .store.places import Folders, data_directory
from .work.once import Once

LOOKED_EVERY = 1.0  # seconds
Tend = Callable[[], None]  # brings back what has ended


def run(args: argparse.Namespace) -> int:
    """Work an order through; 0 where all was delivered, 1 where something is asked."""
    order = _read(args.file)
    with _installation(args.workers) as (database, folders, tend):
        once = Once(database, folders, order)
        once.begin()
        try:
            _worked_through(once, tend)
        finally:
            once.end()
        document = once.document()
    if args.json:
        print(json.dumps(document, indent=2, ensure_ascii=False, default=str))
    else:
        _say(document)
    return 1 if any(one["state"] == "asks" for one in document["items"]) else 0


def _read(path: Path) -> StandingOrder:
    try:
        return FORM.parse(path.read_text("utf-8"), path.name)
    except (OSError, UnicodeDecodeError) as error:
        raise BadValue(
            f"The order {path} cannot be read: {error}.", "Give a file of YAML or JSON in UTF-8."
        ) from None


@contextmanager
def _installation(workers: int) -> Iterator[tuple[Database, Folders, Tend]]:
    """Give the installation's database and folders; what does not run is started meanwhile."""
    folders = Folders.from_environment().make()
    cluster = Cluster(data_directory() / "database")
    try:
        lock = service.Lock(data_directory())
    except AmpleError:
        # It is served, and its own workers do what there is to do.
        if not cluster.running():
            raise
        database = Database(cluster.url)
        yield database, folders, _nothing
        database.dispose()
        return
    pool: service.WorkerPool | None = None
    try:
        # What is told of the start is no part of what the command prints.
        with redirect_stdout(sys.stderr):
            database = service.open_database(cluster)
        pool = service.WorkerPool(database.url, service.listen(0), workers)
        yield database, folders, partial(service.tend, cluster, pool)
        database.dispose()
    finally:
        if pool is not None:
            pool.stop()
        cluster.stop()
        lock.release()


def _worked_through(once: Once, tend: Tend) -> None:
    told: set[str] = set()
    while left := once.left():
        for line in left:
            if line not in told:
                print(f"ample: {line}", file=sys.stderr, flush=True)
        told |= set(left)
        tend()
        time.sleep(LOOKED_EVERY)


def _nothing() -> None:
    """Leave bringing back to whoever serves."""


def _say(document: dict[str, Any]) -> None:
    for one in document["items"]:
        print(f"{one['name']}: {one['state']}. {one['said']}")
        for answer in (one["question"] or {}).get("answers", ()):
            print(f"  - {answer['label']}")
    for name in document["left"]:
        print(f"{name}: it was left where it lies")
    print(f"{len(document['items'])} masters, {len(document['receipts'])} receipts")
