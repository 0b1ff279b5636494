"""Captions that lie beside a deliverable, from the crate to its receipt."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import bagit
import pytest
from client import Client
from specs_here import document

from captioned import captioned
from support import Installation

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "320x180"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "3"},
    {"property": "sound.tracks", "rule": {"is": 2}, "source": "4"},
]
WANTED = [{"kind": "captions", "form": "webvtt"}, {"kind": "checksums", "form": "md5"}]


@pytest.fixture(scope="module")
def film(client: Client, installation: Installation, tmp_path_factory: Any) -> Any:
    path = captioned(tmp_path_factory.mktemp("captions"))
    return client.ingest(installation.folders.intake[0], path, "captioned_film.mkv")


@pytest.fixture(scope="module")
def specs(save_for_all: Callable[..., Any]) -> tuple[str, str]:
    """One that wants captions beside its files, and one that says nothing of them."""
    wanted = {"name": "{master}", "sidecars": WANTED}
    save_for_all(document("captions-beside", requirements=ROWS, delivery=wanted))
    save_for_all(document("captions-unsaid", requirements=ROWS))
    return "captions-beside", "captions-unsaid"


def folder_of(installation: Installation, crate: Any) -> Path:
    return installation.folders.runs / str(crate["deliverables"][0]["finished"]["id"])


def test_captions_go_from_the_crate_to_the_receipt(
    client: Client, installation: Installation, film: Any, specs: tuple[str, str]
) -> None:
    crate = client.crate(specs[0], film["id"])
    assert crate["beside"] == ["captions as WebVTT", "checksums as MD5"]
    assert "captions" not in crate["deliverables"][0]["choices"]
    crate = client.run_to_end(crate["id"])
    one = crate["deliverables"][0]
    assert one["verdict"] in {"meets", "advice"}, one["rows"]
    (file,) = folder_of(installation, crate).glob("*.vtt")
    assert file.stem == Path(one["name"]).stem
    assert any(f"{file.name}: 3 captions." in note for note in one["finished"]["notes"])
    text = file.read_text()
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    client.good("POST", f"/api/crates/{crate['id']}/hand-over")
    crate = client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "received")
    (arrived,) = installation.folders.inboxes.glob(f"*/{crate['bag']}")
    assert bagit.Bag(str(arrived)).validate()
    assert (arrived / "data" / file.name).read_text() == text
    digest = hashlib.md5(text.encode()).hexdigest()
    assert f"{digest}  {file.name}\n" in (arrived / "data" / "checksums.md5").read_text()
    assert crate["receipts"][0]["accepted"]


def test_they_are_chosen_where_nobody_asks_and_missed_where_they_are_gone(
    client: Client, installation: Installation, film: Any, specs: tuple[str, str]
) -> None:
    crate = client.crate(specs[1], film["id"])
    one = crate["deliverables"][0]
    assert one["choices"]["captions"] == ""
    assert [o["value"] for o in one["options"]["captions"]] == ["", "srt", "webvtt"]
    change = {"property": "captions", "value": "srt"}
    client.good("PATCH", f"/api/crates/deliverables/{one['id']}", change)
    crate = client.run_to_end(crate["id"])
    (file,) = folder_of(installation, crate).glob("*.srt")
    file.unlink()
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    crate = client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] != "sealing")
    assert crate["state"] == "open" and "captions beside" in str(crate)


def test_a_master_without_them_is_told(
    client: Client, tiny_master: Any, specs: tuple[str, str]
) -> None:
    crate = client.crate(specs[0], tiny_master["id"])
    one = crate["deliverables"][0]
    assert crate["beside"][0] == f"captions as WebVTT; to be sent by hand for {tiny_master['name']}"
    assert any("WebVTT beside the file" in c["what"] for c in one["cautions"])
