"""A run is made by all workers that are free, in segments; what one worker leaves is done by
another, and the file is what one would have made.
"""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import Any

import pytest
from client import Client, soon
from specs_here import choose, document
from sqlalchemy import select

from ample_crate.core.planning import stored
from ample_crate.media import ops
from ample_crate.store.models import Run, Segment
from ample_crate.work import crew, reconcile
from support import Installation

Make = Callable[..., Path]
Start = Callable[[], "subprocess.Popen[bytes]"]
SPEC = "in-segments"
KEYS = {"preset": "ultrafast", "g": "10"}  # a segment begins near a key frame
SEGMENTS = next(row for row in reconcile.WORKING if row[0] == "segment")
ROWS = [
    {"property": "picture.codec", "rule": {"is": "prores"}, "source": "1"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "2"},
]


@pytest.fixture(scope="module")
def film(client: Client, installation: Installation, clip: Make) -> Any:
    file = clip("segments.mp4", frames=400, options=KEYS)
    return client.ingest(installation.folders.intake[0], file)


@pytest.fixture(scope="module")
def spec(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document(SPEC, requirements=ROWS))
    return SPEC


@pytest.fixture
def crate(client: Client, film: Any, spec: str) -> int:
    made = client.crate(spec, film["id"])
    one = made["deliverables"][0]["id"]
    for key in ("picture", "sound"):
        choose(client, one, key, "encoded")
    return int(made["id"])


@pytest.fixture
def another(installation: Installation) -> Iterator[Start]:
    """Start workers that encode, beside the one that there is."""
    started: list[subprocess.Popen[bytes]] = []
    pool, database = installation.pool, installation.database

    def idle() -> int:
        with database.session() as session:
            return crew.idle(session)

    def start() -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "ample_crate.cli", "worker", "--database", database.url]
        media = {"AMPLE_MEDIA": str(installation.folders.media), "AMPLE_QUEUES": "encodes"}
        started.append(subprocess.Popen(command, env=os.environ | media))
        assert soon(lambda: idle() == len(started) + len(pool.workers) - 2)
        return started[-1]

    yield start
    for worker in started:
        worker.terminate()
    for worker in started:
        worker.wait()
    # Nobody counts on who is gone.
    assert soon(lambda: idle() <= 1)


def page(client: Client, crate: int) -> Any:
    return client.good("GET", f"/api/crates/{crate}")["deliverables"][0]


def run_of(client: Client, crate: int) -> Any:
    return page(client, crate)["run"]


def begun(client: Client, crate: int) -> int:
    client.good("POST", f"/api/crates/{crate}/runs")
    return int(run_of(client, crate)["id"])


def ended(client: Client, crate: int) -> str:
    done = {"done", "failed", "cancelled"}
    assert soon(lambda: run_of(client, crate)["state"] in done)
    return str(run_of(client, crate)["state"])


def segments_of(installation: Installation, run: int) -> list[Segment]:
    with installation.database.session() as session:
        return list(session.scalars(select(Segment).where(Segment.run_id == run)))


def states(installation: Installation, run: int) -> list[str]:
    return [row.state for row in segments_of(installation, run)]


def row_of(installation: Installation, run: int) -> Run:
    with installation.database.session() as session:
        row = session.get(Run, run)
        assert row is not None
        session.refresh(row, ["route"])
        return row


def nothing_is_left(installation: Installation, run: int) -> bool:
    folder = installation.folders.runs / str(run) / ".segments"
    return not segments_of(installation, run) and not folder.exists()


def is_what_one_makes(installation: Installation, run: int, folder: Path) -> bool:
    row = row_of(installation, run)
    plan = stored.route_of(row.route).plan
    assert plan is not None and row.path is not None
    master = installation.folders.intake[0] / "segments.mp4"
    alone = ops.render([master], folder, plan, 10**6)
    return alone.path.read_bytes() == Path(row.path).read_bytes()


