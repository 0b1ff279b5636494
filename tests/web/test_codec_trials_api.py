"""Codecs tried on a part of a master through the API: ordered, shown, given as a table, stopped."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from client import Client
from held import held
from PIL import Image
from specs_here import document
from sqlalchemy import delete, select

from ample_crate.store.models import Master
from ample_crate.store.studied import CodecTrial
from ample_crate.work import codec_trials, housekeeping
from ample_crate.work.tried import COLUMNS
from support import Installation

ENDED = {"done", "failed", "cancelled"}
PIECES = [{"first": 2, "frames": 5}, {"first": 12, "frames": 4}]


def place(master: Any) -> str:
    return f"/api/masters/{master['id']}/codec-trial"


def tried(client: Client, master: Any, *texts: str) -> Any:
    client.good("POST", place(master), {"tries": list(texts), "pieces": PIECES})
    found = client.until(place(master), lambda answer: answer["state"] in ENDED)
    assert found["state"] == "done", found["error"]
    return found


def test_codecs_are_tried_and_come_as_a_table(client: Client, tiny_master: Any) -> None:
    before = client.good("GET", place(tiny_master))
    assert (before["state"], before["tried"], before["hindrance"]) == ("none", [], None)
    h264 = next(one for one in before["codecs"] if one["key"] == "h264")
    assert h264["rated"] and h264["passes"] == 2
    assert not next(one for one in before["codecs"] if one["key"] == "ffv1")["rated"]
    texts = ["h264:bit_rate=200 kb/s", "h264:bit_rate=200 kb/s:passes=2", "ffv1", "dvvideo"]
    found = tried(client, tiny_master, *texts)
    assert [one["text"] for one in found["tried"]] == found["tries"] == texts
    assert (found["frames"], found["pieces"], found["stale"]) == (9, PIECES, False)
    once, twice, whole, none = found["tried"]
    assert (once["came"]["passes"], twice["came"]["passes"]) == (1, 2)
    assert whole["came"]["psnr"]["worst"] == 100 > once["came"]["psnr"]["mean"]
    assert once["came"]["bytes"] < whole["came"]["bytes"]
    assert none["came"] is None and "does not hold" in none["error"]["what"]
    text = bytes(client.good("GET", f"{place(tiny_master)}/table.csv")).decode()
    rows = list(csv.DictReader(io.StringIO(text)))
    assert tuple(rows[0]) == COLUMNS
    assert [int(row["bytes"] or 0) for row in rows] == [
        0 if one["came"] is None else one["came"]["bytes"] for one in found["tried"]
    ]


def test_finished_runs_of_a_codec_stand_beside(
    client: Client, tiny_master: Any, save_for_all: Callable[..., Any]
) -> None:
    asked = [
        {"property": "picture.codec", "rule": {"is": "mjpeg"}, "source": "1"},
        {"property": "picture.size", "rule": {"is": "160x90"}, "source": "2"},
        {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "3"},
    ]
    save_for_all(document("tried-before", requirements=asked))
    crate = client.crate("tried-before", tiny_master["id"])
    run = client.run_to_end(crate["id"])["deliverables"][0]["run"]
    assert tried(client, tiny_master, "ffv1")["before"] == []
    found = tried(client, tiny_master, "mjpeg", "ffv1")
    (one,) = [one for one in found["before"] if one["run"] == run["id"]]
    assert one["mine"] and (one["width"], one["height"], one["passes"]) == (160, 90, 1)
    assert one["bytes"] == run["size"] and one["fps"] > 0 and one["xpsnr"] is None
    assert one["bit_rate"] == pytest.approx(8 * run["size"] / 1, rel=0.01)


@pytest.mark.parametrize(
    ("tries", "pieces", "says"),
    [
        (["cinepak"], [], "Known are|no codec"),
        (["h264:bit_rate=much"], [], "much"),
        (["ffv1:passes=2"], [], "one pass"),
        (["h264"], [{"first": 20, "frames": 50}], "ends at frame"),
        (["h264"], [{"first": 9, "frames": 3}, {"first": 2, "frames": 3}], "in order|before"),
    ],
)
def test_what_cannot_be_tried_is_refused(
    client: Client, tiny_master: Any, tries: list[str], pieces: Any, says: str
) -> None:
    asked = {"tries": tries, "pieces": pieces}
    status, problem, _ = client.call("POST", place(tiny_master), asked)
    assert status == 422, problem
    assert any(part in problem["detail"] for part in says.split("|")), problem["detail"]
    status, _, _ = client.call("POST", place(tiny_master), {"tries": [], "pieces": []})
    assert status == 422


def test_a_trial_is_stopped_and_leaves_nothing(
    client: Client, tiny_master: Any, installation: Installation
) -> None:
    with installation.database.session() as session:
        session.execute(delete(CodecTrial))
    asked = {"tries": ["h264"], "pieces": []}
    held(installation, codec_trials.STUDY, tiny_master["id"], "waiting", asked=asked)
    again = client.good("POST", place(tiny_master), {"tries": ["ffv1"], "pieces": []})
    assert again["tries"] == ["h264"]  # the one that goes on is not replaced
    assert client.good("POST", f"{place(tiny_master)}/cancel")["state"] == "cancelled"
    runs = installation.folders.runs
    assert not list(runs.glob(f"{codec_trials.PREFIX}*"))
    (runs / f"{codec_trials.PREFIX}99").mkdir()
    housekeeping.tidy(installation.database, installation.folders)
    assert not list(runs.glob(f"{codec_trials.PREFIX}*"))


def test_of_another_master_it_is_stale(
    client: Client, tiny_master: Any, installation: Installation
) -> None:
    tried(client, tiny_master, "ffv1")
    with installation.database.session() as session:
        row = session.scalars(select(Master).where(Master.id == tiny_master["id"])).one()
        known, row.sha256 = row.sha256, "0" * 64
    found = client.good("GET", place(tiny_master))
    assert found["stale"] and found["tried"] == []
    assert client.call("GET", f"{place(tiny_master)}/table.csv")[0] == 404
    with installation.database.session() as session:
        session.get_one(Master, tiny_master["id"]).sha256 = known


@pytest.mark.parametrize(
    "text", ["h264:file.name=a\0b", "h264:bit_rate=\ud800", "h264:" + "x" * 100_000, "\0"]
)
def test_odd_text_is_refused_and_breaks_nothing(
    client: Client, tiny_master: Any, text: str
) -> None:
    status, problem, _ = client.call("POST", place(tiny_master), {"tries": [text], "pieces": []})
    assert status in {400, 422} and problem["way_out"]


def test_a_still_is_not_tried(client: Client, inbox: Any, tmp_path: Path) -> None:
    path = tmp_path / "a still to try.png"
    Image.new("RGB", (64, 48), (200, 80, 40)).save(path)
    still = client.ingest(inbox.parent, path)
    assert "no moving picture" in client.good("GET", place(still))["hindrance"]["what"]
    asked = {"tries": ["h264"], "pieces": []}
    status, problem, _ = client.call("POST", place(still), asked)
    assert status == 409 and "Try codecs on one that has" in problem["way_out"]
