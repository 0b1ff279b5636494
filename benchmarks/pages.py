"""How long pages take with 2,000 masters and 200 crates of two items, for one client and for ten,
and how many queries each asks.

Run `.venv/bin/python -m benchmarks.pages`. Masters share the facts of three clips that are measured
first; every second crate has finished files.
"""

from __future__ import annotations

import contextlib
import json
import shutil
import sys
import tempfile
import threading
import time
import urllib.request
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import event, select, text

from ample_crate.core.facts import Facts
from ample_crate.media import ops
from ample_crate.service import WorkerPool
from ample_crate.store import masters, specs
from ample_crate.store.database import Database
from ample_crate.store.models import Crate, Deliverable, Master, Run
from ample_crate.store.places import CHECKOUT, Folders
from ample_crate.web.app import create
from ample_crate.work import kept, status

from .deliver import middle
from .serving import percentile, serving

MASTERS, CRATES, TURNS, CLIENTS, WRITES = 2000, 200, 40, 10, 4
STATES = ("open", "open", "open", "sealed", "received")


def clips(folder: Path) -> list[tuple[Path, Facts]]:
    """Make and measure three clips of different kinds."""
    sys.path.insert(0, str(CHECKOUT / "tests"))
    from clips import Clip, moving_bar

    made = [
        Clip(draw=moving_bar((1920, 1080), 700), frames=50).write(folder / "hd.mp4"),
        Clip(
            draw=moving_bar((1920, 1080), 700),
            frames=50,
            codec="prores_ks",
            pixels="yuv422p10le",
            sound_codec="pcm_s24le",
        ).write(folder / "hd.mov"),
        Clip(draw=moving_bar((1280, 720), 500), frames=50).write(folder / "small.mp4"),
    ]
    return [(path, ops.measure(path, depth="everything").facts) for path in made]


def fill(database: Database, measured: list[tuple[Path, Facts]]) -> None:
    """Put masters, crates and runs into the database."""
    with database.session() as session:
        for number in range(MASTERS):
            path, facts = measured[number % len(measured)]
            row = Master(
                name=f"lantern_e{number:04d}{path.suffix}",
                path=str(path),
                origin="intake",
                size=path.stat().st_size,
                state="ready",
                sha256=f"{number:064x}",
                identity=masters.file_identity(path),
                facts=facts.as_json(),
                production=f"Production {number % 40}",
                corrections={},
                notes=[],
            )
            masters.recard(row)
            session.add(row)
    with database.session() as session:
        ids = list(session.scalars(select(Master.id).order_by(Master.id)))
        versions = specs.in_force(session)
        now = datetime.now(UTC)
        for number in range(CRATES):
            version = versions[number % len(versions)]
            crate = Crate(
                number=1000 + number,
                title=f"Crate {number}",
                recipient_key=version.recipient_key,
                spec_id=version.id,
                spec_version=version.version,
                due_at=now + timedelta(hours=number),
                state=STATES[number % len(STATES)],
            )
            crate.deliverables = [
                Deliverable(master_id=ids[(2 * number + n) * 5 % MASTERS], position=n)
                for n in range(2)
            ]
            session.add(crate)
    with database.session() as session:
        for crate in session.scalars(select(Crate).where(Crate.id % 2 == 0)):
            for one in status.item_statuses(crate):
                if one.route is not None and one.route.plan is not None:
                    path, facts = measured[one.deliverable.master_id % len(measured)]
                    session.add(
                        Run(
                            deliverable=one.deliverable,
                            state="done",
                            route=one.route.model_dump(mode="json"),
                            choices={},
                            path=str(path),
                            size=one.route.size,
                            sha256="ab" * 32,
                            master_sha256=one.deliverable.master.sha256,
                            facts=facts.as_json(),
                            encode_seconds=2.0,
                            measure_seconds=1.0,
                        )
                    )


def fetch(address: str) -> float:
    """Ask once; give the milliseconds it took."""
    began = time.monotonic()
    with urllib.request.urlopen(address, timeout=600) as answer:
        answer.read()
    return 1000 * (time.monotonic() - began)


def one_client(address: str, turns: int) -> list[float]:
    """Ask again and again."""
    return [fetch(address) for _ in range(turns)]


