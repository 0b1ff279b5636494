"""A deliverable whose transparency is laid over another master, in its crate."""

from __future__ import annotations

from collections.abc import Callable
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from client import Client
from PIL import Image
from specs_here import document

from clips import Clip, plain, write_clear
from support import Installation

SIZE = (128, 64)
GREEN, RED = (40, 160, 60), (180, 30, 40)
ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "128x64"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "3"},
]


@pytest.fixture(scope="module")
def spec(save_for_all: Callable[..., Any]) -> str:
    save_for_all(document("over-a-still", requirements=ROWS))
    return "over-a-still"


@pytest.fixture(scope="module")
def layer(client: Client, installation: Installation, tmp_path_factory: Any) -> Any:
    """A film that is wholly clear on its left."""

    picture = np.full((*SIZE[::-1], 4), (*RED, 255), np.uint8)
    picture[:, : SIZE[0] // 2, 3] = 0
    path = tmp_path_factory.mktemp("layer") / "layer.mov"
    write_clear(path, [picture] * 3)
    return client.ingest(installation.folders.intake[0], path)


@pytest.fixture
def still(client: Client, installation: Installation, tmp_path: Path) -> Any:
    Image.fromarray(np.full((64, 128, 3), GREEN, np.uint8)).save(tmp_path / "meadow.png")
    return client.ingest(installation.folders.intake[0], tmp_path / "meadow.png")


@pytest.fixture
def crate(client: Client, layer: Any, spec: str) -> Any:
    return client.crate(spec, layer["id"])


def lay(client: Client, crate: Any, master: int | None) -> Any:
    one = crate["deliverables"][0]["id"]
    return client.good("PUT", f"/api/crates/deliverables/{one}/under", {"master": master})


def left_of(client: Client, path: str) -> np.ndarray:
    status, body, _ = client.call("GET", path)
    assert status == 200
    return np.asarray(Image.open(BytesIO(body)).convert("RGB"), float)[32, 20]


def test_it_is_laid_over_a_still_and_back(
    client: Client, crate: Any, layer: Any, still: Any
) -> None:
    crate = lay(client, crate, still["id"])
    one = crate["deliverables"][0]
    assert one["under"] == {"id": still["id"], "name": "meadow.png"}
    assert one["choices"]["background"] == "still"
    labels = {o["value"]: o["label"] for o in one["options"]["background"]}
    assert labels["still"] == "the picture of meadow.png"
    shown = left_of(client, f"/api/crates/deliverables/{one['id']}/planned/1?width=128")
    assert np.abs(shown - GREEN).max() <= 6
    crate = client.run_to_end(crate["id"])
    assert crate["deliverables"][0]["verdict"] == "meets"
    status, said, _ = client.call("DELETE", f"/api/masters/{still['id']}")
    assert status == 409 and "is in crate" in said["detail"]
    crate = lay(client, crate, None)
    one = crate["deliverables"][0]
    assert one["under"] is None and one["choices"]["background"] == "black" and one["stale"]


def test_another_background_lets_go_of_it(
    client: Client, installation: Installation, crate: Any, tmp_path: Path
) -> None:
    Image.fromarray(np.full((64, 128, 3), GREEN, np.uint8)).save(tmp_path / "dismissed.png")
    still = client.ingest(installation.folders.intake[0], tmp_path / "dismissed.png")
    one = lay(client, crate, still["id"])["deliverables"][0]["id"]
    change = {"property": "background", "value": "white"}
    crate = client.good("PATCH", f"/api/crates/deliverables/{one}", change)
    assert crate["deliverables"][0]["under"] is None
    status, said, _ = client.call(
        "PATCH", f"/api/crates/deliverables/{one}", change | {"value": "still"}
    )
    assert status == 422 and "No master is chosen" in said["detail"]
    client.good("DELETE", f"/api/masters/{still['id']}")


def test_a_new_revision_keeps_it(client: Client, crate: Any, still: Any) -> None:
    lay(client, crate, still["id"])
    client.run_to_end(crate["id"])
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    again = client.good("POST", f"/api/crates/{crate['id']}/revisions")
    assert again["deliverables"][0]["under"]["id"] == still["id"]


def test_what_cannot_be_laid_under_is_refused(
    client: Client, installation: Installation, crate: Any, layer: Any, spec: str, tmp_path: Path
) -> None:
    one = crate["deliverables"][0]["id"]
    file = Clip(draw=plain(GREEN, SIZE), frames=3).write(tmp_path / "opaque.mov")
    opaque = client.ingest(installation.folders.intake[0], file)
    other = client.crate(spec, opaque["id"])["deliverables"][0]["id"]
    for of, master, words in (
        (one, layer["id"], "the master itself"),
        (one, 10**6, "There is no"),
        (other, layer["id"], "would be seen"),
    ):
        path = f"/api/crates/deliverables/{of}/under"
        status, said, _ = client.call("PUT", path, {"master": master})
        assert status in {404, 409, 422} and words in said["detail"], said
