"""A deliverable whose sound comes from another master, in its crate."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from client import Client, soon
from specs_here import document

from clips import Clip
from support import Installation
from tones import sine, write

ROWS = [
    {"property": "picture.codec", "rule": {"is": "prores"}, "source": "1"},
    {"property": "sound.layout", "rule": {"same_as": "master"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "3"},
]
WITH_TIMECODE = "10:00:00:10"


@pytest.fixture(scope="module")
def films(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("films-with-sound", requirements=ROWS))
    return "films-with-sound"


@pytest.fixture
def mix(client: Client, installation: Installation, tmp_path: Path) -> Any:
    path = write(tmp_path / "mix_mono.wav", [sine(-20, 1)], "mono")
    return client.ingest(installation.folders.intake[0], path)


@pytest.fixture
def crate(client: Client, tiny_master: Any, films: str) -> Any:
    return client.crate(films, tiny_master["id"])


def take(client: Client, crate: Any, master: int | None) -> Any:
    one = crate["deliverables"][0]["id"]
    return client.good("PUT", f"/api/crates/deliverables/{one}/sound", {"master": master})


def found(page: Any, key: str) -> str:
    row = next(r for r in page["deliverables"][0]["rows"] if r["property"] == key)
    return str(row["file"]["found"])


def test_the_sound_of_another_goes_out_and_back(client: Client, crate: Any, mix: Any) -> None:
    crate = client.run_to_end(crate["id"])
    assert found(crate, "sound.layout") == "stereo"
    crate = take(client, crate, mix["id"])
    one = crate["deliverables"][0]
    assert one["sound"] == {"id": mix["id"], "name": "mix_mono.wav"} and one["stale"]
    crate = client.run_to_end(crate["id"])
    assert found(crate, "sound.layout") == "mono" and not crate["deliverables"][0]["stale"]
    assert any(crate["title"] in used for used in client.good("GET", mix_page(mix))["crates"])
    crate = take(client, crate, None)
    assert crate["deliverables"][0]["sound"] is None and crate["deliverables"][0]["stale"]


def mix_page(mix: Any) -> str:
    return f"/api/masters/{mix['id']}"


def test_what_it_is_made_of_is_watched(
    client: Client, installation: Installation, crate: Any, mix: Any
) -> None:
    crate = take(client, crate, mix["id"])
    status, said, _ = client.call("DELETE", mix_page(mix))
    assert status == 409 and "is in crate" in said["detail"]
    crate = client.run_to_end(crate["id"])
    assert crate["deliverables"][0]["verdict"] == "meets"
    # Another file in its place is another sound: what was made of it counts no more.
    write(installation.folders.intake[0] / "mix_mono.wav", [sine(-20, 1, 500)], "mono")
    page = f"/api/crates/{crate['id']}"

    def noticed() -> bool:
        client.good("GET", mix_page(mix))
        return bool(client.good("GET", page)["deliverables"][0]["trouble"])

    assert soon(noticed)
    client.good("POST", f"{mix_page(mix)}/read")
    client.until(mix_page(mix), lambda m: m["state"] == "ready")
    crate = client.until(page, lambda c: c["deliverables"][0]["trouble"] is None)
    assert crate["deliverables"][0]["stale"]
    assert client.run_to_end(crate["id"])["deliverables"][0]["verdict"] == "meets"


def test_a_new_revision_keeps_it(client: Client, crate: Any, mix: Any) -> None:
    take(client, crate, mix["id"])
    client.run_to_end(crate["id"])
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    again = client.good("POST", f"/api/crates/{crate['id']}/revisions")
    assert again["deliverables"][0]["sound"]["id"] == mix["id"]


def test_what_is_laid_is_chosen_where_it_matters(
    client: Client, installation: Installation, crate: Any, films: str, tmp_path: Path
) -> None:
    reels = []
    for name, timecode in (("reel_a.mov", "10:00:00:00"), ("reel_b.mov", WITH_TIMECODE)):
        path = Clip(about={"timecode": timecode}).write(tmp_path / name)
        reels.append(client.ingest(installation.folders.intake[0], path))
    crate = take(client, client.crate(films, reels[0]["id"]), reels[1]["id"])
    one = crate["deliverables"][0]
    assert one["choices"]["laid"] == "timecode" and len(one["options"]["laid"]) == 2
    change = {"property": "laid", "value": "start"}
    crate = client.good("PATCH", f"/api/crates/deliverables/{one['id']}", change)
    assert crate["deliverables"][0]["choices"]["laid"] == "start"
    crate = take(client, crate, None)
    assert "laid" not in crate["deliverables"][0]["choices"]
    status, said, _ = client.call("PATCH", f"/api/crates/deliverables/{one['id']}", change)
    assert status == 422 and "the master's own" in said["detail"]


def test_what_has_none_is_refused(client: Client, crate: Any, tiny_master: Any) -> None:
    one = crate["deliverables"][0]["id"]
    for master, words in ((tiny_master["id"], "the master itself"), (10**6, "There is no")):
        status, said, _ = client.call(
            "PUT", f"/api/crates/deliverables/{one}/sound", {"master": master}
        )
        assert status in {404, 409} and words in said["detail"], said
