"""Specs over the API: written, kept in versions, compared, tried on files; crates that keep theirs
and are told of a newer one.
"""

from __future__ import annotations

import hashlib
import json
import socket
import struct
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from urllib.parse import quote, urlsplit
from xml.etree import ElementTree

import pytest
from client import Client, soon

from ample_crate.core.specs.specfile import parse
from ample_crate.store.models import Crate
from ample_crate.store.queries import get, week_bytes
from ample_crate.web.front import GATHERED
from ample_crate.work import crates
from clips import moving_bar
from support import House

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1.1"},
    {"property": "picture.size", "rule": {"is": "320x180"}, "source": "1.2"},
    {"property": "motion.rate", "rule": {"one_of": ["25", "50"]}, "source": "1.3"},
    {"property": "file.wrapper", "rule": {"is": "mp4"}, "source": "1.4"},
]


def document(id: str, **more: Any) -> dict[str, Any]:
    return {
        "id": id,
        "version": 1,
        "recipient": "pinfold",
        "title": f"Made here: {id}",
        "status": "in force",
        "requirements": ROWS,
    } | more


def with_rate(rate: str) -> list[dict[str, Any]]:
    return [
        {"property": "motion.rate", "rule": {"is": rate}, "source": "1.3"}
        if r["property"] == "motion.rate"
        else r
        for r in ROWS
    ]


@pytest.fixture
def save(client: Client) -> Iterator[Callable[..., Any]]:
    """Keep specs, and withdraw them after the test, so that other tests' lists stay as they are."""
    yield from keeping(client)


@pytest.fixture(scope="module")
def save_for_all(client: Client) -> Iterator[Callable[..., Any]]:
    """Keep specs for all tests of this file."""
    yield from keeping(client)


def keeping(client: Client) -> Iterator[Callable[..., Any]]:
    kept: set[str] = set()

    def keep(body: dict[str, Any], base: int | None = None, status: int = 200) -> Any:
        got, answer, _ = client.call("POST", "/api/specs", {"document": body, "base": base})
        assert got == status, answer
        if got == 200:
            kept.add(body["id"])
        return answer

    yield keep
    for id in kept:
        page = client.good("GET", f"/api/specs/{id}")
        newest = page["versions"][0]["version"]
        if page["versions"][0]["status"] == "draft":
            client.call("DELETE", f"/api/specs/{id}?version={newest}")
            if newest == 1:
                continue
            newest -= 1
        client.call(
            "POST",
            "/api/specs",
            {"document": page["document"] | {"status": "withdrawn"}, "base": newest},
        )


@pytest.fixture(scope="module")
def tiny(clip: Callable[..., Path]) -> Path:
    return clip(
        "Tiny Lantern ep07.mp4",
        draw=moving_bar((320, 180), 120),
        frames=25,
        options={"preset": "ultrafast"},
    )


@pytest.fixture(scope="module")
def tiny_master(client: Client, house: House, tiny: Path) -> Any:
    master = client.take_in(house.folders.intake[0], tiny)
    client.good("PATCH", f"/api/masters/{master['id']}", {"production": "Lichen Hours"})
    return master


def test_a_file_changed_under_a_number_that_crates_use_is_told_of(
    client: Client, own_specs: Path, tiny_master: Any
) -> None:
    file = own_specs / "house-file.yaml"
    try:
        file.write_text(json.dumps(document("house-file")))
        assert client.good("POST", "/api/specs/read")["refused"] == []
        crate = client.crate("house-file", tiny_master["id"])
        file.write_text(json.dumps(document("house-file", title="Another title")))
        assert (
            client.good("POST", "/api/specs/read")["refused"]
            == client.good("GET", "/api/specs/refused")["refused"]
        )
        (told,) = client.good("GET", "/api/specs/refused")["refused"]
        assert "version 1, which crates use" in told["what"] and told["way_out"].startswith(
            "Give the file version 2"
        )
        assert (
            client.good("GET", "/api/specs/house-file")["reading"]["title"]
            == "Made here: house-file"
        )
        file.write_text(json.dumps(document("house-file", title="Another title", version=2)))
        assert client.good("POST", "/api/specs/read")["refused"] == []
        assert client.good("GET", "/api/specs/house-file")["reading"]["title"] == "Another title"
        client.good("DELETE", f"/api/crates/{crate['id']}")
    finally:
        file.unlink()


