"""One master to several recipients, many masters to one spec, choices and names for many items."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from chosen import place_of
from client import Client
from specs_here import document

from clips import moving_bar

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}},
    {"property": "picture.size", "rule": {"is": "320x180"}},
    {"property": "picture.bit_rate", "rule": {"between": ["200 kb/s", "8 Mb/s"]}},
    {"property": "file.wrapper", "rule": {"is": "mp4"}},
]
NAMED = {
    "name": "lichen_e{number}_{cut}",
    "fields": {"number": {"matches": "[0-9]{2}"}, "cut": {"matches": "[ab]"}},
}
DUE = (datetime.now(UTC) + timedelta(hours=5)).isoformat()


@pytest.fixture(scope="module")
def masters(client: Client, inbox: Path, clip: Callable[..., Path]) -> list[Any]:
    shapes = {"Many E01 wide": (640, 360), "Many E02 wide": (640, 360), "Many tall": (360, 640)}
    made = [
        clip(f"{name}.mp4", draw=moving_bar(size), frames=6 + number)
        for number, (name, size) in enumerate(shapes.items())
    ]
    return [client.ingest(inbox.parent, film) for film in made]


@pytest.fixture(scope="module")
def spec(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("many-named", requirements=ROWS, delivery=NAMED))
    return "many-named"


@pytest.fixture(scope="module")
def plain(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("many-plain", requirements=ROWS))
    return "many-plain"


def on_floor(client: Client) -> list[int]:
    return [one["number"] for one in client.good("GET", "/api/floor")["crates"]]


def look(client: Client, text: str, **where: Any) -> Any:
    return client.good("POST", "/api/sheets", {"text": text, **where})


def of_sheet(client: Client, spec: str, text: str, **more: Any) -> tuple[int, Any]:
    body = {"title": "Of a sheet", "spec": spec, "due_at": DUE, "text": text, **more}
    status, answer, _ = client.call("POST", "/api/crates/sheet", body)
    return status, answer


def test_a_crate_for_each_of_several_specs_in_one_act(
    client: Client, spec: str, plain: str, masters: list[Any]
) -> None:
    takers = client.good("GET", f"/api/takers?masters={masters[0]['id']},{masters[2]['id']}")
    mine = {one["spec"]: one for one in takers if one["spec"] in (spec, plain)}
    assert {one["could"] for one in mine.values()} == {True}
    to = [{"spec": id, "due_at": DUE} for id in (spec, plain)]
    ids = [masters[0]["id"]]
    body = {"title": "Both", "to": to, "masters": ids, "spans": []}
    made = client.good("POST", "/api/crates/several", body)
    assert made[1]["number"] == made[0]["number"] + 1
    pages = [client.good("GET", f"/api/crates/{one['id']}") for one in made]
    assert [page["spec"] for page in pages] == [spec, plain]
    # Of what cannot be made nothing is: not the first either.
    before = on_floor(client)
    body["to"] = [*to, {"spec": "no-such-spec", "due_at": DUE}]
    assert client.call("POST", "/api/crates/several", body)[0] == 404
    assert on_floor(client) == before
    # What is chosen for one is carried over to the same master's item in the other crate.
    (first,), (second,) = pages[0]["deliverables"], pages[1]["deliverables"]
    client.good("PATCH", place_of(first), {"property": "framing", "value": "crop"})
    alike = client.good("GET", f"{place_of(first)}/alike")
    assert [one["here"] for one in alike if one["id"] == second["id"]] == [False]
    carried = client.good(
        "POST", f"{place_of(first)}/carry-over", {"to": [second["id"]], "keys": ["framing"]}
    )
    assert [name.startswith("Many E01 wide.mp4, crate") for name in carried["to"]] == [True]
    page = client.good("GET", f"/api/crates/{made[1]['id']}")
    assert page["deliverables"][0]["chosen"] == {"framing": "crop"}
    # So is what is taken of the master, of the same master alone.
    client.good("PUT", f"{place_of(first)}/range", {"first": 2, "frames": 3})
    other = client.good(
        "POST", f"/api/crates/{made[0]['id']}/deliverables", {"masters": [masters[1]["id"]]}
    )["deliverables"][1]
    ids = [second["id"], other["id"]]
    body = {"to": ids, "keys": ["range"]}
    carried = client.good("POST", f"{place_of(first)}/carry-over", body)
    assert len(carried["to"]) == 1
    assert [left["why"] for left in carried["left_out"]] == ["It is of another master."]
    page = client.good("GET", f"/api/crates/{made[1]['id']}")["deliverables"][0]
    assert (page["first"], page["master_frames"], page["can_undo"]) == (2, 3, True)


def test_all_of_several_crates_are_run_and_the_others_say_why(
    client: Client, spec: str, plain: str, masters: list[Any]
) -> None:
    ready, waiting = (
        client.crate(one, masters[0]["id"], title="To be run") for one in (plain, spec)
    )
    concerns = waiting["strips"][0]["concerns"]
    assert (concerns["choices"], concerns["worst"]) == (1, "needs a choice")
    ids = [ready["id"], waiting["id"]]
    made = client.good("POST", "/api/crates/run", {"crates": ids})
    assert made["begun"] == [ready["id"]]
    assert "The name still needs: number" in made["not_begun"][str(waiting["id"])]
    done = client.until(
        f"/api/crates/{ready['id']}", lambda page: page["deliverables"][0]["finished"]
    )
    assert done["strips"][0]["concerns"]["worst"] == "meets"
    assert not [row for row in done["deliverables"][0]["rows"] if row["matters"] == "choice"]


def test_a_sheet_is_looked_at_with_its_mistakes_by_line_and_nothing_is_kept(
    client: Client, spec: str, masters: list[Any]
) -> None:
    before = on_floor(client)
    text = (
        "master,number,cut,framing\n"
        "Many E01 wide,01,a,crop\n"
        "no such film.mov,02,a,\n"
        "many tall.MP4,2,a,\n"
        f"#{masters[1]['id']},02,a,\n"
        "Many E01 wide.mp4,03,b,\n"
    )
    found = look(client, text, spec=spec)
    assert [(one["line"], one["file"], one["worst"]) for one in found["lines"]] == [
        (2, "lichen_e01_a.mp4", "unproven"),
        (5, "lichen_e02_a.mp4", "unproven"),
    ]
    assert found["lines"][0]["chosen"] == ["framing crop", "cut a", "number 01"]
    told = [(one["line"], one["column"], one["what"]) for one in found["mistakes"]]
    assert [one[:2] for one in told] == [(3, "master"), (4, "name.number"), (6, "")]
    assert told[0][2] == "There is no master 'no such film.mov'."
    assert told[2][2] == "Line 2 has the same master and range."
    assert on_floor(client) == before
    # Nobody loses lines without having said so.
    status, answer = of_sheet(client, spec, text)
    assert status == 422 and "Line 3 of the sheet" in answer["detail"]
    status, page = of_sheet(client, spec, text, partly=True)
    assert status == 200 and [one["name"] for one in page["deliverables"]] == [
        "lichen_e01_a.mp4",
        "lichen_e02_a.mp4",
    ]


def test_the_sheet_of_a_crate_goes_out_and_comes_back_changed(
    client: Client, spec: str, masters: list[Any]
) -> None:
    text = "master,range,number,cut\nMany E01 wide,,01,a\nMany E02 wide,2-4,02,a\n"
    _, page = of_sheet(client, spec, text)
    place = f"/api/crates/{page['id']}"
    status, raw, head = client.call("GET", f"{place}/sheet.csv")
    assert status == 200 and f"crate-{page['number']}-r1.csv" in head["Content-Disposition"]
    sheet = raw.decode("utf-8-sig")
    lines = sheet.splitlines()
    assert lines[0].startswith("master,range,name.number,name.cut,item,file,verdict")
    assert lines[2].startswith("Many E02 wide.mp4,2-4,02,a,")
    # As it is it changes nothing.
    same = look(client, sheet, crate=page["id"])
    assert same["mistakes"] == [] and [one["fresh"] for one in same["lines"]] == [False, False]
    changed = sheet.replace("02,a", "02,b").replace("01,a", ",a") + "Many tall.mp4,,07,a\r\n"
    answer = client.good("POST", f"{place}/sheet", {"text": changed})
    chosen = [one["chosen"] for one in answer["deliverables"]]
    assert chosen == [
        {"name.cut": "a"},
        {"name.number": "02", "name.cut": "b"},
        {"name.number": "07", "name.cut": "a"},
    ]
    assert [one["can_undo"] for one in answer["deliverables"]] == [True, True, True]
    back = client.good("POST", f"{place_of(answer['deliverables'][1])}/undo")
    assert back["deliverables"][1]["chosen"]["name.cut"] == "a"


def test_the_same_is_chosen_for_many_and_what_one_cannot_take_is_named(
    client: Client, plain: str, masters: list[Any]
) -> None:
    page = client.crate(plain, *[one["id"] for one in masters], title="One choice")
    ids = [one["id"] for one in page["deliverables"]]
    choices = {"region": "600 x 300 + 0 + 0", "picture.bit_rate": "2 Mb/s"}
    body = {"to": ids, "choices": choices}
    made = client.good("PATCH", f"/api/crates/{page['id']}/choices", body)
    assert len(made["to"]) == 3
    assert [one["item"] for one in made["left_out"]] == ["Many tall.mp4"]
    shown = client.good("GET", f"/api/crates/{page['id']}")["deliverables"]
    assert [sorted(one["chosen"]) for one in shown] == [
        ["picture.bit_rate", "region"],
        ["picture.bit_rate", "region"],
        ["picture.bit_rate"],
    ]
    body = {"to": ids[:1], "choices": {"region": None}}
    client.good("PATCH", f"/api/crates/{page['id']}/choices", body)
    shown = client.good("GET", f"/api/crates/{page['id']}")["deliverables"]
    assert sorted(shown[0]["chosen"]) == ["picture.bit_rate"] and "region" in shown[1]["chosen"]
    body = {"to": [*ids, 10**6], "choices": {"region": None}}
    assert client.call("PATCH", f"/api/crates/{page['id']}/choices", body)[0] == 422


def test_names_are_filled_in_from_the_masters_names_once_they_were_looked_at(
    client: Client, spec: str, masters: list[Any]
) -> None:
    page = client.crate(spec, *[one["id"] for one in masters], title="Names")
    ids = [one["id"] for one in page["deliverables"]]
    body = {
        "to": ids,
        "pattern": "many e{number} {*}",
        "fields": {"number": "{number}", "cut": "a"},
        "keep": False,
    }
    place = f"/api/crates/{page['id']}"
    named = client.good("POST", f"{place}/names", body)
    assert [one["file"] for one in named[:2]] == ["lichen_e01_a.mp4", "lichen_e02_a.mp4"]
    assert named[2]["wrong"] == "The name 'Many tall' does not fit many e{number} {*}."
    assert client.good("GET", place)["deliverables"][0]["chosen"] == {}
    client.good("POST", f"{place}/names", body | {"keep": True})
    assert [one["name"] for one in client.good("GET", place)["deliverables"]][:2] == [
        "lichen_e01_a.mp4",
        "lichen_e02_a.mp4",
    ]
    # By number all of them are named; a field that its rule does not take is said.
    counted = {"to": ids, "fields": {"number": "{number:02}"}, "first": 8, "keep": False}
    files = [one["file"] for one in client.good("POST", f"{place}/names", counted)]
    assert files[:2] == ["lichen_e08_a.mp4", "lichen_e09_a.mp4"]
    odd = counted | {"fields": {"number": "{number}"}}
    assert "does not fit the rule" in client.good("POST", f"{place}/names", odd)[0]["wrong"]


def test_a_crate_is_made_like_another_with_other_masters(
    client: Client, plain: str, masters: list[Any]
) -> None:
    page = client.crate(plain, masters[0]["id"], title="First")
    (item,) = page["deliverables"]
    client.good("PATCH", place_of(item), {"property": "picture.bit_rate", "value": "2 Mb/s"})
    client.good("PATCH", place_of(item), {"property": "region", "value": "600 x 300 + 0 + 0"})
    items = [{"like": item["id"], "master": one["id"]} for one in masters[1:]]
    body = {"title": "Second", "due_at": DUE, "items": items}
    made = client.good("POST", f"/api/crates/{page['id']}/clones", body)
    assert [sorted(one["chosen"]) for one in made["deliverables"]] == [
        ["picture.bit_rate", "region"],
        ["picture.bit_rate"],
    ]
    assert made["taken_back"] == ["Many tall.mp4: region 600 x 300 + 0 + 0"]
    body["items"][0]["like"] = 10**6
    assert client.call("POST", f"/api/crates/{page['id']}/clones", body)[0] == 404
