"""The range of its master that a deliverable takes, through the API."""

from __future__ import annotations

from collections.abc import Callable
from io import BytesIO
from typing import Any

import numpy as np
import pytest
from chosen import place_of
from client import Client
from PIL import Image
from specs_here import document

from clips import Picture, moving_bar

ROWS = [
    {"property": "picture.codec", "rule": {"is": "prores"}, "source": "1"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "2"},
]
LENGTH = {"property": "file.duration", "rule": {"one_of": ["2 s", "4 s"]}, "source": "3"}
BLACK, FRAMES = 20, 70  # frames of black at either end, and in all


@pytest.fixture(scope="module")
def spots(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("spots", requirements=[*ROWS, LENGTH]))
    return "spots"


@pytest.fixture(scope="module")
def film(client: Client, inbox: Any, clip: Callable[..., Any]) -> Any:
    """Black, then something that moves, then black."""
    shown = moving_bar()

    def draw(time: float) -> Picture:
        inside = BLACK <= round(time * 25) < FRAMES - BLACK
        return shown(time) if inside else np.zeros((180, 320, 3), np.uint8)

    return client.ingest(inbox.parent, clip("spot.mov", draw=draw, frames=FRAMES))


@pytest.fixture
def item(client: Client, spots: str, film: Any) -> Any:
    return client.crate(spots, film["id"])["deliverables"][0]


def shown(client: Client, item: Any) -> Any:
    return client.good("GET", f"{place_of(item)}/range")


def take(client: Client, item: Any, first: int, frames: int) -> Any:
    body = {"first": first, "frames": frames}
    return client.good("PUT", f"{place_of(item)}/range", body)["deliverables"][0]


def test_it_is_made_as_long_as_asked_by_black_alone(client: Client, item: Any) -> None:
    before = shown(client, item)
    assert (before["first"], before["frames"], before["whole"]) == (0, FRAMES, FRAMES)
    assert before["clear"] == {"first": BLACK, "frames": FRAMES - 2 * BLACK}
    assert before["seconds"] == 2.8 and not before["holds"]
    # Twenty frames too many for two seconds: all of the black at the end.
    fitted = before["fitted"]
    assert fitted == {"first": 0, "frames": 50, "black": 0}
    after = take(client, item, fitted["first"], fitted["frames"])
    rows = {row["property"]: row for row in after["rows"]}
    assert rows["file.duration"]["route"]["verdict"] == "meets"
    assert after["frames"] == 50 and shown(client, item)["holds"]
    # Its name is still the master's.
    assert after["name"] == item["name"] and after["item"] == "spot.mov"
    back = client.good("POST", f"{place_of(item)}/undo")["deliverables"][0]
    assert (back["first"], back["frames"]) == (0, FRAMES)
    again = client.good("POST", f"{place_of(item)}/redo")["deliverables"][0]
    assert again["frames"] == 50 and not again["can_redo"]


def test_one_that_is_too_short_is_offered_black(client: Client, item: Any) -> None:
    take(client, item, BLACK, FRAMES - 2 * BLACK)
    found = shown(client, item)
    assert found["clear"] == {"first": BLACK, "frames": FRAMES - 2 * BLACK}
    assert found["fitted"]["black"] == 0.8
    body = {"property": "tail", "value": "0.8 s"}
    made = client.good("PATCH", place_of(item), body)["deliverables"][0]
    assert made["frames"] == 50 and shown(client, item)["holds"]


def test_the_picture_shown_is_that_of_the_range(client: Client, item: Any) -> None:
    def first() -> float:
        data = client.good("GET", f"{place_of(item)}/planned-places/0?width=160")
        return float(np.asarray(Image.open(BytesIO(bytes(data))).convert("L")).mean())

    assert first() < 2
    take(client, item, BLACK, 10)
    assert first() > 20


@pytest.mark.parametrize(
    ("first", "frames", "says"),
    [(0, FRAMES + 1, "the last one is 69"), (FRAMES, 1, "the last one is 69"), (-1, 5, "first")],
)
def test_what_lies_outside_is_refused(
    client: Client, item: Any, first: int, frames: int, says: str
) -> None:
    body = {"first": first, "frames": frames}
    status, problem, _ = client.call("PUT", f"{place_of(item)}/range", body)
    assert status == 422 and says in problem["detail"]
    assert shown(client, item)["frames"] == FRAMES


def test_what_is_left_out_in_between_is_joined(client: Client, item: Any) -> None:
    def put(first: int, frames: int, *pieces: tuple[int, int]) -> Any:
        left_out = [{"first": at, "frames": count} for at, count in pieces]
        body = {"first": first, "frames": frames, "left_out": left_out}
        return client.good("PUT", f"{place_of(item)}/range", body)["deliverables"][0]

    # What lies at its end is cut off it, and what is given twice counts once.
    made = put(10, 50, (30, 5), (33, 3), (55, 5))
    found = shown(client, item)
    assert (found["first"], found["frames"], found["taken"]) == (10, 45, 39)
    assert found["left_out"] == [{"first": 30, "frames": 6}]
    assert made["frames"] == 39 and found["seconds"] == 1.56
    assert made["first"] == 10 and made["left_out"] == found["left_out"]
    assert made["master_frames"] == 39
    assert any("10 to 29 and 36 to 54" in step["reason"] for step in made["steps"])
    # A shorter range keeps what is still within it left out.
    assert put(32, 10, (30, 6))["frames"] == 6
    back = client.good("POST", f"{place_of(item)}/undo")["deliverables"][0]
    assert back["frames"] == 39 and shown(client, item)["left_out"] == found["left_out"]
    body = {"first": 0, "frames": 5, "left_out": [{"first": 0, "frames": 9}]}
    status, problem, _ = client.call("PUT", f"{place_of(item)}/range", body)
    assert status == 422 and "Nothing is left" in problem["detail"]
    assert shown(client, item)["taken"] == 39


def test_joined_it_is_no_copy(client: Client, film: Any, save_for_all: Any) -> None:
    save_for_all(document("spots-joined", requirements=[ANY]))
    one = client.crate("spots-joined", film["id"])["deliverables"][0]
    body = {"first": 0, "frames": 40, "left_out": [{"first": 10, "frames": 10}]}
    client.good("PUT", f"{place_of(one)}/range", body)
    wanted = {"property": "picture", "value": "copied"}
    made = client.good("PATCH", place_of(one), wanted)["deliverables"][0]
    told = [caution for caution in made["cautions"] if caution["blocks"]]
    assert "Ranges are joined, which needs encoding." in str(told)


def test_a_copy_begins_where_it_can(client: Client, film: Any, save_for_all: Any) -> None:
    save_for_all(document("spots-copied", requirements=[ANY]))
    one = client.crate("spots-copied", film["id"])["deliverables"][0]
    client.good("PATCH", place_of(one), {"property": "picture", "value": "copied"})
    body = {"first": 30, "frames": 20}
    made = client.good("PUT", f"{place_of(one)}/range", body)["deliverables"][0]
    assert made["choices"]["picture"] == "copied"
    # A copy begins with a key frame: it may be longer than what was asked.
    assert made["frames"] >= 20 and not [c for c in made["cautions"] if c["blocks"]]


ANY = {"property": "file.duration", "rule": {"at_least": "0.1 s"}, "source": "1"}