def test_the_register_lists_what_ships_and_who_uses_it(client: Client) -> None:
    rows = {s["id"]: s for s in client.good("GET", "/api/specs")}
    assert (
        len(rows) >= 24
        and rows["ostler-dvd-625"]["cap"] == 4_700_000_000
        and rows["ostler-dvd-625"]["cap_of"] == "a crate"
    )
    assert (
        rows["harbour-course"]["cap_of"] == "a week" and rows["pinfold-720p"]["cap_of"] == "a file"
    )
    assert all(rows[id]["in_force"] for id in ("skerry-hd", "tannery-stage"))


def test_every_shipped_spec_reads_without_contradiction(client: Client) -> None:
    for row in client.good("GET", "/api/specs"):
        if row["in_force"] and row["version"] == 1 and row["recipient"]["kind"] == "disc":
            page = client.good("GET", f"/api/specs/{row['id']}")
            assert page["reading"]["contradictions"] == [] and page["reading"]["coding"]
            assert {r["part"].split(":")[0] for r in page["reading"]["rows"] if r["part"]} >= {
                "scan" if "dvd" in row["id"] else "picture format"
            }


def test_a_draft_is_written_over_and_a_spec_in_force_gets_a_version_beside_it(
    client: Client, save: Callable[..., Any]
) -> None:
    draft = save(document("kept-here", status="draft"))
    assert not draft["in_force"] and draft["versions"][0]["origin"] == "here"
    again = save(document("kept-here", status="draft", title="Another title"), base=1)
    assert [v["version"] for v in again["versions"]] == [1] and again["reading"][
        "title"
    ] == "Another title"
    status, said, _ = client.call(
        "POST",
        "/api/crates",
        {"title": "x", "spec": "kept-here", "due_at": "2030-01-01T10:00:00Z", "masters": []},
    )
    assert status == 409 and "not in force" in said["detail"]
    first = save(document("kept-here"), base=1)
    assert first["in_force"] and [v["version"] for v in first["versions"]] == [1]
    second = save(document("kept-here", requirements=with_rate("50")), base=1)
    assert [(v["version"], v["in_force"]) for v in second["versions"]] == [(2, True), (1, False)]
    assert client.good("GET", "/api/specs/kept-here?version=1")["document"]["requirements"][2][
        "rule"
    ] == {"one_of": ["25", "50"]}
    assert (
        "Nothing has changed"
        in save(document("kept-here", requirements=with_rate("50")), base=2, status=409)["detail"]
    )
    assert (
        "Version 2 was saved while you edited version 1"
        in save(document("kept-here"), base=1, status=409)["detail"]
    )
    assert "already" in save(document("kept-here"), status=409)["detail"]
    status, said, _ = client.call("DELETE", "/api/specs/kept-here?version=1")
    assert status == 409 and "not an unused draft" in said["detail"]


def test_the_order_of_clauses_is_kept(client: Client, save: Callable[..., Any]) -> None:
    ways = [
        {"name": "z", "rules": {"motion.scan": {"is": "progressive"}, "motion.rate": {"is": "25"}}},
        {"name": "a", "rules": {"motion.rate": {"is": "50"}}},
    ]
    save(document("in-order", either=[{"name": "motion", "any": ways}]))
    kept = client.good("GET", "/api/specs/in-order")["document"]["either"][0]["any"]
    assert [w["name"] for w in kept] == ["z", "a"] and list(kept[0]["rules"]) == [
        "motion.scan",
        "motion.rate",
    ]


def test_a_version_of_tomorrow_is_not_yet_in_force(save: Callable[..., Any]) -> None:
    save(document("from-tomorrow"))
    later = save(
        document("from-tomorrow", valid_from="2199-01-01", requirements=with_rate("50")), base=1
    )
    assert [(v["version"], v["in_force"]) for v in later["versions"]] == [(2, False), (1, True)]


def test_a_draft_after_a_withdrawal_brings_nothing_back(
    client: Client, save: Callable[..., Any]
) -> None:
    save(document("gone-here"))
    save(document("gone-here", status="withdrawn"), base=1)
    later = save(document("gone-here", status="draft", requirements=with_rate("50")), base=2)
    assert not any(v["in_force"] for v in later["versions"])
    row = next(s for s in client.good("GET", "/api/specs") if s["id"] == "gone-here")
    assert not row["in_force"]
    status, said, _ = client.call(
        "POST",
        "/api/crates",
        {"title": "x", "spec": "gone-here", "due_at": "2030-01-01T10:00:00Z", "masters": []},
    )
    assert status == 409 and "not in force" in said["detail"]


