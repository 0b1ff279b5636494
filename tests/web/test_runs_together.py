"""Runs of one master are carried out from one reading of it, and each is stopped, and taken up
again, by itself.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from client import Client, soon
from specs_here import choose, document
from sqlalchemy import select

from ample_crate.store.models import Crate, Run
from ample_crate.store.queries import get
from ample_crate.work import encoding, running
from ample_crate.work.orders import withdraw
from clips import plain
from support import Installation

Make = Callable[..., Path]
ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "file.wrapper", "rule": {"one_of": ["mp4", "mov", "mkv"]}, "source": "2"},
]
WRAPPERS = ("mp4", "mov", "mkv")


@pytest.fixture(scope="module")
def film(client: Client, installation: Installation, clip: Make) -> Any:
    file = clip("together.mp4", draw=plain((20, 60, 160)), frames=300)
    return client.ingest(installation.folders.intake[0], file)


@pytest.fixture(scope="module")
def spec(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("three-of-one", requirements=ROWS))
    return "three-of-one"


@pytest.fixture
def crates(client: Client, film: Any, spec: str) -> list[int]:
    """Three crates of one master, whose files differ by their wrapper."""
    made = []
    for wrapper in WRAPPERS:
        crate = client.crate(spec, film["id"])
        one = crate["deliverables"][0]["id"]
        for key, value in (
            ("picture", "encoded"),
            ("sound", "encoded"),
            ("file.wrapper", wrapper),
        ):
            choose(client, one, key, value)
        made.append(crate["id"])
    return made


def page(client: Client, crate: int) -> Any:
    return client.good("GET", f"/api/crates/{crate}")["deliverables"][0]


def states(client: Client, crates: list[int]) -> list[str]:
    return [page(client, crate)["run"]["state"] for crate in crates]


def ordered(
    installation: Installation, crates: list[int], also: Callable[[list[Run]], None] | None = None
) -> list[int]:
    """Order a run of each in one transaction, so that all wait when a worker finds the first, and
    change something about them in the same: their numbers.
    """
    with installation.database.session() as session:
        items = [get(session, Crate, id, lock=True).deliverables[0] for id in crates]
        for item in items:
            running.run_all(session, item.crate)
        runs = [item.runs[-1] for item in items]
        if also is not None:
            also(runs)
        return [run.id for run in runs]


def begun(client: Client, installation: Installation, crates: list[int]) -> list[int]:
    """Order a run of each, and wait until all are being made, which takes a few seconds."""
    runs = ordered(installation, crates)
    assert soon(lambda: states(client, crates) == ["running"] * 3)
    return runs


def ended(client: Client, crates: list[int]) -> list[str]:
    done = {"done", "failed", "cancelled"}
    assert soon(lambda: set(states(client, crates)) <= done)
    return states(client, crates)


def rows(installation: Installation, runs: list[int]) -> list[Run]:
    with installation.database.session() as session:
        return list(session.scalars(select(Run).where(Run.id.in_(runs)).order_by(Run.id)))


def test_three_of_one_master_are_made_from_one_reading(
    client: Client, installation: Installation, crates: list[int]
) -> None:
    runs = ordered(installation, crates)
    told = lambda: (page(client, crates[1])["run"]["progress"] or {}).get("together")  # noqa: E731
    assert soon(lambda: told() == 3)
    assert ended(client, crates) == ["done"] * 3
    first, *others = rows(installation, runs)
    assert first.lead_id is None and [one.lead_id for one in others] == [first.id] * 2
    for crate, wrapper in zip(crates, WRAPPERS, strict=True):
        one = page(client, crate)
        assert one["name"].endswith(wrapper) and one["verdict"] == "meets"
        assert one["run"]["encode_seconds"] > 0


def test_one_is_stopped_and_run_again_by_itself(
    client: Client, installation: Installation, crates: list[int]
) -> None:
    runs = begun(client, installation, crates)
    client.good("POST", f"/api/runs/{runs[1]}/cancel")
    assert ended(client, crates) == ["done", "cancelled", "done"]
    left = installation.folders.runs / str(runs[1])
    assert not left.exists() or not any(left.iterdir())
    assert client.run_to_end(crates[1])["deliverables"][0]["run"]["state"] == "done"


def test_the_first_is_stopped_and_the_others_go_on(
    client: Client, installation: Installation, crates: list[int]
) -> None:
    runs = begun(client, installation, crates)
    client.good("POST", f"/api/runs/{runs[0]}/cancel")
    assert ended(client, crates) == ["cancelled", "done", "done"]
    assert [one.starts for one in rows(installation, runs)] == [1, 1, 1]


def test_one_that_waits_no_more_is_not_taken_along(
    client: Client, installation: Installation, crates: list[int]
) -> None:
    def stop(runs: list[Run]) -> None:
        runs[2].state = "cancelled"

    runs = ordered(installation, crates, stop)
    assert ended(client, crates) == ["done", "done", "cancelled"]
    assert [one.starts for one in rows(installation, runs)] == [1, 1, 0]


def test_a_lost_worker_takes_none_of_them_along(
    client: Client, installation: Installation, crates: list[int]
) -> None:
    runs = begun(client, installation, crates)
    for worker in installation.pool.workers:
        worker.kill()
        worker.wait()
    assert set(installation.pool.mend()) == {"a worker"}
    assert ended(client, crates) == ["done"] * 3
    assert [one.starts for one in rows(installation, runs)] == [2, 2, 2]


def test_what_is_not_taken_along_again_is_ordered_by_itself(
    installation: Installation, crates: list[int], monkeypatch: pytest.MonkeyPatch
) -> None:
    """A worker was lost, and its machine is at another pace by now."""
    monkeypatch.setattr(encoding, "taken_along", lambda *_: [])
    with installation.database.session() as session:
        items = [get(session, Crate, id).deliverables[0] for id in crates[:2]]
        for item in items:
            running.run_all(session, item.crate)
        lead, other = (item.runs[-1] for item in items)
        assert withdraw(session, "encode", other.id)
        lead.state, other.state, other.lead_id = "running", "running", lead.id
        session.flush()
        assert encoding._taken(session, lead.id, None) == [lead]
        assert other.lead_id is None and withdraw(session, "encode", other.id)
        session.rollback()


def test_one_that_was_planned_otherwise_fails_by_itself(
    client: Client, installation: Installation, crates: list[int]
) -> None:
    def shorten(runs: list[Run]) -> None:
        runs[1].deliverable.span = {"name": "none", "first": 10**6, "frames": 5}

    runs = ordered(installation, crates, shorten)
    assert ended(client, crates) == ["done", "failed", "done"]
    assert "range" in rows(installation, runs)[1].error["what"]
