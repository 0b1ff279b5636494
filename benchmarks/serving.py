"""A whole installation on a database of its own, for benchmarks that ask over HTTP."""

from __future__ import annotations

import os
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from ample_crate.service import WorkerPool, listen, open_database
from ample_crate.store.cluster import Cluster
from ample_crate.store.database import Database

from .deliver import middle


@contextmanager
def serving(folder: Path) -> Iterator[tuple[WorkerPool, Database]]:
    """Start database, server and a worker under a folder, and stop them at the end."""
    folder.chmod(0o755)
    cluster = Cluster(folder / "database", durable=False)
    os.environ["AMPLE_MEDIA"] = str(folder / "media")
    try:
        database = open_database(cluster)
        pool = WorkerPool(database.url, listen(0), workers=1)
        try:
            pool.wait_ready()
            yield pool, database
        finally:
            pool.stop()
            database.dispose()
    finally:
        cluster.stop()


def percentile(values: list[float], share: float) -> float:
    """Give the value that a share of all does not exceed."""
    return sorted(values)[min(len(values) - 1, int(share * len(values)))]


def ask(pool: WorkerPool, name: str, path: str, bar: str, turns: int = 120) -> None:
    """Ask for a path again and again, and print median and p95 in milliseconds."""
    taken = []
    for turn in range(turns):
        began = time.monotonic()
        with urllib.request.urlopen(pool.address + path) as answer:
            answer.read()
        if turn >= 20:
            taken.append(1000 * (time.monotonic() - began))
    print(f"{name}: median {middle(taken):.0f} ms, p95 {percentile(taken, 0.95):.0f} ms   ({bar})")