def test_reading_the_files_again_leaves_what_was_written_here(
    client: Client, save: Callable[..., Any]
) -> None:
    page = client.good("GET", "/api/specs/tannery-stills")
    changed = save(
        page["document"] | {"title": "Stills, changed here"}, base=page["versions"][0]["version"]
    )
    client.good("POST", "/api/specs/read")
    assert (
        client.good("GET", "/api/specs/tannery-stills")["reading"]["title"]
        == "Stills, changed here"
    )
    assert changed["versions"][-1]["origin"] == "file"
    save(
        changed["document"] | {"title": page["reading"]["title"]},
        base=changed["versions"][0]["version"],
    )


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"id": "Has Spaces"}, "does not match"),
        ({"recipient": "nobody"}, "no recipient 'nobody'"),
        ({"requirements": []}, "requirements"),
        ({"requirements": [{"property": "picture.sise", "rule": {"is": "1x1"}}]}, "no property"),
        ({"delivery": {"name": "{chapter}"}}, "not known"),
        ({"status": "finished"}, "finished"),
        ({"valid_from": "2026-02-31"}, "no day 2026-02-31"),
    ],
)
def test_bad_documents_are_refused_with_the_reason(
    client: Client, change: dict[str, Any], says: str
) -> None:
    status, said, _ = client.call(
        "POST", "/api/specs", {"document": document("bad-one") | change, "base": None}
    )
    assert status in {404, 409, 422} and says in said["detail"] + said["way_out"], said
    checked = client.good("POST", "/api/specs/check", {"document": document("bad-one") | change})
    assert checked["wrong"] and all(w["what"] for w in checked["wrong"])


def test_all_that_is_wrong_is_told_of_at_once_and_in_its_place(client: Client) -> None:
    rows = [
        ROWS[0],
        {"property": "picture.size", "rule": {"is": "big"}},
        {"property": "sound.bit_rate", "rule": {"at_most": "5 MB"}},
    ]
    either = [
        {
            "name": "scan",
            "any": [
                {"name": "a", "rules": {"motion.rate": {"is": "fast"}}},
                {"name": "b", "rules": {"motion.rate": {"is": 25}}},
            ],
        }
    ]
    checked = client.good(
        "POST",
        "/api/specs/check",
        {"document": document("bad-two", requirements=rows, either=either)},
    )
    assert [w["place"] for w in checked["wrong"]] == [
        ["requirements", 1],
        ["requirements", 2],
        ["either", 0, 0, "motion.rate"],
    ]
    assert (
        checked["sentences"][0] == "The picture's codec must be H.264."
        and checked["sentences"][1] == ""
        and checked["reading"] is None
    )


def test_what_is_wrong_beside_the_rules_is_told_in_its_place_too(client: Client) -> None:
    rows = [*ROWS, {"property": "picture.bit_rate", "rule": {"between": ["2 Mb/s", "8 Mb/s"]}}]
    house = {"picture.bit_rate": {"value": "20 Mb/s"}, "motion.rate": {"value": "25"}}
    sets = {
        "rain": {"choices": {"picture.bit_rate": {"value": "much"}}},
        "fog": {"choices": {"picture.bit_rate": {"value": "3 Mb/s"}}},
    }
    more = {
        "house": house,
        "house_sets": sets,
        "coding": {"key_frame_every": "2 parsecs"},
        "delivery": {"name": "{chapter}"},
    }
    checked = client.good(
        "POST", "/api/specs/check", {"document": document("bad-three", requirements=rows, **more)}
    )
    said = {"/".join(map(str, w["place"])): w["what"] for w in checked["wrong"]}
    assert set(said) == {
        "coding/key_frame_every",
        "delivery",
        "house/picture.bit_rate",
        "house_sets/rain/picture.bit_rate",
    }
    assert (
        "parsecs" in said["coding/key_frame_every"]
        and "chapter" in said["delivery"]
        and "outside what the spec allows" in said["house/picture.bit_rate"]
    )
    # Nothing that is sent can be so odd that it is not answered.
    for odd in (
        {"house": ["a"]},
        {"house": {"picture.bit_rate": 5}},
        {"house_sets": {"rain": None}},
        {"coding": 3},
        {"delivery": "x"},
        {"house": {"no.such": {"value": 1}}},
    ):
        assert client.good(
            "POST", "/api/specs/check", {"document": document("bad-four", requirements=rows) | odd}
        )["wrong"], odd


