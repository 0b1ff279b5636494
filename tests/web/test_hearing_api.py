"""What is made of sound, through the API: its matrix, what was heard of it, before beside after."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from chosen import choose, place_of
from client import Client
from held import held
from specs_here import document

from ample_crate.store.studied import Hearing
from ample_crate.work import hearing
from ample_crate.work.reconcile import reconcile
from clips import moving_bar
from support import Installation
from tones import sine

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "file.wrapper", "rule": {"is": "mp4"}, "source": "2"},
    {"property": "sound.layout", "rule": {"is": "stereo"}, "source": "3"},
    {"property": "sound.loudness", "rule": {"is": "-5 LUFS", "tolerance": "0.5 LU"}},
]
ENDED = {"done", "failed", "cancelled"}
SECONDS = 3


@pytest.fixture(scope="module")
def specs(save_for_all: Callable[..., Any]) -> None:
    save_for_all(document("heard-stereo", requirements=ROWS))


@pytest.fixture(scope="module")
def film(client: Client, inbox: Any, clip: Callable[..., Any]) -> Any:
    """Left a tone at -20 dBFS, in the middle second at -6; right one at -30."""
    left, right = sine(-20, SECONDS, 997), sine(-30, SECONDS, 997)
    left[48000:96000] = sine(-6, 1, 997)
    path = clip(
        "tones.mov",
        draw=moving_bar(),
        frames=25 * SECONDS,
        sound=np.stack([left, right]).astype(np.float32),
        sound_codec="pcm_s24le",
    )
    return client.ingest(inbox.parent, path)


@pytest.fixture
def item(client: Client, specs: None, film: Any) -> Any:
    return client.crate("heard-stereo", film["id"])["deliverables"][0]


def heard(client: Client, item: Any) -> Any:
    path = f"{place_of(item)}/hearing"
    client.good("POST", path)
    found = client.until(path, lambda answer: answer["state"] in ENDED)
    assert found["state"] == "done", found["error"]
    return found["tracks"][0]


def test_the_matrix_is_shown_before_anything_is_heard(client: Client, item: Any) -> None:
    found = client.good("GET", f"{place_of(item)}/hearing")
    assert (found["state"], found["hindrance"], found["stale"]) == ("none", None, False)
    (track,) = found["tracks"]
    assert (track["taken"], track["made"]) == (["FL", "FR"], ["FL", "FR"])
    assert track["gains"] == [[0, None], [None, 0]]
    assert track["target"] == -5 and track["heard"] is None
    for rest in ("meters", "copy"):
        status, problem, _ = client.call("GET", f"{place_of(item)}/hearing/1/{rest}")
        assert status == 404 and problem["way_out"]


def test_sound_is_heard_before_it_is_coded(client: Client, item: Any) -> None:
    track = heard(client, item)["heard"]
    assert track["seconds"] == SECONDS and track["there"]
    assert track["made"]["loudness"] == pytest.approx(-5, abs=0.1)
    assert track["taken"]["most"] == pytest.approx([-6, -30], abs=0.1)
    assert len(track["taken"]["momentary"]) == len(track["held"]) == 10 * SECONDS
    # The loud second is held, and nothing else.
    assert track["most_held"] > 1 and track["worst"][0]["held"] == max(track["held"])
    assert 0.9 <= track["worst"][0]["seconds"] <= 2
    assert max(track["held"][:9] + track["held"][22:]) == 0
    meters = client.good("GET", f"{place_of(item)}/hearing/1/meters?first=5")
    assert meters["first"] == 5 and len(meters["held"]) == 10 * SECONDS - 5
    assert meters["taken"][0][0] == -20 and meters["taken"][0][10] == -6
    assert meters["made"][1][10] == pytest.approx(-30 + track["gain"] - track["most_held"], abs=1)
    assert client.good("GET", f"{place_of(item)}/hearing/1/meters?first=9000")["held"] == []
    assert client.call("GET", f"{place_of(item)}/hearing/2/meters")[0] == 404


def test_what_can_be_listened_to_comes_in_pieces(client: Client, item: Any) -> None:
    heard(client, item)
    path = f"{place_of(item)}/hearing/1/copy"
    status, part, head = client.call("GET", path, headers={"Range": "bytes=0-99"})
    assert status == 206 and len(part) == 100 and head["Content-Type"] == "video/mp4"
    assert bytes(part)[4:8] == b"ftyp"


def test_other_sound_was_not_heard(client: Client, item: Any) -> None:
    path = f"{place_of(item)}/hearing"
    before = heard(client, item)
    choose(client, item, "mix", "FL = FR; FR = FR")
    found = client.good("GET", path)
    assert found["stale"] and found["tracks"][0]["heard"] is None
    assert found["tracks"][0]["gains"] == [[None, 0], [None, 0]]
    assert client.call("GET", f"{path}/1/meters")[0] == 404
    choose(client, item, "mix", None)
    assert client.good("GET", path)["tracks"][0] == before
    status, problem, _ = client.call(
        "PATCH", place_of(item), {"property": "mix", "value": "left = FL"}
    )
    assert status == 422 and "no loudspeaker" in problem["detail"]


def test_what_is_copied_is_not_heard(client: Client, item: Any) -> None:
    client.good("PATCH", place_of(item), {"property": "loudness", "value": "untouched"})
    client.good("PATCH", place_of(item), {"property": "sound", "value": "copied"})
    found = client.good("GET", f"{place_of(item)}/hearing")
    assert "No sound is made" in found["hindrance"]["what"] and found["tracks"] == []
    assert client.call("POST", f"{place_of(item)}/hearing")[0] == 409


def test_one_that_goes_on_is_stopped(client: Client, installation: Installation, item: Any) -> None:
    path = f"{place_of(item)}/hearing"
    assert client.call("POST", f"{path}/cancel")[0] == 409
    id = held(installation, hearing.STUDY, item["id"], "hearing")
    assert client.good("POST", f"{path}/cancel")["state"] == "stopping"
    hearing.STUDY.carry_out(installation.database, installation.folders, id)
    assert client.good("GET", path)["state"] == "cancelled"


def test_one_whose_worker_was_lost_is_taken_up_again(
    client: Client, installation: Installation, item: Any
) -> None:
    with installation.database.session() as session:
        session.add(Hearing(deliverable_id=item["id"], state="hearing"))
    reconcile(installation.database, installation.folders)
    found = client.until(f"{place_of(item)}/hearing", lambda answer: answer["state"] in ENDED)
    assert found["state"] == "done" and found["tracks"][0]["heard"]


def test_what_was_cleared_away_is_said(
    client: Client, installation: Installation, item: Any
) -> None:
    heard(client, item)
    for file in installation.folders.proxies.glob("heard-*"):
        file.unlink()
    (track,) = client.good("GET", f"{place_of(item)}/hearing")["tracks"]
    assert track["heard"]["there"] is False and track["heard"]["made"]
    assert client.call("GET", f"{place_of(item)}/hearing/1/copy")[0] == 404