def several(address: str, turns: int) -> list[float]:
    """Let ten clients ask at once, each again and again."""
    taken: list[float] = []
    threads = [
        threading.Thread(target=lambda: taken.extend(one_client(address, turns)))
        for _ in range(CLIENTS)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return taken


@contextlib.contextmanager
def written_to(database: Database) -> Iterator[None]:
    """Write something `WRITES` times a second meanwhile, as runs do that tell how far they are."""
    over = threading.Event()

    def write() -> None:
        while not over.wait(1 / WRITES):
            change(database)

    writer = threading.Thread(target=write)
    writer.start()
    try:
        yield
    finally:
        over.set()
        writer.join()


def change(database: Database) -> None:
    """Write something, so that no answer from before counts any more."""
    with database.session() as session:
        session.execute(text("select pg_current_xact_id()"))


def queries(database: Database, folders: Folders, paths: dict[str, str]) -> dict[str, int]:
    """Count the queries of each page, asked in this process."""
    counted: list[str] = []
    app = create(database, folders)
    event.listen(
        database.engine,
        "before_cursor_execute",
        lambda conn, cursor, statement, *rest: counted.append(statement),
    )
    found = {}
    for name, path in paths.items():
        app.test_client().get(path)
        change(database)
        counted.clear()
        assert app.test_client().get(path).status_code == 200
        found[name] = len(counted)
    return found


def worked_out(database: Database) -> int:
    """Work out what is out of date, as a worker does when it has changed something."""
    with database.session() as session:
        left = kept.out_of_date(session)
    for id in left:
        with database.session() as session:
            kept.floors(session, [id])
    return len(left)


def at_rest(database: Database) -> None:
    """Wait until the worker has nothing left to do."""
    busy = text("select count(*) from procrastinate_jobs where status in ('todo', 'doing')")
    while True:
        with database.session() as session:
            if not session.scalar(busy):
                return
        time.sleep(0.5)


def measure(pool: WorkerPool, database: Database, folders: Folders) -> None:
    """Ask for each page and print a line each."""
    with database.session() as session:
        crate = session.scalars(
            select(Crate.id).where(Crate.state == "open", Crate.id % 2 == 0)
        ).first()
        master = session.scalars(
            select(Deliverable.master_id).where(Deliverable.crate_id == crate)
        ).first()
    worked_out(database)
    while any(
        not one["worked_out"]
        for one in json.load(urllib.request.urlopen(f"{pool.address}/api/floor"))["crates"]
    ):
        time.sleep(0.5)
    at_rest(database)
    paths = {
        "floor": "/api/floor",
        "crate": f"/api/crates/{crate}",
        "master": f"/api/masters/{master}",
        "list": "/api/masters?limit=100",
    }
    asked = queries(database, folders, paths)
    print(
        f"{MASTERS} masters, {CRATES} crates of two items; bars: p95 under 150 ms with one "
        f"client, under 400 ms with {CLIENTS}, at most 15 queries"
    )
    for name, path in paths.items():
        first = fetch(pool.address + path)
        # A page that takes seconds is not asked for hundreds of times.
        turns = max(3, min(TURNS, int(8000 / first)))
        changed = []
        for _ in range(turns):
            change(database)
            changed.append(fetch(pool.address + path))
        alone, together = (
            one_client(pool.address + path, turns),
            several(pool.address + path, max(2, turns // 4)),
        )
        with written_to(database):
            meanwhile = several(pool.address + path, max(2, turns // 4))
        print(
            f"{name:6}: first {first:.0f} ms; one client median {middle(alone):.0f}, p95 "
            f"{percentile(alone, 0.95):.0f} ms; "
            f"{CLIENTS} clients median {middle(together):.0f}, p95 "
            f"{percentile(together, 0.95):.0f} ms; "
            f"while something is written {WRITES} times a second, median {middle(meanwhile):.0f}, "
            f"p95 {percentile(meanwhile, 0.95):.0f} ms; "
            f"one client where something was written before each, median {middle(changed):.0f}, "
            f"p95 {percentile(changed, 0.95):.0f} ms and {asked[name]} queries"
        )


def main() -> None:
    """Make the database and measure."""
    folder = Path(tempfile.mkdtemp(prefix="ample-bench-"))
    try:
        with serving(folder) as (pool, database):
            folders = Folders(folder / "media").make()
            fill(database, clips(folders.intake[0]))
            measure(pool, database, folders)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
