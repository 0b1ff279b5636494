"""A run of frames that stand alone, by one worker and by two: each with a processor of its own, as
on two machines, and both on all processors of this one.

Run `.venv/bin/python -m benchmarks.segments [SECONDS]` with seconds of film. Bars: with a processor
each, two at least 1.8 times as fast as one; on the same processors, which two share as one, no
loss.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Collection, Iterator, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from functools import partial
from pathlib import Path

from ample_crate.core.units.values import Size
from ample_crate.media import ops
from ample_crate.service import open_database
from ample_crate.store.cluster import Cluster
from ample_crate.store.database import Database
from ample_crate.store.library import find
from ample_crate.store.models import Crate, Deliverable, Master, Run
from ample_crate.store.places import Folders
from ample_crate.work import crew, running, sums

from .together import make_master

SPEC = "brackwater-scan"
EVERY = sorted(os.sched_getaffinity(0))


@contextmanager
def workers(url: str, processors: Sequence[Collection[int]]) -> Iterator[None]:
    """Start workers that encode, each on some processors."""
    command = [sys.executable, "-m", "ample_crate.cli", "worker", "--database", url]
    env = os.environ | {"AMPLE_QUEUES": crew.ENCODES}
    started = [
        subprocess.Popen(
            command,
            env=env,
            stderr=subprocess.DEVNULL,
            preexec_fn=partial(os.sched_setaffinity, 0, mine),
        )
        for mine in processors
    ]
    try:
        yield
    finally:
        for worker in started:
            worker.terminate()
        for worker in started:
            worker.wait()


def crate_of(database: Database, file: Path) -> int:
    """Take a master in, and make a crate of it."""
    spec, facts = find(SPEC), ops.measure(file, depth="everything").facts
    with database.session() as session:
        master = Master(
            name=file.name,
            path=str(file),
            origin="intake",
            size=file.stat().st_size,
            sha256=sums.of(file),
            identity=sums.identity(file),
            state="ready",
            facts=facts.as_json(),
        )
        crate = Crate(
            number=1,
            title="one",
            recipient_key=spec.recipient,
            spec_id=spec.id,
            spec_version=spec.version,
            due_at=datetime.now(UTC),
        )
        crate.deliverables = [Deliverable(master=master, choices={"picture": "encoded"})]
        session.add(crate)
        session.flush()
        return crate.id


def encoded(database: Database, crate: int, processors: Sequence[Collection[int]]) -> Run:
    """Have a crate's deliverable made."""
    with workers(database.url, processors):
        # Those that share their processors count as one.
        while _idle(database) < len(set(map(frozenset, processors))):
            time.sleep(0.2)
        with database.session() as session:
            row = session.get(Crate, crate)
            assert row is not None
            item = row.deliverables[0]
            for run in item.runs:
                session.delete(run)
            session.flush()
            session.refresh(item)
            running.run_all(session, row)
            number = item.runs[-1].id
        while True:
            time.sleep(0.3)
            with database.session() as session:
                made = session.get(Run, number)
                assert made is not None
                if made.state not in {"queued", "running"}:
                    assert made.state == "done", made.error
                    return made


def _idle(database: Database) -> int:
    with database.session() as session:
        return crew.idle(session)


def main(seconds: int) -> None:
    """Measure all, and print the ratios."""
    one, two = [{EVERY[0]}], [{EVERY[0]}, {EVERY[1]}]
    ways: dict[str, Sequence[Collection[int]]] = {
        "one processor, one worker": one,
        "two processors, a worker each": two,
        "all processors, one worker": [EVERY],
        "all processors, two workers": [EVERY, EVERY],
    }
    with tempfile.TemporaryDirectory(prefix="ample-segments-") as place:
        root = Path(place)
        root.chmod(0o755)
        os.environ["AMPLE_MEDIA"] = str(root / "media")
        folders = Folders.from_environment().make()
        film = folders.intake[0] / "film.mov"
        make_master(film, Size(1920, 1080), "prores_ks", "yuv422p10le", seconds)
        cluster = Cluster(root / "database", durable=False)
        try:
            database = open_database(cluster)
            crate = crate_of(database, film)
            taken: dict[str, float] = {}
            for name, processors in ways.items():
                run = encoded(database, crate, processors)
                taken[name] = run.encode_seconds or 0.0
                said = " ".join(run.notes)
                print(f"{name:30} {taken[name]:6.1f} s. {said}", flush=True)
            alone, apart, here, both = taken.values()
            print(f"with a processor each {alone / apart:.2f} times as fast (bar 1.8)")
            print(f"on the same processors {here / both:.2f} times as fast (bar: no loss)")
            database.dispose()
        finally:
            cluster.stop()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 80)
