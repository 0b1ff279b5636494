"""Rehearsals through the API: ordered, shown beside others of the same master, stopped, refused."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from client import Client
from held import held
from specs_here import document
from sqlalchemy import delete, select

from ample_crate.store.studied import Rehearsal
from ample_crate.work import rehearsing
from ample_crate.work.reconcile import reconcile
from support import Installation

ENDED = {"done", "failed", "cancelled"}


def rows(wrapper: str) -> list[dict[str, Any]]:
    return [
        {"property": "picture.codec", "rule": {"is": "mjpeg"}, "source": "1"},
        {"property": "picture.size", "rule": {"is": "160x90"}, "source": "2"},
        {"property": "file.wrapper", "rule": {"is": wrapper}, "source": "3"},
    ]


@pytest.fixture(scope="module")
def runs(client: Client, tiny_master: Any, save_for_all: Callable[..., Any]) -> list[int]:
    """Two files of one master, in two wrappers."""
    found = []
    for wrapper in ("mov", "avi"):
        asked = {"ways": ["forwards", "random"], "layers": 2, "late": 240, "source": "4"}
        more = {"playback": asked} if wrapper == "mov" else {}
        save_for_all(document(f"played-{wrapper}", requirements=rows(wrapper), **more))
        crate = client.crate(f"played-{wrapper}", tiny_master["id"])
        found.append(client.run_to_end(crate["id"])["deliverables"][0]["run"]["id"])
    return found


def played(client: Client, run: int) -> Any:
    path = f"/api/runs/{run}/rehearsal"
    client.good("POST", path)
    found = client.until(path, lambda answer: answer["state"] in ENDED)
    assert found["state"] == "done", found["error"]
    return found


def test_a_file_is_played_beside_another_of_its_master(client: Client, runs: list[int]) -> None:
    before = client.good("GET", f"/api/runs/{runs[0]}/rehearsal")
    assert (before["state"], before["played"], before["hindrance"]) == ("none", [], None)
    first = played(client, runs[0])
    assert first["rate"] == 25 and first["frames"] == 25 and first["name"].endswith(".mov")
    assert {one["way"] for one in first["played"]} == {way["key"] for way in first["ways"]}
    assert first["beside"] == []
    assert first["asked"] | {"said": ""} == before["asked"] | {"said": ""}
    assert first["asked"]["layers"] == 2 and first["asked"]["source"] == "4"
    assert first["asked"]["short"] == []  # all may be late
    second = played(client, runs[1])
    (other,) = second["beside"]
    assert other["run"] == runs[0]
    for one in first["played"]:
        assert [len(layer) for layer in one["frames"]] == [one["shown"]] * one["layers"]
    assert [one | {"waits": [], "frames": []} for one in first["played"]] == other["played"]
    assert second["name"].endswith(".avi") and second["asked"] is None


def test_what_comes_late_of_what_is_asked_is_named(
    client: Client, runs: list[int], installation: Installation
) -> None:
    played(client, runs[0])
    with installation.database.session() as session:
        (row,) = session.scalars(select(Rehearsal).where(Rehearsal.run_id == runs[0]))
        ways = [one | {"late": one["shown"] + 1} for one in row.found["played"]]
        row.found = row.found | {"played": ways}
    found = client.good("GET", f"/api/runs/{runs[0]}/rehearsal")
    assert found["asked"]["short"] == ["forwards", "random"]


def test_where_nothing_was_made_that_is_said(
    client: Client, tiny_master: Any, runs: list[int], installation: Installation
) -> None:
    status, _, _ = client.call("GET", "/api/runs/999999/rehearsal")
    assert status == 404
    with installation.database.session() as session:
        run = session.get_one(rehearsing.Run, runs[0])
        run.state, kept = "failed", run.state
    try:
        found = client.good("GET", f"/api/runs/{runs[0]}/rehearsal")
        assert "made no file" in found["hindrance"]["what"]
        assert client.call("POST", f"/api/runs/{runs[0]}/rehearsal")[0] == 409
    finally:
        with installation.database.session() as session:
            session.get_one(rehearsing.Run, runs[0]).state = kept


def forget(installation: Installation, run: int) -> None:
    with installation.database.session() as session:
        session.execute(delete(Rehearsal).where(Rehearsal.run_id == run))


def test_one_that_goes_on_is_stopped_and_one_that_was_lost_taken_up(
    client: Client, installation: Installation, runs: list[int]
) -> None:
    path = f"/api/runs/{runs[1]}/rehearsal"
    forget(installation, runs[1])
    assert client.call("POST", f"{path}/cancel")[0] == 409
    id = held(installation, rehearsing.STUDY, runs[1], "rehearsing")
    assert client.good("POST", f"{path}/cancel")["state"] == "stopping"
    rehearsing.STUDY.carry_out(installation.database, installation.folders, id)
    assert client.good("GET", path)["state"] == "cancelled"
    forget(installation, runs[1])
    with installation.database.session() as session:
        session.add(Rehearsal(run_id=runs[1], state="rehearsing"))
    reconcile(installation.database, installation.folders)
    assert client.until(path, lambda answer: answer["state"] in ENDED)["state"] == "done"
