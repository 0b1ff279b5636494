"""The report on a finished file: as a page, on paper, as data, as a table."""

from __future__ import annotations

import base64
import csv
import io
import json
import re
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from client import Client
from PIL import Image
from specs_here import document

from ample_crate.core.errors import Impossible
from ample_crate.handover import paper, report
from support import Installation

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "160x90"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "3"},
    {"property": "sound.tracks", "rule": {"is": 7}, "severity": "should", "source": "4"},
]


@pytest.fixture(scope="module")
def item(client: Client, tiny_master: Any, save_for_all: Callable[..., Any]) -> Any:
    save_for_all(document("reported", requirements=ROWS))
    crate = client.crate("reported", tiny_master["id"])
    return client.run_to_end(crate["id"])["deliverables"][0]


@pytest.fixture
def path(item: Any) -> str:
    return f"/api/runs/{item['run']['id']}/report?kind="


@pytest.fixture
def measured(client: Client, item: Any) -> Any:
    at = f"/api/runs/{item['run']['id']}/quality"
    if client.good("GET", at)["state"] != "done":
        client.good("POST", at)
    return client.until(at, lambda answer: answer["state"] == "done")


def text(client: Client, path: str) -> str:
    found = client.good("GET", path)
    return found.decode() if isinstance(found, bytes) else json.dumps(found)


def test_before_the_quality_is_measured(client: Client, path: str, item: Any) -> None:
    page = text(client, path + "html")
    assert item["name"] in page and "Master has" in page
    assert "How near it stays" not in page
    found = json.loads(text(client, path + "json"))
    assert found["file"] == item["name"] and "quality" not in found
    status, answer, _ = client.call("GET", path + "csv")
    assert status == 409 and "Measure the quality first" in answer["way_out"]


def test_as_a_page_with_pictures(client: Client, path: str, measured: Any) -> None:
    page = text(client, path + "html")
    assert "How near it stays to its master" in page and "ICASSP 2020" in page
    mean = next(m["mean"] for m in measured["measures"] if m["key"] == "psnr")
    assert f"{mean:.2f} dB" in page
    found = re.findall(r'<img src="data:image/jpeg;base64,([^"]+)" alt="([^"]+)"', page)
    assert [name for _, name in found[:2]] == ["what the route gives", "the file"]
    sizes = {Image.open(io.BytesIO(base64.b64decode(data))).size for data, _ in found}
    assert sizes == {(480, 270)}
    # Nothing is fetched from anywhere.
    assert not re.findall(r'(?:src|href)="(?!data:)', page)


def test_on_paper(client: Client, path: str, measured: Any) -> None:
    found = client.good("GET", path + "pdf")
    assert bytes(found).startswith(b"%PDF-") and b"/Image" in bytes(found)


def test_as_a_table_of_frames(client: Client, path: str, measured: Any) -> None:
    rows = list(csv.DictReader(io.StringIO(text(client, path + "csv"))))
    assert [int(row["frame"]) for row in rows] == list(range(25))
    psnr = next(m for m in measured["measures"] if m["key"] == "psnr")
    assert np.mean([float(row["psnr"]) for row in rows]) == pytest.approx(psnr["mean"], abs=1e-3)
    data = json.loads(text(client, path + "json"))["quality"]
    assert data["curve"]["psnr"] == [float(row["psnr"]) for row in rows]
    assert [m["frame"] for m in data["moments"]] == [m["frame"] for m in measured["worst"]]


def test_what_is_not_there(client: Client, installation: Installation) -> None:
    assert client.call("GET", "/api/runs/999999/report")[0] == 404


def test_names_are_written_as_they_are() -> None:
    entry = {
        "file": "<b>&.mov",
        "bytes": 1,
        "sha256": "",
        "spec": {"title": "t", "version": 1, "source": ""},
        "verdict": "meets",
        "rows": [],
        "steps": [],
        "cautions": [],
        "exceptions": [],
    }
    page = report.page("<script>", [entry])
    assert "&lt;b&gt;&amp;.mov" in page and "<script>" not in page


def test_paper_fetches_nothing(tmp_path: Any) -> None:
    secret = tmp_path / "secret.txt"
    secret.write_text("not for paper")
    page = f'<link rel="attachment" href="file://{secret}"><img src="file://{secret}">shown'
    assert secret.read_bytes() not in paper.pdf(page)


def test_a_curve_is_drawn_with_its_best_at_the_top() -> None:
    assert report.line([40.0, 30.0, 35.0], 40.0) == "0.0,0.0 500.0,100.0 1000.0,50.0"
    assert report.line([40.0], 40.0) == "0.0,0.0"
    assert len(report.line([float(n) for n in range(5000)], 4999.0).split()) == report.POINTS


def test_without_the_means_that_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    import builtins

    real = builtins.__import__

    def missing(name: str, *rest: Any, **more: Any) -> Any:
        if name == "weasyprint":
            raise OSError("cannot load library")
        return real(name, *rest, **more)

    monkeypatch.setattr(builtins, "__import__", missing)
    with pytest.raises(Impossible, match="cannot lay out a PDF"):
        paper.pdf("<p>x</p>")