def test_two_workers_make_one_run(
    client: Client, installation: Installation, crate: int, another: Start, tmp_path: Path
) -> None:
    another()
    run = begun(client, crate)
    told = lambda: (run_of(client, crate)["progress"] or {}).get("workers")  # noqa: E731
    assert soon(lambda: told() == 2)
    assert ended(client, crate) == "done"
    one = page(client, crate)
    assert one["verdict"] == "meets"
    assert any("segments by 2 workers" in note for note in one["run"]["notes"])
    assert row_of(installation, run).workers == 2
    assert nothing_is_left(installation, run)
    assert is_what_one_makes(installation, run, tmp_path)


def test_one_worker_alone_makes_it_from_end_to_end(
    client: Client, installation: Installation, crate: int
) -> None:
    run = begun(client, crate)
    assert ended(client, crate) == "done"
    assert row_of(installation, run).workers == 1
    assert not any("segments" in note for note in run_of(client, crate)["notes"])
    a_segment_without_an_order_is_found(installation, run)


def a_segment_without_an_order_is_found(installation: Installation, run: int) -> None:
    with installation.database.session() as session:
        session.add(Segment(run_id=run, number=0, count=1, state="offered"))
        session.flush()
        found = reconcile._without_job(session, *SEGMENTS)
        assert len(found) == 1
        session.rollback()


def test_workers_that_share_too_few_processors_count_as_one(
    installation: Installation, another: Start, monkeypatch: pytest.MonkeyPatch
) -> None:
    another()
    with installation.database.session() as session:
        assert crew.idle(session) == 2
        # A run would keep all of them busy.
        monkeypatch.setenv("AMPLE_CHAIN", "1000")
        assert crew.idle(session) == 1


def helper_of(installation: Installation, run: int) -> int:
    """Give the process that makes a segment for another: either of the two may lead."""
    seen: list[str] = []

    def making() -> bool:
        rows = segments_of(installation, run)
        seen.extend(row.worker for row in rows if row.state == "making")
        return bool(seen)

    assert soon(making)
    return int(seen[0].rpartition(":")[2])


def lose(installation: Installation, workers: Iterable[subprocess.Popen[bytes]]) -> None:
    """Kill workers, and have those brought back that belong to the installation."""
    for worker in workers:
        worker.kill()
        worker.wait()
    installation.pool.mend()


def test_what_a_lost_helper_had_begun_is_made_by_the_leader(
    client: Client, installation: Installation, crate: int, another: Start, tmp_path: Path
) -> None:
    there = [another(), *installation.pool.workers]
    run = begun(client, crate)
    helper = helper_of(installation, run)
    lose(installation, [worker for worker in there if worker.pid == helper])
    assert ended(client, crate) == "done"
    assert row_of(installation, run).starts == 1
    assert nothing_is_left(installation, run)
    assert is_what_one_makes(installation, run, tmp_path)


def test_a_lost_leader_goes_on_where_it_stopped(
    client: Client, installation: Installation, crate: int, another: Start, tmp_path: Path
) -> None:
    """With everybody else, so that whoever led is among them."""
    helper = another()
    run = begun(client, crate)
    assert soon(lambda: "done" in states(installation, run))
    before = {row.id for row in segments_of(installation, run) if row.state == "done"}
    lose(installation, [helper, *installation.pool.workers])
    assert soon(lambda: row_of(installation, run).starts == 2)
    now = {row.id for row in segments_of(installation, run) if row.state == "done"}
    assert before and before <= now
    assert ended(client, crate) == "done"
    assert nothing_is_left(installation, run)
    assert is_what_one_makes(installation, run, tmp_path)


def test_it_is_stopped_wherever_it_is_made(
    client: Client, installation: Installation, crate: int, another: Start
) -> None:
    another()
    run = begun(client, crate)
    assert soon(lambda: "making" in states(installation, run))
    client.good("POST", f"/api/runs/{run}/cancel")
    assert ended(client, crate) == "cancelled"
    # A helper lets go of what nobody wants any more.
    assert soon(lambda: nothing_is_left(installation, run), 120)
    assert client.run_to_end(crate)["deliverables"][0]["run"]["state"] == "done"
