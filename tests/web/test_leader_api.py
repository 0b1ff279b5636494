"""What stands around a programme, and what is burnt into it, through the API: chosen, told of,
shown, taken back.
"""

from __future__ import annotations

from collections.abc import Callable
from io import BytesIO
from typing import Any

import numpy as np
import pytest
from chosen import choose, place_of
from client import Client
from PIL import Image
from specs_here import document

ROWS = [
    {"property": "picture.codec", "rule": {"is": "prores"}, "source": "1"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "2"},
    {"property": "motion.leader", "rule": {"is": "20 s"}, "severity": "should", "source": "3"},
    {"property": "motion.slate", "rule": {"at_least": "4 s"}, "severity": "should", "source": "4"},
]
ANY = {"property": "file.duration", "rule": {"at_least": "1 s"}, "source": "1"}
ASKED = "bars 6 s, slate 4 s, black 10 s"


@pytest.fixture(scope="module")
def led(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("led", requirements=ROWS))
    return "led"


@pytest.fixture
def item(client: Client, led: str, tiny_master: Any) -> Any:
    return client.crate(led, tiny_master["id"])["deliverables"][0]


def ends(client: Client, item: Any) -> Any:
    return client.good("GET", f"{place_of(item)}/ends")


def test_what_the_spec_asks_is_offered_and_set(client: Client, item: Any) -> None:
    before = ends(client, item)
    assert before["asked"] == ASKED
    own = [(s["kind"], s["first"], s["frames"]) for s in before["stretches"]]
    assert own == [("programme", 0, item["frames"])]
    set_so = choose(client, item, "leader", before["asked"])
    choose(client, item, "tail", "2 s")
    after = ends(client, item)
    found = [(s["kind"], s["first"], s["frames"]) for s in after["stretches"]]
    rate = int(after["rate"])
    frames = item["frames"]
    assert found == [
        ("bars", 0, 6 * rate),
        ("slate", 6 * rate, 4 * rate),
        ("black", 10 * rate, 10 * rate),
        ("programme", 20 * rate, frames),
        ("black", 20 * rate + frames, 2 * rate),
    ]
    rows = {row["property"]: row for row in set_so["rows"]}
    told = [rows[key]["route"] for key in ("motion.leader", "motion.slate")]
    assert [one["verdict"] for one in told] == ["meets", "meets"]
    assert [one["found"] for one in told] == ["about 20 s", "about 4 s"]
    client.good("POST", f"{place_of(item)}/undo")
    client.good("POST", f"{place_of(item)}/undo")
    assert ends(client, item) == before


def test_what_stands_there_is_shown_where_it_will_stand(client: Client, item: Any) -> None:
    choose(client, item, "leader", "bars 1 s, slate 1 s, black 1 s")

    def shown(place: int) -> np.ndarray:
        data = client.good("GET", f"{place_of(item)}/planned-places/{place}?width=160")
        return np.asarray(Image.open(BytesIO(bytes(data))).convert("RGB"), np.int16)

    bars = shown(0)
    middle = bars[len(bars) // 2]
    # White at the left, black at the right, and yellow beside the white.
    assert middle[5].min() > 230 and middle[-5].max() < 25
    assert middle[30, 2] < 60 < 150 < middle[30, 0]
    slate, black = shown(30), shown(60)
    assert slate.max() > 100 and slate.mean() < 90 and black.max() < 8
    strip = client.good("GET", f"{place_of(item)}/motion?place=74&count=3")["strip"]
    assert [one["standing"] for one in strip] == ["black", None, None]
    assert [one["source"] for one in strip][1:] == [0, 1]


def test_what_is_burnt_in_is_shown_and_taken_back(client: Client, item: Any) -> None:
    def shown() -> bytes:
        return bytes(client.good("GET", f"{place_of(item)}/planned-places/20?width=320"))

    bare = shown()
    one = choose(client, item, "burn_in", "timecode, name")
    assert one["choices"]["burn_in"] == "timecode, name"
    assert "Burnt in: timecode, name" in [step["title"] for step in one["steps"]]
    labelled = shown()
    assert choose(client, item, "watermark", "For review")["choices"]["watermark"] == "For review"
    assert len({bare, labelled, shown()}) == 3
    client.good("POST", f"{place_of(item)}/undo")
    client.good("POST", f"{place_of(item)}/undo")
    assert shown() == bare


@pytest.mark.parametrize(
    ("key", "value", "says"),
    [
        ("burn_in", "clock", "'clock' is not burnt in"),
        ("watermark", "x" * 61, "61 letters"),
        ("leader", "stripes 3 s", "'stripes 3 s' is no part"),
        ("leader", "bars 3000 s", "600 s"),
        ("tail", "-1 s", "0 to 600"),
    ],
)
def test_what_is_no_leader_is_refused(
    client: Client, item: Any, key: str, value: str, says: str
) -> None:
    status, problem, _ = client.call("PATCH", place_of(item), {"property": key, "value": value})
    told = f"{problem['detail']} {problem['way_out']}"
    assert status == 422 and says in told


def test_nothing_is_set_around_what_is_copied(
    client: Client, save_for_all: Callable[..., Any], tiny_master: Any
) -> None:
    save_for_all(document("led-as-it-is", requirements=[ANY]))
    one = client.crate("led-as-it-is", tiny_master["id"])["deliverables"][0]
    assert one["choices"]["picture"] == "copied" and "leader" not in one["choices"]
    again = choose(client, one, "leader", "black 1 s")
    # It needs encoding, which is said.
    assert again["choices"]["picture"] == "encoded"
    assert ends(client, one)["stretches"][0]["kind"] == "black"
