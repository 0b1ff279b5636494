"""Specs over the API: written, kept in versions, compared, tried on files; crates that keep theirs
and are told of a newer one.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from client import Client
from specs_here import ROWS, document, with_rate

from ample_crate.core.specs.specfile import parse


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