def test_the_register_is_searched_by_what_specs_ask(client: Client) -> None:
    rows = client.good("GET", "/api/specs")
    assert {r["id"] for r in rows if "AC-3" in r["asks"]} >= {"ostler-dvd-625", "ostler-dvd-525"}
    assert {"skerry-sd625"} <= {
        r["id"] for r in rows if "frame size 720 x 576" in r["asks"]
    } and not any("720 x 576" in r["asks"] for r in rows if r["id"] == "pinfold-720p")


def test_a_contradiction_is_found_and_its_repair_made(client: Client) -> None:
    rows = [*ROWS, {"property": "picture.level", "rule": {"at_most": 1}, "source": "2.9"}]
    checked = client.good(
        "POST", "/api/specs/check", {"document": document("contrary", requirements=rows)}
    )
    (one,) = checked["reading"]["contradictions"]
    assert one["grade"] == "contradiction" and any("[2.9]" in c for c in one["clauses"])
    made = client.good(
        "POST",
        "/api/specs/repair",
        {"document": checked["document"], "changes": one["repair"]["changes"]},
    )
    again = client.good("POST", "/api/specs/check", {"document": made["document"]})
    assert again["wrong"] == [] and again["reading"]["contradictions"] == []
    status, said, _ = client.call(
        "POST", "/api/specs", {"document": document("contrary", requirements=rows), "base": None}
    )
    assert (
        status == 409
        and "No file can meet this spec: Level 1 cannot hold 320x180" in said["detail"]
        and "draft" in said["way_out"]
    )
    status, said, _ = client.call(
        "POST", "/api/specs/repair", {"document": {"requirements": 5}, "changes": {}}
    )
    assert status == 422 and "no spec" in said["detail"]


def test_text_is_read_and_refused_with_its_line(client: Client) -> None:
    good = (
        "id: as-text\nversion: 1\nrecipient: pinfold\ntitle: As text\nrequirements:\n  - "
        "{property: picture.display_aspect, rule: {is: 16:9}}\n"
    )
    checked = client.good("POST", "/api/specs/check", {"text": good, "name": "mine.yaml"})
    assert checked["document"]["requirements"][0]["rule"] == {"is": "16:9"}
    checked = client.good(
        "POST", "/api/specs/check", {"text": good.replace("16:9", "wide"), "name": "mine.yaml"}
    )
    assert "mine.yaml, line 6" in checked["wrong"][0]["what"] and checked["document"] is None
    assert (
        client.good(
            "POST", "/api/specs/check", {"text": json.dumps(document("as-json")), "name": "x.json"}
        )["wrong"]
        == []
    )


@pytest.mark.parametrize("form", ["yaml", "json"])
def test_a_spec_goes_out_as_a_file_and_comes_back_the_same(client: Client, form: str) -> None:
    status, text, head = client.call("GET", f"/api/specs/fellside-1080p/file?form={form}")
    assert status == 200 and f'filename="fellside-1080p-v2.{form}"' in head["Content-Disposition"]
    raw = json.dumps(text) if form == "json" else text.decode()
    assert parse(raw, "x") == parse(
        (Path(__file__).parents[2] / "specs/fellside-1080p.yaml").read_text(), "y"
    )


def test_two_specs_are_compared(client: Client) -> None:
    made = client.good("GET", "/api/specs/compare?left=ostler-dvd-625&right=ostler-dvd-525")
    changed = {
        r["label"]: (r["left"], r["right"]) for r in made["rows"] if r["change"] == "changed"
    }
    assert changed["frame rate"] == ("25 fps", "29.97 fps (30000/1001)") and changed[
        "frame size"
    ] == ("720 x 576", "720 x 480")
    status, said, _ = client.call("GET", "/api/specs/compare?left=ostler-dvd-625&right=nothing")
    assert status == 404 and "no spec 'nothing'" in said["detail"]


def test_the_vocabulary_has_all_that_a_spec_may_ask(client: Client) -> None:
    words = client.good("GET", "/api/specs/vocabulary")
    assert {"24000/1001", "25", "30000/1001", "50"} <= {r["value"] for r in words["rates"]}
    size = next(p for p in words["properties"] if p["key"] == "picture.size")
    assert "at_most" in size["operators"] and "matches" not in size["operators"]
    assert any(
        level["name"] == "3.1" and "3600 macroblocks" in level["says"] for level in words["levels"]
    )


