"""Ranges framed otherwise, through the API: chosen, shown at a frame, refused, carried over."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from chosen import choose, place_of
from client import Client
from specs_here import document

from clips import moving_bar

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "160x90"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mp4"}, "source": "3"},
]
PART = "160 x 180 + 80 + 0"
TEXT = f"5-9: {PART}, crop; 15-19: stretch"
RECT = {"x": 80, "y": 0, "width": 160, "height": 180}
WHOLE = {"x": 0, "y": 0, "width": 320, "height": 180}


@pytest.fixture(scope="module")
def asked(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("reframed", requirements=ROWS))
    return "reframed"


@pytest.fixture
def crate(client: Client, asked: str, tiny_master: Any) -> Any:
    return client.crate(asked, tiny_master["id"], tiny_master["id"])


@pytest.fixture
def item(crate: Any) -> Any:
    return crate["deliverables"][0]


def framing(client: Client, item: Any, frame: int | None = None) -> Any:
    at = "" if frame is None else f"?frame={frame}"
    return client.good("GET", f"{place_of(item)}/framing{at}")


def test_a_range_has_a_framing_of_its_own(client: Client, item: Any) -> None:
    assert item["choices"]["reframed"] == ""
    item = choose(client, item, "reframed", TEXT)
    assert item["choices"]["reframed"] == TEXT
    assert any(s["title"] == "2 ranges are framed otherwise" for s in item["steps"])
    usual, cut, still_usual = (framing(client, item, frame) for frame in (None, 7, 12))
    assert usual["within"] is None and still_usual["within"] is None and cut["within"] == 0
    assert usual["region"] == still_usual["region"] == WHOLE and cut["region"] == RECT
    assert (usual["framing"], cut["framing"]) == ("pad", "crop")
    assert usual["seen"] != cut["seen"]
    assert [(one["first"], one["last"]) for one in usual["reframed"]] == [(5, 9), (15, 19)]
    assert framing(client, item, 17)["framing"] == "stretch"
    # What is set of the rest stays apart.
    choose(client, item, "region", "200 x 180 + 0 + 0")
    assert framing(client, item, 7)["region"] == RECT
    assert framing(client, item)["region"]["width"] == 200


def test_the_frame_shown_is_that_of_its_range(client: Client, item: Any) -> None:
    def shown(frame: int) -> bytes:
        return bytes(client.good("GET", f"{place_of(item)}/planned/{frame}?width=160"))

    before = [shown(frame) for frame in (4, 7)]
    choose(client, item, "reframed", f"5-9: {PART}, crop")
    assert shown(4) == before[0] and shown(7) != before[1]
    of_all = shown(7)
    choose(client, item, "reframed", None)
    assert shown(7) == before[1]
    choose(client, item, "region", PART)
    choose(client, item, "framing", "crop")
    assert shown(7) == of_all


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("5-9", "no range"),
        ("5-9: 2000 x 180 + 0 + 0", "does not lie within"),
        ("5-9: 161 x 180 + 0 + 0", "move colour"),
        ("20-25: crop", "last frame, 24"),
        ("5-9: crop; 8-12: pad", "overlap"),
    ],
)
def test_what_is_no_range_is_refused(client: Client, item: Any, text: str, says: str) -> None:
    asked = {"property": "reframed", "value": text}
    status, problem, _ = client.call("PATCH", place_of(item), asked)
    assert status == 422 and says in problem["detail"], problem
    assert problem["way_out"]


def test_ranges_are_carried_over_and_not_kept_for_the_house(
    client: Client, asked: str, tiny_master: Any, inbox: Any, clip: Callable[..., Any]
) -> None:
    film = clip("another to frame.mov", frames=25, draw=moving_bar((320, 180)), tones=None)
    other = client.ingest(inbox.parent, film)
    crate = client.crate(asked, tiny_master["id"], other["id"])
    one, two = crate["deliverables"]
    choose(client, one, "reframed", TEXT)
    body = {"to": [two["id"]], "keys": ["framing", "reframed"]}
    made = client.good("POST", f"{place_of(one)}/carry-over", body)
    assert made["to"] == [two["item"]] and made["left_out"] == []
    after = client.good("GET", f"/api/crates/{crate['id']}")["deliverables"][1]
    assert after["chosen"] == {"reframed": TEXT}
    status, problem, _ = client.call("PUT", f"{place_of(one)}/house", {"keys": ["reframed"]})
    assert status == 422 and "house could keep" in problem["detail"]
