"""The planning bench through the API: framing, choices taken back, carried over."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from itertools import pairwise
from typing import Any

import pytest
from chosen import choose, place_of
from client import Client
from specs_here import document

from clips import moving_bar
from counting import numbered

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "160x90"}, "source": "2"},
    {"property": "picture.pixel_aspect", "rule": {"is": "1"}, "source": "3"},
    {"property": "file.wrapper", "rule": {"is": "mp4"}, "source": "4"},
]
LESSON = {"matches": "l[0-9]{2}", "note": "The lesson."}
NAMED = {"name": "{lesson}_{master}", "asked": "must", "fields": {"lesson": LESSON}}
PART = "160 x 180 + 80 + 0"


@pytest.fixture(scope="module")
def asked(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("bench", requirements=ROWS))
    return "bench"


@pytest.fixture
def item(client: Client, asked: str, tiny_master: Any) -> Any:
    return client.crate(asked, tiny_master["id"])["deliverables"][0]


def framing(client: Client, item: Any) -> Any:
    return client.good("GET", f"{place_of(item)}/framing")


def test_a_part_of_the_picture_is_taken(client: Client, item: Any) -> None:
    before = framing(client, item)
    whole = {"x": 0, "y": 0, "width": 320, "height": 180}
    assert before["region"] == before["picture"] == before["seen"]["crop"] == whole
    assert before["seen"]["roundness"] == 1 and before["columns"] == before["lines"] == 2
    choose(client, item, "region", PART)
    after = framing(client, item)
    part = {"x": 80, "y": 0, "width": 160, "height": 180}
    assert after["region"] == after["seen"]["crop"] == part
    # 160:180 in 160x90 is 80x90 between bars.
    assert after["seen"]["place"] == {"x": 40, "y": 0, "width": 80, "height": 90}
    offered = {part["label"]: part["region"] for part in after["parts"]}
    assert offered["1:1"] == {"x": 70, "y": 0, "width": 180, "height": 180}
    assert offered["the frame's shape"] == whole


def test_the_frame_shown_is_that_of_the_part(client: Client, item: Any) -> None:
    def shown(width: int = 160) -> bytes:
        address = f"{place_of(item)}/planned/12?width={width}"
        return bytes(client.good("GET", address))

    before = shown()
    choose(client, item, "region", PART)
    assert shown() != before
    choose(client, item, "region", None)
    assert shown() == before


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("161 x 180 + 80 + 0", "Choose 162 x 180 + 80 + 0."),
        ("160 x 180 + 200 + 0", "such as 320 x 180 + 0 + 0"),
        ("left half", "such as 1920 x 800 + 0 + 140"),
    ],
)
def test_what_is_no_part_is_refused(client: Client, item: Any, text: str, says: str) -> None:
    body = {"property": "region", "value": text}
    status, problem, _ = client.call("PATCH", place_of(item), body)
    assert status == 422 and says in problem["way_out"]
    assert framing(client, item)["region"] == framing(client, item)["picture"]


def test_choices_are_taken_back_and_chosen_again(client: Client, item: Any) -> None:
    assert not item["can_undo"] and not item["can_redo"]
    choose(client, item, "framing", "crop")
    # What changes nothing is no step.
    choose(client, item, "framing", "crop")
    chosen = choose(client, item, "region", PART)["chosen"]

    def step(way: str) -> Any:
        return client.good("POST", f"{place_of(item)}/{way}")["deliverables"][0]

    assert step("undo")["chosen"] == {"framing": "crop"}
    first = step("undo")
    assert first["chosen"] == {} and not first["can_undo"] and first["can_redo"]
    status, problem, _ = client.call("POST", f"{place_of(item)}/undo")
    assert status == 409 and problem["way_out"]
    assert step("redo")["chosen"] == {"framing": "crop"}
    last = step("redo")
    assert last["chosen"] == chosen and not last["can_redo"]
    step("undo")
    # Whoever chooses anew leaves what was gone back from.
    assert not choose(client, item, "framing", "stretch")["can_redo"]


def test_framing_is_carried_over(
    client: Client, asked: str, tiny_master: Any, inbox: Any, clip: Callable[..., Any]
) -> None:
    small = clip("small.mov", frames=5, draw=moving_bar((128, 96)), tones=None)
    other = client.ingest(inbox.parent, small, "small for the bench.mov")
    crate = client.crate(asked, tiny_master["id"], other["id"])
    one, two = crate["deliverables"]
    choose(client, one, "region", PART)
    choose(client, one, "framing", "crop")
    body = {"to": [two["id"]], "keys": ["framing", "region"]}
    made = client.good("POST", f"{place_of(one)}/carry-over", body)
    assert made["to"] == [two["item"]]
    [left] = made["left_out"]
    assert left["what"] == f"region {PART}" and "does not lie within" in left["why"]
    after = client.good("GET", f"/api/crates/{crate['id']}")["deliverables"][1]
    assert after["chosen"] == {"framing": "crop"} and after["can_undo"]


def test_only_others_of_the_crate_take_choices(client: Client, item: Any) -> None:
    for to in ([], [item["id"]], [987654]):
        status, problem, _ = client.call("POST", f"{place_of(item)}/carry-over", {"to": to})
        assert status == 422 and problem["way_out"]


def test_a_picture_is_framed_before_its_name_is_known(
    client: Client, save_for_all: Callable[..., Any], tiny_master: Any
) -> None:
    save_for_all(document("bench-named", requirements=ROWS, delivery=NAMED))
    item = client.crate("bench-named", tiny_master["id"])["deliverables"][0]
    assert any(c["blocks"] for c in item["cautions"])
    assert framing(client, item)["seen"]["width"] == 160
    assert client.call("GET", f"{place_of(item)}/planned/12?width=160")[0] == 200
    status, problem, _ = client.call("POST", f"/api/deliverables/{item['id']}/runs")
    assert status == 409 and "name" in problem["detail"]


@pytest.fixture(scope="module")
def television(save_for_all: Callable[..., Any]) -> str:
    rate = {"property": "motion.rate", "rule": {"is": "25"}, "source": "5"}
    save_for_all(document("bench-25", requirements=[*ROWS, rate]))
    return "bench-25"


@pytest.fixture(scope="module")
def film(client: Client, inbox: Any, clip: Callable[..., Any]) -> Any:
    """Two seconds of 24 a second, whose frames carry their numbers."""
    path = clip("film of 24.mov", draw=numbered(24), rate=Fraction(24), frames=48)
    return client.ingest(inbox.parent, path)


def motion(client: Client, item: Any, place: int = 0) -> Any:
    return client.good("GET", f"{place_of(item)}/motion?place={place}&count=13")


def test_a_film_is_taken_faster(client: Client, television: str, film: Any) -> None:
    item = client.crate(television, film["id"])["deliverables"][0]
    before = motion(client, item, 5)
    assert before["natural"] == "25" and before["own"]["rate"] == "24"
    assert before["made"] == {"rate": "25", "frames": 50, "seconds": 2.0, "fields": False}
    # Half way to the next second one of the 24 is shown again.
    sources = [shown["source"] for shown in before["strip"]]
    assert len(sources) == 13 and len(set(sources)) == 12
    item = choose(client, item, "speed", "25")
    after = motion(client, item, 5)
    assert after["made"]["frames"] == 48 and after["made"]["seconds"] == 1.92
    assert [shown["source"] for shown in after["strip"]] == list(range(5, 18))
    assert item["choices"]["pitch"] == "kept"
    status, problem, _ = client.call("PATCH", place_of(item), {"property": "speed", "value": "30"})
    assert status == 422 and "1.25 times" in problem["detail"]


def test_a_film_is_mixed_for_another_rate(client: Client, television: str, film: Any) -> None:
    item = client.crate(television, film["id"])["deliverables"][0]
    assert item["choices"]["retime"] == ""
    assert all(shown["other"] is None for shown in motion(client, item)["strip"])
    item = choose(client, item, "retime", "blended")
    assert [s["title"] for s in item["steps"] if s["title"].endswith("blended")]
    first, second, *_ = motion(client, item)["strip"]
    assert (first["source"], first["other"], first["share"]) == (0, None, 0)
    # The second frame lies at 24/25 of one.
    assert (second["source"], second["other"], second["share"]) == (0, 1, 0.96)
    assert not second["followed"]
    status, problem, _ = client.call(
        "PATCH", place_of(item), {"property": "retime", "value": "melted"}
    )
    assert status == 422 and "blended" in problem["way_out"]


def test_motion_is_followed_for_another_rate(client: Client, television: str, film: Any) -> None:
    item = client.crate(television, film["id"])["deliverables"][0]
    item = choose(client, item, "retime", "compensated")
    assert [s["title"] for s in item["steps"] if s["title"].endswith("motion followed")]
    assert any("Following motion takes about" in c["what"] for c in item["cautions"])
    second = motion(client, item)["strip"][1]
    assert (second["source"], second["other"], second["followed"]) == (0, 1, True)
    place = f"{place_of(item)}/planned-places"
    shown = [client.good("GET", f"{place}/{n}?width=160") for n in (1, 2)]
    choose(client, item, "retime", "blended")
    assert [client.good("GET", f"{place}/{n}?width=160") for n in (1, 2)] != shown


def test_levels_are_brought_within_limits(client: Client, item: Any) -> None:
    item = choose(client, item, "levels", "legal")
    assert "Levels brought within EBU R 103" in [s["title"] for s in item["steps"]]
    assert item["choices"]["levels"] == "legal"
    item = choose(client, item, "levels", None)
    assert "Levels brought within EBU R 103" not in [s["title"] for s in item["steps"]]


def test_the_frame_at_a_place_is_shown(client: Client, television: str, film: Any) -> None:
    item = client.crate(television, film["id"])["deliverables"][0]

    def shown(address: str) -> bytes:
        return bytes(client.good("GET", f"{place_of(item)}/{address}?width=160"))

    strip = motion(client, item, 5)["strip"]
    again = next(b for a, b in pairwise(strip) if a["source"] == b["source"])["place"]
    assert shown(f"planned-places/{again}") == shown(f"planned-places/{again - 1}")
    assert shown(f"planned-places/{again}") != shown(f"planned-places/{again + 1}")
    assert client.call("GET", f"{place_of(item)}/planned-places/49?width=160")[0] == 200


def test_what_becomes_of_the_colour_is_said_and_why(
    client: Client, asked: str, save_for_all: Callable[..., Any], tiny_master: Any
) -> None:
    deep = [
        {"property": "picture.codec", "rule": {"is": "prores"}, "source": "1"},
        {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "2"},
    ]
    save_for_all(document("bench-deep", requirements=deep))
    one = client.crate("bench-deep", tiny_master["id"])["deliverables"][0]
    found = client.good("GET", f"{place_of(one)}/colour")
    rows = {row["key"]: row for row in found["rows"]}
    depth, alpha = rows["picture.bit_depth"], rows["picture.alpha"]
    assert (depth["master"], depth["made"]) == ("8 bit", "10 bit")
    assert "ProRes" in depth["why"] and not alpha["why"]
    assert found["clear"] is False and found["shape"] == pytest.approx(16 / 9)
    alike = client.crate(asked, tiny_master["id"])["deliverables"][0]
    same = client.good("GET", f"{place_of(alike)}/colour")["rows"]
    assert not any(row["why"] for row in same if row["key"] == "picture.bit_depth")
