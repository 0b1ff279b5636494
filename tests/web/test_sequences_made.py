"""A deliverable of numbered images, from the crate to its receipt."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

import bagit
import pytest
from client import Client
from specs_here import document

from support import Installation

ROWS = [
    {"property": "picture.codec", "rule": {"is": "png"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "320x180"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "image sequence"}, "source": "3"},
    {"property": "picture.bit_depth", "rule": {"is": 8}, "source": "4"},
]
DELIVERY = {
    "name": "{master}_{frame}",
    "asked": "must",
    "sidecars": [{"kind": "checksums", "form": "md5"}],
}


@pytest.fixture(scope="module")
def frames(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("numbered-frames", requirements=ROWS, delivery=DELIVERY))
    return "numbered-frames"


@pytest.fixture
def crate(client: Client, tiny_master: Any, frames: str) -> Any:
    return client.crate(frames, tiny_master["id"])


def folder_of(installation: Installation, run: int) -> Path:
    (folder,) = (
        p for p in (installation.folders.runs / str(run)).iterdir() if not p.name.startswith(".")
    )
    return folder


def test_images_go_from_the_crate_to_the_receipt(
    client: Client, installation: Installation, crate: Any
) -> None:
    one = crate["deliverables"][0]
    assert one["name"] == "Tiny_Lantern_ep07_[0000001-0000025].png"
    change = {"property": "name.frame", "value": "1001"}
    status, said, _ = client.call(
        "PATCH", f"/api/crates/deliverables/{one['id']}", change | {"value": "first"}
    )
    assert status == 422 and "no number of an image" in said["detail"]
    client.good("PATCH", f"/api/crates/deliverables/{one['id']}", change)
    crate = client.run_to_end(crate["id"])
    one = crate["deliverables"][0]
    assert one["verdict"] in {"meets", "advice"}, one["rows"]
    run = one["finished"]["id"]
    images = sorted(p.name for p in folder_of(installation, run).iterdir())
    assert images[0] == "Tiny_Lantern_ep07_1001.png" and len(images) == 25
    for what in ("frames", "master-frames", "differences"):
        status, jpeg, _ = client.call("GET", f"/api/runs/{run}/{what}/7?width=200")
        assert status == 200 and jpeg[:2] == b"\xff\xd8"
    status, said, _ = client.call("GET", f"/api/runs/{run}/play")
    assert status == 404 and "not played as one" in said["detail"]
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    client.good("POST", f"/api/crates/{crate['id']}/hand-over")
    crate = client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "received")
    (arrived,) = installation.folders.inboxes.glob(f"*/{crate['bag']}")
    bag = bagit.Bag(str(arrived))
    assert bag.validate()
    payload = {name.removeprefix("data/") for name in bag.payload_entries()}
    assert {f"Tiny_Lantern_ep07/{name}" for name in images} <= payload
    assert "checksums.md5" in payload and crate["receipts"][0]["accepted"]


def test_images_that_are_gone_are_missed(
    client: Client, installation: Installation, crate: Any
) -> None:
    crate = client.run_to_end(crate["id"])
    run = crate["deliverables"][0]["finished"]["id"]
    shutil.rmtree(folder_of(installation, run))
    crate = client.good("GET", f"/api/crates/{crate['id']}")
    assert any("no longer where its run left it" in said for said in crate["obstacles"])
