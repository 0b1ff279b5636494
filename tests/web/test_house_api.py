"""What is chosen once is kept as the house's, and new crates begin with it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from chosen import place_of
from client import Client
from specs_here import document

from clips import moving_bar

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "320x320"}, "source": "2"},
    {"property": "picture.bit_rate", "rule": {"between": ["1 Mb/s", "8 Mb/s"]}, "source": "3"},
    {"property": "file.wrapper", "rule": {"is": "mp4"}, "source": "4"},
]


@pytest.fixture(scope="module")
def masters(client: Client, inbox: Any, clip: Callable[..., Any]) -> list[int]:
    films = [
        clip("house wide.mp4", draw=moving_bar((640, 360)), frames=12),
        clip("house tall.mp4", draw=moving_bar((360, 640)), frames=12),
    ]
    return [client.ingest(inbox.parent, film)["id"] for film in films]


@pytest.fixture
def spec(save_for_all: Callable[..., Any], request: pytest.FixtureRequest) -> str:
    name = f"house-{request.node.name.replace('_', '-')[:40]}"
    save_for_all(document(name, requirements=ROWS))
    return name


def choose(client: Client, item: Any, key: str, value: str) -> None:
    client.good("PATCH", place_of(item), {"property": key, "value": value})


def keep(client: Client, item: Any, *keys: str) -> Any:
    return client.good("PUT", f"{place_of(item)}/house", {"keys": list(keys)})


def test_new_crates_begin_with_it(client: Client, spec: str, masters: list[int]) -> None:
    one = client.crate(spec, masters[0])["deliverables"][0]
    choose(client, one, "framing", "crop")
    choose(client, one, "picture.bit_rate", "3 Mb/s")
    choose(client, one, "burn_in", "timecode")
    made = keep(client, one, "framing", "region", "picture.bit_rate")
    assert made == {"spec": spec, "version": 2, "chosen": True}
    page = client.good("GET", f"/api/specs/{spec}")
    assert page["document"]["begins_with"] == {"framing": "crop"}
    assert page["document"]["house"]["picture.bit_rate"]["value"] == "3 Mb/s"
    assert any("New crates begin with framing crop." in said for said in page["reading"]["coding"])
    # The crate keeps its own version; a new one begins so, and can be undone.
    fresh = client.crate(spec, masters[0])
    assert fresh["begins_with"] == {"framing": "crop"}
    item = fresh["deliverables"][0]
    assert item["chosen"] == {"framing": "crop"} and item["can_undo"]
    assert client.good("POST", f"{place_of(item)}/undo")["deliverables"][0]["chosen"] == {}
    again = client.good("POST", f"{place_of(item)}/house")
    assert again == {"to": [item["item"]], "left_out": []}
    client.good("PATCH", place_of(item), {"property": "framing", "value": None})
    # What is not chosen any more is the house's no more.
    assert keep(client, item, "framing") == {"spec": spec, "version": 3, "chosen": False}
    assert "begins_with" not in client.good("GET", f"/api/specs/{spec}")["document"]


def test_what_a_master_cannot_take_is_named(client: Client, spec: str, masters: list[int]) -> None:
    one = client.crate(spec, masters[0])["deliverables"][0]
    choose(client, one, "region", "360 x 360 + 200 + 0")
    keep(client, one)
    fresh = client.crate(spec, *masters)
    wide, tall = fresh["deliverables"]
    assert wide["chosen"] == {"region": "360 x 360 + 200 + 0"} and tall["chosen"] == {}
    assert [left for left in fresh["taken_back"] if left.startswith("region 360 x 360")]
    (left,) = client.good("POST", f"{place_of(tall)}/house")["left_out"]
    assert left["what"] == "region 360 x 360 + 200 + 0" and left["way_out"]


def test_what_is_one_masters_own_is_not_kept(client: Client, spec: str, masters: list[int]) -> None:
    one = client.crate(spec, masters[0])["deliverables"][0]
    status, problem, _ = client.call("PUT", f"{place_of(one)}/house", {"keys": []})
    assert status == 422 and "Nothing is chosen" in problem["detail"]
    choose(client, one, "framing", "crop")
    keep(client, one)
    status, problem, _ = client.call("PUT", f"{place_of(one)}/house", {"keys": ["framing"]})
    assert status == 409 and "already" in problem["detail"]
