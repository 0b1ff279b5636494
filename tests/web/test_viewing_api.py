"""A copy of a file and of what went into its encoder, through the API: ordered, given, stopped,
taken up again, cleared away, refused.
"""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import Any

import av
import pytest
from client import Client
from held import held
from specs_here import document

from ample_crate.store.models import Master, Run
from ample_crate.store.studied import Viewing
from ample_crate.work import housekeeping, viewing
from ample_crate.work.reconcile import reconcile
from support import Installation

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "160x90"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "3"},
]
ENDED = {"done", "failed", "cancelled"}


@pytest.fixture(scope="module")
def item(client: Client, tiny_master: Any, save_for_all: Callable[..., Any]) -> Any:
    save_for_all(document("viewed-h264", requirements=ROWS))
    crate = client.crate("viewed-h264", tiny_master["id"])
    return client.run_to_end(crate["id"])["deliverables"][0]


@pytest.fixture
def path(item: Any) -> str:
    return f"/api/runs/{item['run']['id']}/viewing"


def ended(client: Client, path: str) -> Any:
    return client.until(path, lambda answer: answer["state"] in ENDED)


def test_it_is_made_when_it_is_asked_for(client: Client, item: Any, path: str) -> None:
    none = client.good("GET", path)
    assert none["state"] == "none" and not none["there"] and none["hindrance"] is None
    assert client.call("GET", f"{path}/copy")[0] == 404
    client.good("POST", path)
    made = ended(client, path)
    assert made["state"] == "done" and made["there"], made["error"]
    assert (made["frames"], made["first"]) == (item["frames"], 0)
    status, data, _ = client.call("GET", f"{path}/copy")
    assert status == 200
    with av.open(io.BytesIO(data)) as film:
        stream = film.streams.video[0]
        assert (stream.width, stream.height) == (made["width"], 2 * made["height"])
        assert film.streams.audio[0].codec_context.channels == 4
    # Only a part of it, as a browser asks.
    status, part, _ = client.call("GET", f"{path}/copy", headers={"Range": "bytes=0-99"})
    assert status == 206 and part == data[:100]


def test_it_stays_as_long_as_its_row(client: Client, installation: Installation, path: str) -> None:
    folders = installation.folders
    stray = folders.proxies / "viewed-999999.mp4"
    stray.write_bytes(b"nobody's")
    housekeeping.tidy(installation.database, folders)
    assert not stray.exists() and client.good("GET", path)["there"]
    for file in folders.proxies.glob("viewed-*"):
        file.unlink()
    assert not client.good("GET", path)["there"]
    client.good("POST", path)
    assert ended(client, path)["there"]


def test_one_that_waits_is_stopped_and_one_that_goes_on_is_not_doubled(
    client: Client, installation: Installation, item: Any, path: str
) -> None:
    with installation.database.session() as session:
        session.delete(viewing.STUDY.of(session, item["run"]["id"]))
    id = held(installation, viewing.STUDY, item["run"]["id"], "waiting")
    again = client.good("POST", path)
    assert (again["id"], again["state"]) == (id, "waiting")
    assert client.good("POST", f"{path}/cancel")["state"] == "cancelled"
    status, answer, _ = client.call("POST", f"{path}/cancel")
    assert status == 409 and "No copy is going on" in answer["detail"]


def test_one_whose_worker_was_lost_is_made_again(
    client: Client, installation: Installation, item: Any, path: str
) -> None:
    with installation.database.session() as session:
        row = viewing.STUDY.of(session, item["run"]["id"])
        if row is None:
            row = Viewing(run_id=item["run"]["id"])
            session.add(row)
        row.state, row.found = "viewing", None
    reconcile(installation.database, installation.folders)
    assert ended(client, path)["there"]


def test_what_is_made_of_another_master_by_now_is_not_shown(
    client: Client, installation: Installation, item: Any, path: str
) -> None:
    with installation.database.session() as session:
        run = session.get_one(Run, item["run"]["id"])
        master = session.get_one(Master, run.deliverable.master_id)
        known, master.sha256 = master.sha256, "0" * 64
    try:
        told = client.good("GET", path)
        assert "another file" in told["hindrance"]["what"]
        assert client.call("POST", path)[0] == 409
    finally:
        with installation.database.session() as session:
            session.get_one(Master, master.id).sha256 = known
    assert client.call("GET", "/api/runs/999999/viewing")[0] == 404
