"""Crates that keep their version of a spec: names, quotas, alternatives, houses' sets."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from client import Client
from specs_here import ROWS, choose, document, with_rate

from ample_crate.store.models import Crate
from ample_crate.store.queries import get, week_bytes
from ample_crate.work import status
from support import Installation


def test_a_crate_keeps_its_version_and_is_told_of_a_newer_one(
    client: Client, save: Callable[..., Any], tiny_master: Any
) -> None:
    save(document("moves-on", house={"motion.rate": {"value": "25"}}))
    crate = client.crate("moves-on", tiny_master["id"])
    id = crate["deliverables"][0]["id"]
    client.good(
        "PATCH", f"/api/crates/deliverables/{id}", {"property": "motion.rate", "value": "25"}
    )
    assert client.good("GET", f"/api/crates/{crate['id']}")["newer_spec"] is None
    save(document("moves-on", requirements=with_rate("50")), base=1)
    told = client.good("GET", f"/api/crates/{crate['id']}")
    assert told["spec_version"] == 1 and told["newer_spec"]["version"] == 2
    assert "Frame rate: 25 fps or 50 fps becomes 50 fps." in told["newer_spec"]["changes"]
    assert told["deliverables"][0]["chosen"] == {"motion.rate": "25"}
    status, said, _ = client.call("POST", f"/api/crates/{crate['id']}/spec", {"version": 7})
    assert status == 404 and "no version 7" in said["detail"]
    moved = client.good("POST", f"/api/crates/{crate['id']}/spec", {"version": 2})
    assert moved["spec_version"] == 2 and moved["newer_spec"] is None
    assert moved["deliverables"][0]["chosen"] == {}, "what the new version does not allow is let go"
    client.good("DELETE", f"/api/crates/{crate['id']}")


SIDECARS = [
    {"kind": "checksums", "form": "md5"},
    {"kind": "metadata", "form": "xml"},
    {"kind": "metadata", "form": "json"},
    {"kind": "html snippet", "form": "html"},
]
WANTING = "The name still needs: slug, three small letters."
NAMED = {
    "name": "{production}[_e{episode}]_{slug}",
    "asked": "must",
    "case": "lower",
    "characters": "a-z 0-9 _",
    "fields": {"slug": {"matches": "[a-z]{3}"}},
    "sidecars": SIDECARS,
}
ONE_ITEM = {"property": "delivery.items", "rule": {"is": 1}}
# So that an easy picture fills its rate.
STEADY = {"property": "picture.rate_mode", "rule": {"is": "constant"}}
FREE = {"property": "picture.bit_rate", "rule": {"between": ["50 kb/s", "9 Mb/s"]}}


def quota(most: int | str) -> dict[str, Any]:
    return {"property": "delivery.week", "rule": {"at_most": most}, "source": "9"}


@pytest.fixture(scope="module")
def named(client: Client, save_for_all: Callable[..., Any], tiny_master: Any) -> Any:
    """A crate whose file name still needs a field."""
    rows = [*ROWS, quota("400 kB"), ONE_ITEM]
    asked = document("named-here", requirements=rows, delivery=NAMED, recipient="wickerwork")
    save_for_all(asked)
    return client.crate("named-here", tiny_master["id"], title="A <named> crate")


def test_a_name_that_wants_a_field_is_told_everywhere(client: Client, named: Any) -> None:
    crate, one = named, named["deliverables"][0]
    mine = [c for c in one["cautions"] if c["row"] == "file.name"]
    assert any(c["blocks"] and WANTING in c["what"] for c in mine)
    # On the page, on the floor, and to whoever tries to run it all the same.
    assert crate["next_step"] == "plan" and crate["blocked"] == WANTING
    title = f"{crate['number']} A <named> crate"
    row = {"kind": "crate", "id": crate["id"], "title": title, "what": WANTING}
    assert row in client.good("GET", "/api/floor")["attention"]
    status, said, _ = client.call("POST", f"/api/crates/{crate['id']}/runs")
    assert status == 409 and said["detail"] == f"Nothing can be run yet. {WANTING}"
    assert "pattern" in said["way_out"]
    path = f"/api/crates/deliverables/{one['id']}"
    for key, value, what in (
        ("name.slug", "toolong", "does not fit the rule"),
        ("name.colour", "red", "no field 'colour'"),
    ):
        status, said, _ = client.call("PATCH", path, {"property": key, "value": value})
        assert status == 422 and what in said["detail"]
    planned = choose(client, one["id"], "name.slug", "fog")
    assert planned["deliverables"][0]["name"] == "lichen_hours_e07_fog.mp4"
    assert planned["next_step"] == "run" and planned["blocked"] is None


@pytest.fixture(scope="module")
def sealed(client: Client, named: Any) -> Any:
    """The same crate, encoded and sealed."""
    choose(client, named["deliverables"][0]["id"], "picture", "encoded")
    done = client.run_to_end(named["id"])
    rows = {r["property"]: r for r in done["deliverables"][0]["rows"]}
    assert rows["file.name"]["verdict"] == "meets", rows["file.name"]
    whole = {f["property"]: f["verdict"] for f in done["whole"]}
    assert whole == {"delivery.week": "meets", "delivery.items": "meets"}
    client.good("POST", f"/api/crates/{named['id']}/seal")
    crate = client.until(f"/api/crates/{named['id']}", lambda c: c["state"] != "sealing")
    assert crate["state"] == "sealed", crate["error"]
    return crate


def test_what_a_spec_wants_beside_a_file_lies_in_the_bag(
    installation: Installation, sealed: Any
) -> None:
    data = installation.folders.bags / sealed["bag"] / "data"
    film = data / "lichen_hours_e07_fog.mp4"
    md5 = hashlib.md5(film.read_bytes()).hexdigest()
    assert (data / "checksums.md5").read_text() == f"{md5}  {film.name}\n"
    root = ElementTree.parse(data / "lichen_hours_e07_fog.xml").getroot()
    assert root.get("bytes") == str(film.stat().st_size)
    told = {f.get("property"): f.get("value") for f in root}
    assert told["picture.size"] == "320x180"
    entry = json.loads((data / "lichen_hours_e07_fog.json").read_text())
    assert entry["sha256"] == hashlib.sha256(film.read_bytes()).hexdigest()
    snippet = (data / "lichen_hours_e07_fog.html").read_text()
    for part in ('src="lichen_hours_e07_fog.mp4"', "avc1.", "A &lt;named&gt; crate"):
        assert part in snippet


@pytest.fixture
def allow(
    installation: Installation, save_for_all: Callable[..., Any], sealed: Any
) -> Callable[[int, int], dict[str, Any]]:
    """Allow the week what the sealed crate sent, and more."""
    film = installation.folders.bags / sealed["bag"] / "data" / "lichen_hours_e07_fog.mp4"

    def save_version(base: int, more: int) -> dict[str, Any]:
        rows = [*ROWS, ONE_ITEM, FREE, STEADY, quota(film.stat().st_size + more)]
        asked = document("named-here", requirements=rows, delivery=NAMED, recipient="wickerwork")
        saved: dict[str, Any] = save_for_all(asked, base=base)
        return saved

    return save_version


def test_a_week_that_is_used_up_leaves_nothing(
    client: Client, allow: Callable[[int, int], Any], tiny_master: Any
) -> None:
    allow(1, 10)
    over = client.crate("named-here", tiny_master["id"])
    over = choose(client, over["deliverables"][0]["id"], "name.slug", "sun")
    what = "What the crate leaves it, 10 B, is"
    assert any(c["blocks"] and what in c["what"] for c in over["deliverables"][0]["cautions"])
    client.good("DELETE", f"/api/crates/{over['id']}")


def test_a_week_with_some_room_left_has_the_rate_solved_from_it(
    client: Client,
    installation: Installation,
    allow: Callable[[int, int], Any],
    sealed: Any,
    tiny_master: Any,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    room = sealed["deliverables"][0]["predicted_size"] * 2 // 3
    allow(2, room)
    crate = client.crate("named-here", tiny_master["id"])
    item = crate["deliverables"][0]["id"]
    choose(client, item, "picture", "encoded")
    one = choose(client, item, "name.slug", "sun")["deliverables"][0]
    assert any("what the crate leaves it" in s["title"] for s in one["steps"])
    assert (one["cap"], one["cap_of"]) == (room, "as its share")
    assert one["predicted_size"] <= room
    solved = one["choices"]["picture.bit_rate"]
    # A rate that someone chose is kept, and the crate not sealed.
    choose(client, item, "picture.bit_rate", "8 Mb/s")
    over = client.run_to_end(crate["id"])
    assert week(over) == "breaks" and over["next_step"] == "review"
    assert any("bytes in the week" in o for o in over["obstacles"])
    status, said, _ = client.call("POST", f"/api/crates/{over['id']}/seal")
    assert status == 409 and "bytes in the week" in said["detail"]
    back = choose(client, item, "picture.bit_rate", None)["deliverables"][0]
    assert back["stale"] and back["choices"]["picture.bit_rate"] == solved
    over = client.run_to_end(over["id"])
    assert over["next_step"] == "seal" and week(over) == "meets"
    keep_what_is_made(installation, over["id"], sealed["id"], room, monkeypatch)
    client.good("DELETE", f"/api/crates/{over['id']}")


def week(crate: Any) -> str:
    verdict: str = {f["property"]: f["verdict"] for f in crate["whole"]}["delivery.week"]
    return verdict


def keep_what_is_made(
    installation: Installation, made: int, sealed: int, room: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A little more sent elsewhere, and what was made stays good, for it still fits; much more, and
    it must be made anew. What is sealed is not planned any more, however much went out since.
    """
    with installation.database.session() as session:
        row = get(session, Crate, made)
        sent = week_bytes(session, row)
        for more, stale in ((1, False), (room // 2, True)):
            monkeypatch.setattr(status, "week_bytes", lambda *_, gone=sent + more: gone)
            assert [one.stale for one in status.item_statuses(row)] == [stale]
        sealed_row = get(session, Crate, sealed)
        assert sealed_row.state == "sealed"
        monkeypatch.setattr(status, "week_bytes", lambda *_: 10**9)
        assert [(one.share, one.stale) for one in status.item_statuses(sealed_row)] == [
            (None, False)
        ]


def test_an_item_that_is_made_keeps_its_plan_while_another_gives_way(
    client: Client,
    installation: Installation,
    save: Callable[..., Any],
    tiny_master: Any,
    clip: Callable[..., Path],
) -> None:
    other = client.ingest(installation.folders.intake[0], clip("other_small.mp4", frames=40))
    free = {"property": "picture.bit_rate", "rule": {"between": ["50 kb/s", "9 Mb/s"]}}
    save(
        document(
            "kiosk-here",
            requirements=[
                *ROWS,
                free,
                {"property": "delivery.total", "rule": {"at_most": "150 kB"}},
            ],
        )
    )
    crate = client.crate("kiosk-here", tiny_master["id"])
    choose(client, crate["deliverables"][0]["id"], "picture", "encoded")
    alone = client.run_to_end(crate["id"])["deliverables"][0]
    assert alone["cap_of"] == "a crate" and alone["finished"]["size"] < 75_000
    both = client.good(
        "POST", f"/api/crates/{crate['id']}/deliverables", {"masters": [other["id"]]}
    )["deliverables"]
    both = choose(client, both[1]["id"], "picture", "encoded")["deliverables"]
    first, second = both
    assert not first["stale"] and first["cap_of"] == "a crate", "it still fits as it is"
    assert (
        second["cap_of"] == "as its share"
        and second["predicted_size"] <= 150_000 - first["finished"]["size"]
    )
    client.good("DELETE", f"/api/crates/{crate['id']}")


EITHER = [
    {
        "name": "frames",
        "any": [
            {
                "name": "few",
                "rules": {
                    "motion.longest_gop": {"at_most": 12},
                    "picture.bit_rate": {"at_least": "400 kb/s"},
                },
            },
            {"name": "many", "rules": {"motion.longest_gop": {"at_most": 50}}},
        ],
    }
]


@pytest.fixture(scope="module")
def alternatives(save_for_all: Callable[..., Any]) -> str:
    """A spec with alternatives and a set of house choices."""
    rate = {"property": "picture.bit_rate", "rule": {"between": ["200 kb/s", "900 kb/s"]}}
    save_for_all(
        document(
            "chosen-here",
            requirements=[*ROWS, rate],
            either=EITHER,
            house={"picture.bit_rate": {"value": "300 kb/s"}},
            house_sets={"rain": {"choices": {"picture.bit_rate": {"value": "800 kb/s"}}}},
        )
    )
    return "chosen-here"


@pytest.fixture
def chosen(client: Client, alternatives: str, tiny_master: Any) -> Iterator[Any]:
    """A crate to it."""
    crate = client.crate(alternatives, tiny_master["id"])
    yield crate
    client.good("DELETE", f"/api/crates/{crate['id']}")


def test_alternatives_and_house_sets_are_chosen_in_a_crate(client: Client, chosen: Any) -> None:
    one = chosen["deliverables"][0]
    # The master's own frames lean on each other over more than twelve: it fits the second way best.
    assert one["choices"]["either.frames"] == "many"
    assert [o["value"] for o in one["options"]["either.frames"]] == ["few", "many"]
    assert one["choices"]["picture.bit_rate"] == 300_000
    rained = choose(client, one["id"], "house", "rain")["deliverables"][0]
    assert rained["choices"]["picture.bit_rate"] == 800_000
    other = choose(client, one["id"], "either.frames", "few")["deliverables"][0]
    assert other["choices"]["motion.longest_gop"] == 12
    at = f"/api/crates/deliverables/{one['id']}"
    bad = {"property": "either.frames", "value": "none"}
    status, said, _ = client.call("PATCH", at, bad)
    assert status == 422 and "no frames of this spec" in said["detail"]


def test_a_choice_that_another_alternative_has_no_room_for_is_taken_back_and_named(
    client: Client, chosen: Any
) -> None:
    """Going back to it is one more choice."""
    item = chosen["deliverables"][0]["id"]
    assert choose(client, item, "picture.bit_rate", "250 kb/s")["taken_back"] == []
    page = choose(client, item, "either.frames", "few")
    assert page["taken_back"] == ["picture bit rate 250 kb/s"]
    assert page["deliverables"][0]["chosen"] == {"either.frames": "few"}
    at = f"/api/crates/deliverables/{item}"
    again = {"property": "picture.bit_rate", "value": "250 kb/s"}
    status, said, _ = client.call("PATCH", at, again)
    assert status == 422 and "at least 400 kb/s" in said["detail"]


@pytest.fixture(scope="module")
def other(client: Client, installation: Installation, clip: Callable[..., Path]) -> Any:
    """Another small master."""
    return client.ingest(installation.folders.intake[0], clip("other_small.mp4", frames=40))


def test_items_whose_files_would_have_one_name_are_not_run_until_they_are_told_apart(
    client: Client, save: Callable[..., Any], tiny_master: Any, other: Any
) -> None:
    save(document("alike-here", delivery={"name": "{crate}[_e{episode}]", "asked": "must"}))
    crate = client.crate("alike-here", tiny_master["id"], other["id"])
    first, second = crate["deliverables"]
    assert first["name"] == f"{crate['number']}_e07.mp4"
    assert second["name"] == f"{crate['number']}.mp4" and crate["blocked"] is None
    alike = choose(client, second["id"], "name.episode", "07")
    assert alike["next_step"] == "plan"
    assert "Tiny Lantern ep07.mp4" in alike["deliverables"][1]["cautions"][-1]["what"]
    assert "would have the same file name" in alike["blocked"]
    status, said, _ = client.call("POST", f"/api/crates/{crate['id']}/runs")
    assert status == 409 and "same file name" in said["detail"]
    assert "{crate}[_e{episode}]" in said["way_out"]
    assert choose(client, second["id"], "name.episode", "08")["next_step"] == "run"
    client.good("DELETE", f"/api/crates/{crate['id']}")


def test_capitals_alone_do_not_tell_files_apart(
    client: Client, save: Callable[..., Any], tiny_master: Any, other: Any
) -> None:
    """Where the pattern has nothing but the master's name, that can be written by hand."""
    save(document("alike-too", delivery={"name": "{master}"}))
    pair = client.crate("alike-too", tiny_master["id"], other["id"])
    one = pair["deliverables"][1]
    assert one["choices"]["name.master"] == "" and pair["blocked"] is None
    alike = choose(client, one["id"], "name.master", "tiny lantern EP07")
    assert "same file name" in alike["blocked"]
    names = {d["name"] for d in alike["deliverables"]}
    assert names == {"Tiny_Lantern_ep07.mp4", "tiny_lantern_EP07.mp4"}
    client.good("DELETE", f"/api/crates/{pair['id']}")


@pytest.mark.parametrize(
    ("name", "sidecars"),
    [("alike-ending", []), ("alike-beside", [{"kind": "metadata", "form": "xml"}])],
)
def test_an_ending_tells_files_apart_unless_something_lies_beside_them(
    client: Client,
    save: Callable[..., Any],
    tiny_master: Any,
    other: Any,
    name: str,
    sidecars: list[dict[str, str]],
) -> None:
    """What lies beside each file has its name and another ending."""
    rows = [*ROWS[:3], {"property": "file.wrapper", "rule": {"one_of": ["mp4", "mov"]}}]
    delivery = {"name": "{crate}[_e{episode}]", "sidecars": sidecars}
    save(document(name, requirements=rows, delivery=delivery))
    made = client.crate(name, tiny_master["id"], other["id"])
    item = made["deliverables"][1]["id"]
    choose(client, item, "name.episode", "07")
    page = choose(client, item, "file.wrapper", "mov")
    assert page["deliverables"][1]["name"].endswith("_e07.mov")
    assert (page["blocked"] is not None) is bool(sidecars)
    client.good("DELETE", f"/api/crates/{made['id']}")