def look(client: Client, path: Path, query: str = "") -> list[dict[str, Any]]:
    request = urllib.request.Request(
        f"{client.address}/api/look?name={quote(path.name)}{query}",
        path.read_bytes(),
        method="POST",
    )
    with urllib.request.urlopen(request, timeout=120) as answer:
        return [json.loads(line) for line in answer]


def left_over(house: House) -> list[str]:
    return [p.name for p in house.folders.uploads.iterdir() if p.name.startswith("look-")]


def test_a_file_is_tried_and_nothing_is_kept(client: Client, house: House, hd_frames: Path) -> None:
    before = client.good("GET", "/api/masters")["total"]
    lines = look(client, hd_frames, "&spec=tannery-list")
    assert any("progress" in line for line in lines)
    looked = lines[-1]["looked"]
    assert looked["verdict"] == "breaks"
    found = {f["property"]: f for f in looked["findings"]}
    assert (
        found["file.wrapper"]["verdict"] == "breaks"
        and "must be MOV" in found["file.wrapper"]["why"]
    )
    assert found["sound.layout"]["found"] == "5.1" and found["picture.size"]["verdict"] == "meets"
    assert client.good("GET", "/api/masters")["total"] == before and left_over(house) == []


def test_a_file_larger_than_any_other_request_is_tried(
    client: Client, house: House, tiny: Path, tmp_path: Path
) -> None:
    large = tmp_path / "large.mp4"
    # A box of nothing behind the film, which every reader steps over (ISO/IEC 14496-12, 8.1.2).
    large.write_bytes(
        tiny.read_bytes() + struct.pack(">I4s", 2 * GATHERED, b"free") + bytes(2 * GATHERED - 8)
    )
    looked = look(client, large, "&spec=tannery-list")[-1]["looked"]
    assert {f["property"]: f for f in looked["findings"]}["picture.codec"]["verdict"] == "meets"
    assert left_over(house) == []


def test_a_file_they_accepted_becomes_rules_that_accept_it(
    client: Client, house: House, tiny: Path, save: Callable[..., Any]
) -> None:
    looked = look(client, tiny)[-1]["looked"]
    rows = [p["row"] for p in looked["proposals"] if p["usual"]]
    assert {"picture.codec", "motion.rate", "file.wrapper"} <= {r["property"] for r in rows}
    save(document("as-accepted", requirements=rows))
    again = look(client, tiny, "&spec=as-accepted")[-1]["looked"]
    assert again["verdict"] == "meets", [f for f in again["findings"] if f["verdict"] != "meets"]
    assert left_over(house) == []


def test_what_cannot_be_tried_says_why(client: Client, house: House, tmp_path: Path) -> None:
    words = tmp_path / "words.mp4"
    words.write_text("this is no film")
    assert look(client, words)[-1]["problem"]["what"]
    status, said, _ = client.call("POST", "/api/look?name=empty.mp4", data=b"")
    assert status == 422 and "empty" in said["detail"]
    status, said, _ = client.call("POST", "/api/look?name=x.mp4&spec=nothing", data=b"x")
    assert status == 404
    assert left_over(house) == []


def test_a_reader_who_leaves_ends_the_work(client: Client, house: House, hd_fast: Path) -> None:
    parts, data = urlsplit(client.address), hd_fast.read_bytes()
    with socket.create_connection((parts.hostname, parts.port)) as line:
        head = (
            f"POST /api/look?name=gone.mp4 HTTP/1.1\r\nHost: "
            f"{parts.netloc}\r\nContent-Length: {len(data)}\r\n\r\n"
        )
        line.sendall(head.encode() + data)
        assert line.recv(200).startswith(b"HTTP/1.1 200")
    assert soon(lambda: left_over(house) == [])


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


def choose(client: Client, item: int, key: str, value: Any) -> Any:
    change = {"property": key, "value": value}
    return client.good("PATCH", f"/api/crates/deliverables/{item}", change)


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


