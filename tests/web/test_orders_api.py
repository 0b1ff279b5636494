"""Orders that stand: what arrives goes by itself, and stops for a person where it must."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from client import Client
from specs_here import document

from ample_crate.store.standing import Order
from clips import moving_bar
from support import Installation

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}},
    {"property": "picture.size", "rule": {"is": "320x180"}},
    {"property": "picture.bit_rate", "rule": {"between": ["200 kb/s", "8 Mb/s"]}},
    {"property": "motion.rate", "rule": {"is": "25"}},
    {"property": "file.wrapper", "rule": {"is": "mp4"}},
]
NAMED = {"name": "spot_{number}", "fields": {"number": {"matches": "[0-9]{2}"}}}
SPEC = "ordered-spots"


@pytest.fixture(scope="module")
def spec(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document(SPEC, requirements=ROWS, delivery=NAMED))
    return SPEC


@pytest.fixture
def folder(installation: Installation, request: pytest.FixtureRequest) -> Iterator[Path]:
    place = installation.folders.intake[0] / request.node.name[:40]
    place.mkdir()
    yield place
    shutil.rmtree(place, ignore_errors=True)


@pytest.fixture
def write(
    client: Client, installation: Installation, folder: Path, spec: str
) -> Iterator[Callable[..., Any]]:
    """Keep orders over the test's folder, and forget them after it."""
    kept: list[str] = []

    def write(**more: Any) -> Any:
        said = {
            "id": f"spots-{len(kept)}-{abs(hash(folder.name)) % 10**6}",
            "title": "Spots",
            "source": {"folder": folder.name},
            "spec": spec,
            "name": {"pattern": "spot_{number}", "fields": {"number": "{number}"}},
        }
        made = client.good("PUT", "/api/orders", {"document": said | more})
        kept.append(made["id"])
        return client.good("POST", f"/api/orders/{made['id']}/switch", {"on": True})

    yield write
    for id in kept:
        client.call("POST", f"/api/orders/{id}/switch", {"on": False})
        assert client.call("DELETE", f"/api/orders/{id}")[0] == 200
    with installation.database.session() as session:
        assert not session.query(Order).filter(Order.id.in_(kept)).count()


@pytest.fixture(scope="module")
def films(clip: Callable[..., Path]) -> list[Path]:
    return [clip(f"ordered {n}.mp4", draw=moving_bar((640, 360)), frames=10 + n) for n in range(4)]


def settled(client: Client, order: Any, count: int, *states: str) -> list[Any]:
    """Wait until so many items are in one of some states, and give all items."""
    path = f"/api/orders/{order['id']}"
    page = client.until(path, lambda o: sum(i["state"] in states for i in o["items"]) >= count)
    return list(page["items"])


def test_what_arrives_is_delivered_by_itself(
    client: Client, folder: Path, write: Callable[..., Any], films: list[Path]
) -> None:
    order = write()
    assert order["sentence"] == (
        f"What arrives in {folder.name} goes by {order['spec_title']} to {order['recipient']}."
    )
    shutil.copy(films[0], folder / "spot_01.mp4")
    (folder / "notes.txt").write_text("no film")
    [item] = [i for i in settled(client, order, 1, "done") if i["state"] == "done"]
    crate = client.good("GET", f"/api/crates/{item['crate']}")
    assert crate["state"] == "received"
    assert crate["deliverables"][0]["name"] == "spot_01.mp4"
    page = client.until(f"/api/orders/{order['id']}", lambda o: o["counts"].get("asks", 0) == 1)
    # What is no film asks, with the ways out.
    asks = page["asks"]
    assert asks["name"] == "notes.txt"
    assert [a["key"] for a in asks["question"]["answers"]] == ["again", "leave out"]
    left = client.good("POST", f"/api/orders/items/{asks['id']}/answer", {"key": "leave out"})
    assert left["state"] == "left out"
    said = " ".join(line["what"] for line in page["log"])
    for what in ("arrived", "was made", "being made", "being sealed", "handed over", "received"):
        assert what in said


def test_the_same_bytes_are_not_sent_twice(
    client: Client, folder: Path, write: Callable[..., Any], films: list[Path]
) -> None:
    order = write()
    shutil.copy(films[0], folder / "spot_02.mp4")
    settled(client, order, 1, "done")
    shutil.copy(films[0], folder / "spot_03.mp4")
    items = settled(client, order, 2, "done", "same")
    assert sorted(i["state"] for i in items) == ["done", "same"]
    assert "spot_02.mp4" in next(i["said"] for i in items if i["state"] == "same")


