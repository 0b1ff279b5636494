"""Trials of the paces of encoders, ordered by a person and carried out by a worker."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from client import Client
from specs_here import document

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "320x180"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "3"},
    {"property": "picture.bit_rate", "rule": {"at_most": "900 kb/s"}, "source": "4"},
]


def test_a_trial_is_made_once_and_kept(client: Client) -> None:
    asked = {"codec": "h264"}
    first = client.good("POST", "/api/paces", asked)
    again = client.good("POST", "/api/paces", asked)
    assert "h264" in first["codecs"] and len(again["trials"]) == 1
    told = client.until("/api/paces", lambda p: p["trials"][0]["state"] in {"done", "failed"})
    (one,) = told["trials"]
    assert one["state"] == "done", one["error"]
    by = {p["pace"]: p for p in one["paces"]}
    assert by["usual"]["speed"] > 0 and by["faster"]["quality"] > 20 and one["host"]
    assert by["hardware"]["speed"] or "No hardware" in by["hardware"]["error"]
    status, said, _ = client.call("POST", "/api/paces", {"codec": "prores"})
    assert status == 422 and "no paces" in said["detail"]


def test_a_pace_is_chosen_and_run(
    client: Client, tiny_master: Any, save_for_all: Callable[..., Any]
) -> None:
    save_for_all(document("paces-h264", requirements=ROWS))
    crate = client.crate("paces-h264", tiny_master["id"])
    one = crate["deliverables"][0]
    client.good(
        "PATCH",
        f"/api/crates/deliverables/{one['id']}",
        {"property": "picture", "value": "encoded"},
    )
    change = {"property": "pace", "value": "faster"}
    page = client.good("PATCH", f"/api/crates/deliverables/{one['id']}", change)["deliverables"][0]
    assert page["choices"]["pace"] == "faster" and page["codec"] == "h264"
    assert [o["value"] for o in page["options"]["pace"]] == ["usual", "faster", "hardware"]
    done = client.run_to_end(crate["id"])["deliverables"][0]
    assert done["verdict"] in {"meets", "advice"}, done["rows"]
    assert any("faster pace" in step["title"] for step in done["steps"])
    # By now this machine has no such encoder, or one: either way a run ends in so many words.
    change["value"] = "hardware"
    client.good("PATCH", f"/api/crates/deliverables/{one['id']}", change)
    run = client.run_to_end(crate["id"])["deliverables"][0]["run"]
    assert run["state"] == "done" or "No hardware of this machine" in run["error"]["what"]