def test_what_a_spec_wants_beside_a_file_lies_in_the_bag(house: House, sealed: Any) -> None:
    data = house.folders.bags / sealed["bag"] / "data"
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
    house: House, save_for_all: Callable[..., Any], sealed: Any
) -> Callable[[int, int], dict[str, Any]]:
    """Allow the week what the sealed crate sent, and more."""
    film = house.folders.bags / sealed["bag"] / "data" / "lichen_hours_e07_fog.mp4"

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
    house: House,
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
    assert week(over) == "breaks" and over["next_step"] == "look"
    assert any("bytes in the week" in o for o in over["obstacles"])
    status, said, _ = client.call("POST", f"/api/crates/{over['id']}/seal")
    assert status == 409 and "bytes in the week" in said["detail"]
    back = choose(client, item, "picture.bit_rate", None)["deliverables"][0]
    assert back["stale"] and back["choices"]["picture.bit_rate"] == solved
    over = client.run_to_end(over["id"])
    assert over["next_step"] == "seal" and week(over) == "meets"
    keep_what_is_made(house, over["id"], sealed["id"], room, monkeypatch)
    client.good("DELETE", f"/api/crates/{over['id']}")


def week(crate: Any) -> str:
    verdict: str = {f["property"]: f["verdict"] for f in crate["whole"]}["delivery.week"]
    return verdict