def test_a_name_that_is_missing_is_asked_for_and_filled_in(
    client: Client, folder: Path, write: Callable[..., Any], films: list[Path]
) -> None:
    order = write()
    shutil.copy(films[1], folder / "without number.mp4")
    [item] = settled(client, order, 1, "asks")
    assert item["question"]["fields"] == ["name.number"]
    path = f"/api/orders/items/{item['id']}/answer"
    status, told, _ = client.call("POST", path, {"fields": {"name.number": "seven"}})
    assert status == 422 and told["detail"]
    status, told, _ = client.call("POST", path, {"fields": {"name.other": "07"}})
    assert status == 422 and "not what was asked" in told["detail"]
    assert client.call("POST", path, {"key": "go on"})[0] == 422
    client.good("POST", path, {"fields": {"name.number": "07"}})
    [item] = settled(client, order, 1, "done")
    crate = client.good("GET", f"/api/crates/{item['crate']}")
    assert crate["deliverables"][0]["name"] == "spot_07.mp4"
    status, told, _ = client.call("POST", path, {"key": "leave out"})
    assert status == 409 and "asks nothing any more" in told["detail"]


def test_a_caution_of_a_kind_that_is_named_stops_and_goes_on(
    client: Client, folder: Path, write: Callable[..., Any], clip: Callable[..., Path]
) -> None:
    order = write(stops_for=["any"])
    film = clip("faster.mp4", draw=moving_bar((640, 360)), frames=12, rate=Fraction(30))
    shutil.copy(film, folder / "spot_08.mp4")
    [item] = settled(client, order, 1, "asks", "done")
    asked = 0
    while item["state"] == "asks":
        assert item["question"]["kind"] == "caution"
        asked += 1
        client.good("POST", f"/api/orders/items/{item['id']}/answer", {"key": "go on"})
        [item] = settled(client, order, 1, "asks", "done")
    assert asked >= 1 and item["state"] == "done"


def test_an_order_goes_as_far_as_it_says_and_waits_while_it_is_off(
    client: Client, folder: Path, write: Callable[..., Any], films: list[Path]
) -> None:
    order = write(goes_to="seal", limits={"at_once": 1})
    assert order["trouble"] is None
    elsewhere = write(source={"folder": "nowhere at all"})
    assert "There is no folder 'nowhere at all'" in elsewhere["trouble"]
    shutil.copy(films[2], folder / "spot_04.mp4")
    [item] = settled(client, order, 1, "done")
    assert client.good("GET", f"/api/crates/{item['crate']}")["state"] == "sealed"
    client.good("POST", f"/api/orders/{order['id']}/switch", {"on": False})
    shutil.copy(films[3], folder / "spot_05.mp4")
    client.good("POST", f"/api/orders/{order['id']}/switch", {"on": True})
    items = settled(client, order, 2, "done")
    assert len({i["crate"] for i in items}) == 2


def test_a_dry_run_says_what_would_come_and_keeps_nothing(
    client: Client, installation: Installation, folder: Path, films: list[Path], spec: str
) -> None:
    good = client.ingest(installation.folders.intake[0], films[1], "spot_11.mp4")
    bad = client.ingest(installation.folders.intake[0], films[2], "nameless.mp4")
    said = {
        "id": "tried-only",
        "title": "Tried",
        "source": {"folder": folder.name, "names": ["spot*", "name*"]},
        "spec": spec,
        "name": {"pattern": "spot_{number}", "fields": {"number": "{number}"}},
    }
    crates = {one["id"] for one in client.good("GET", "/api/floor")["crates"]}
    body = {"document": said, "masters": [good["id"], bad["id"]]}
    first, second = client.good("POST", "/api/orders/try", body)
    assert (first["file"], first["says"]) == ("spot_11.mp4", "It would go by itself.")
    assert "still needs: number" in second["says"]
    assert second["question"]["fields"] == ["name.number"]
    assert {one["id"] for one in client.good("GET", "/api/floor")["crates"]} == crates
    assert "tried-only" not in {one["id"] for one in client.good("GET", "/api/orders")}


def test_an_order_is_read_with_its_mistakes_and_written_as_it_is(client: Client, spec: str) -> None:
    text = f"id: read-only\ntitle: Read\nsource:\n  folder: spots\nspec: {spec}\n"
    read = client.good("POST", "/api/orders/read", {"text": text})
    assert read["sentence"].startswith("What arrives in spots goes by")
    again = client.good("POST", "/api/orders/read", {"text": read["yaml"]})
    assert again["document"] == read["document"]
    status, told, _ = client.call("POST", "/api/orders/read", {"text": text + "odd: 1\n"})
    assert status == 422 and "line 6" in told["detail"]
    status, told, _ = client.call("POST", "/api/orders/read", {})
    assert status == 422
    unknown = text.replace(spec, "no-such-spec")
    assert client.call("PUT", "/api/orders", {"text": unknown})[0] == 404
    assert client.call("GET", "/api/orders/no-such-order")[0] == 404