def keep_what_is_made(
    house: House, made: int, sealed: int, room: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A little more sent elsewhere, and what was made stays good, for it still fits; much more, and
    it must be made anew. What is sealed is not planned any more, however much went out since.
    """
    with house.database.session() as session:
        row = get(session, Crate, made)
        sent = week_bytes(session, row)
        for more, stale in ((1, False), (room // 2, True)):
            monkeypatch.setattr(crates, "week_bytes", lambda *_, gone=sent + more: gone)
            assert [one.stale for one in crates.item_statuses(row)] == [stale]
        sealed_row = get(session, Crate, sealed)
        assert sealed_row.state == "sealed"
        monkeypatch.setattr(crates, "week_bytes", lambda *_: 10**9)
        assert [(one.share, one.stale) for one in crates.item_statuses(sealed_row)] == [
            (None, False)
        ]


def test_an_item_that_is_made_keeps_its_plan_while_another_gives_way(
    client: Client,
    house: House,
    save: Callable[..., Any],
    tiny_master: Any,
    clip: Callable[..., Path],
) -> None:
    other = client.take_in(house.folders.intake[0], clip("other_small.mp4", frames=40))
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


def test_alternatives_and_house_sets_are_chosen_in_a_crate(
    client: Client, save: Callable[..., Any], tiny_master: Any
) -> None:
    few = {"motion.longest_gop": {"at_most": 12}, "picture.bit_rate": {"at_least": "400 kb/s"}}
    either = [
        {
            "name": "frames",
            "any": [
                {"name": "few", "rules": few},
                {"name": "many", "rules": {"motion.longest_gop": {"at_most": 50}}},
            ],
        }
    ]
    rows = [*ROWS, {"property": "picture.bit_rate", "rule": {"between": ["200 kb/s", "900 kb/s"]}}]
    sets = {"rain": {"choices": {"picture.bit_rate": {"value": "800 kb/s"}}}}
    save(
        document(
            "chosen-here",
            requirements=rows,
            either=either,
            house={"picture.bit_rate": {"value": "300 kb/s"}},
            house_sets=sets,
        )
    )
    crate = client.crate("chosen-here", tiny_master["id"])
    one = crate["deliverables"][0]
    # The master's own frames lean on each other over more than twelve: it fits the second way best.
    assert one["choices"]["either.frames"] == "many" and [
        o["value"] for o in one["options"]["either.frames"]
    ] == ["few", "many"]
    assert one["choices"]["picture.bit_rate"] == 300_000
    rained = client.good(
        "PATCH", f"/api/crates/deliverables/{one['id']}", {"property": "house", "value": "rain"}
    )["deliverables"][0]
    assert rained["choices"]["picture.bit_rate"] == 800_000
    other = client.good(
        "PATCH",
        f"/api/crates/deliverables/{one['id']}",
        {"property": "either.frames", "value": "few"},
    )["deliverables"][0]
    assert other["choices"]["motion.longest_gop"] == 12
    # A choice that the other alternative has no room for is taken back and named; going back to it
    # is one more choice.
    at = f"/api/crates/deliverables/{one['id']}"
    client.good("PATCH", at, {"property": "either.frames", "value": "many"})
    assert (
        client.good("PATCH", at, {"property": "picture.bit_rate", "value": "250 kb/s"})[
            "taken_back"
        ]
        == []
    )
    page = client.good("PATCH", at, {"property": "either.frames", "value": "few"})
    assert page["taken_back"] == ["picture bit rate 250 kb/s"] and page["deliverables"][0][
        "chosen"
    ] == {"house": "rain", "either.frames": "few"}
    status, said, _ = client.call(
        "PATCH", at, {"property": "picture.bit_rate", "value": "250 kb/s"}
    )
    assert status == 422 and "at least 400 kb/s" in said["detail"]
    status, said, _ = client.call(
        "PATCH",
        f"/api/crates/deliverables/{one['id']}",
        {"property": "either.frames", "value": "none"},
    )
    assert status == 422 and "no frames of this spec" in said["detail"]
    client.good("DELETE", f"/api/crates/{crate['id']}")


def test_items_whose_files_would_have_one_name_are_not_run_until_they_are_told_apart(
    client: Client,
    house: House,
    save: Callable[..., Any],
    tiny_master: Any,
    clip: Callable[..., Path],
) -> None:
    other = client.take_in(house.folders.intake[0], clip("other_small.mp4", frames=40))
    save(document("alike-here", delivery={"name": "{crate}[_e{episode}]", "asked": "must"}))
    crate = client.crate("alike-here", tiny_master["id"], other["id"])
    first, second = crate["deliverables"]
    assert (
        first["name"] == f"{crate['number']}_e07.mp4"
        and second["name"] == f"{crate['number']}.mp4"
        and crate["blocked"] is None
    )
    at = f"/api/crates/deliverables/{second['id']}"
    alike = client.good("PATCH", at, {"property": "name.episode", "value": "07"})
    assert (
        alike["next_step"] == "plan"
        and "Tiny Lantern ep07.mp4" in alike["deliverables"][1]["cautions"][-1]["what"]
    )
    assert "would have the same file name" in alike["blocked"]
    status, said, _ = client.call("POST", f"/api/crates/{crate['id']}/runs")
    assert (
        status == 409
        and "same file name" in said["detail"]
        and "{crate}[_e{episode}]" in said["way_out"]
    )
    assert (
        client.good("PATCH", at, {"property": "name.episode", "value": "08"})["next_step"] == "run"
    )
    # Where the pattern has nothing but the master's name, that can be written by hand; capitals
    # alone do not tell files apart.
    save(document("alike-too", delivery={"name": "{master}"}))
    pair = client.crate("alike-too", tiny_master["id"], other["id"])
    one = pair["deliverables"][1]
    assert one["choices"]["name.master"] == "" and pair["blocked"] is None
    alike = client.good(
        "PATCH",
        f"/api/crates/deliverables/{one['id']}",
        {"property": "name.master", "value": "tiny lantern EP07"},
    )
    assert "same file name" in alike["blocked"] and {d["name"] for d in alike["deliverables"]} == {
        "Tiny_Lantern_ep07.mp4",
        "tiny_lantern_EP07.mp4",
    }
    # Beside each file lies one with its name and another ending: then the ending alone does not
    # tell two files apart.
    rows = [*ROWS[:3], {"property": "file.wrapper", "rule": {"one_of": ["mp4", "mov"]}}]
    for name, sidecars, blocked in (
        ("alike-ending", [], False),
        ("alike-beside", [{"kind": "metadata", "form": "xml"}], True),
    ):
        save(
            document(
                name,
                requirements=rows,
                delivery={"name": "{crate}[_e{episode}]", "sidecars": sidecars},
            )
        )
        made = client.crate(name, tiny_master["id"], other["id"])
        at = f"/api/crates/deliverables/{made['deliverables'][1]['id']}"
        client.good("PATCH", at, {"property": "name.episode", "value": "07"})
        page = client.good("PATCH", at, {"property": "file.wrapper", "value": "mov"})
        assert (
            page["deliverables"][1]["name"].endswith("_e07.mov")
            and (page["blocked"] is not None) is blocked
        )
        client.good("DELETE", f"/api/crates/{made['id']}")
    for id in (crate["id"], pair["id"]):
        client.good("DELETE", f"/api/crates/{id}")


def test_a_master_suggests_rules_too(client: Client, tiny_master: Any) -> None:
    made = client.good("GET", f"/api/specs/from-master/{tiny_master['id']}")
    assert {"picture.size", "sound.tracks"} <= {p["property"] for p in made["proposals"]}
