"""Streams that are copied, through the application: planned so, chosen, run, measured."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import av
import pytest
from client import Client
from specs_here import document, keeping

from clips import moving_bar
from support import Installation


@pytest.fixture(scope="module")
def camera(client: Client, installation: Installation, clip: Callable[..., Path]) -> Any:
    """A long-GOP master of 100 frames."""
    film = clip(
        "copied camera.mov",
        draw=moving_bar((320, 180), 120),
        frames=100,
        options={"preset": "ultrafast", "g": "24", "bf": "2"},
    )
    return client.ingest(installation.folders.intake[0], film)


@pytest.fixture(scope="module")
def spec(client: Client) -> Iterator[str]:
    saving = keeping(client)
    save = next(saving)
    save(document("copies-here"))
    yield "copies-here"
    next(saving, None)


def choose(client: Client, item: int, value: str | None, key: str = "picture") -> Any:
    change = {"property": key, "value": value}
    crate = client.good("PATCH", f"/api/crates/deliverables/{item}", change)
    return crate["deliverables"][0]


def coded(path: Path) -> list[bytes]:
    with av.open(str(path)) as container:
        return [bytes(p) for p in container.demux(video=0) if p.size]


def test_a_master_that_meets_goes_out_as_it_is_coded(
    client: Client, installation: Installation, camera: Any, spec: str
) -> None:
    crate = client.crate(spec, camera["id"])
    one = crate["deliverables"][0]
    assert [s["title"] for s in one["steps"]][:2] == ["H.264 picture copied", "AAC sound copied"]
    assert [o["value"] for o in one["options"]["picture"]] == ["copied", "encoded", ""]
    done = client.run_to_end(crate["id"])
    one = done["deliverables"][0]
    assert one["run"]["state"] == "done" and one["verdict"] == "meets"
    (file,) = installation.folders.runs.rglob(one["name"])
    assert coded(file) == coded(installation.folders.intake[0] / camera["name"])
    encoded = choose(client, one["id"], "encoded")
    assert encoded["stale"] and encoded["choices"]["picture"] == "encoded"
    back = choose(client, one["id"], None)
    assert not back["stale"] and back["choices"]["picture"] == "copied"
    status, said, _ = client.call(
        "PATCH",
        f"/api/crates/deliverables/{one['id']}",
        {"property": "picture", "value": "invented"},
    )
    assert status == 422 and "Choose copied or encoded" in said["way_out"]


def test_a_range_is_copied_from_the_key_frame_before_it(
    client: Client, camera: Any, spec: str
) -> None:
    path = f"/api/masters/{camera['id']}/spans"
    page = client.good("POST", path, {"name": "middle", "first": 30, "frames": 20})
    body = {"title": "A part", "spec": spec, "due_at": "2031-01-01T00:00:00Z"}
    crate = client.good("POST", "/api/crates", body | {"spans": [page["spans"][0]["id"]]})
    one = crate["deliverables"][0]
    assert one["choices"]["picture"] == "encoded" and one["frames"] == 20
    one = choose(client, one["id"], "copied")
    said = next(c for c in one["cautions"] if "The copy begins at frame 24" in c["what"])
    assert not said["blocks"] and one["frames"] >= 26
    planned = one["frames"]
    done = client.run_to_end(crate["id"])["deliverables"][0]
    assert done["run"]["state"] == "done", done["run"]["error"]
    frames = {r["property"]: r for r in done["rows"]}
    assert done["frames"] == planned and done["verdict"] in {"meets", "unproven"}, frames


def test_sound_alone_is_made_and_measured(
    client: Client, installation: Installation, camera: Any
) -> None:
    crate = client.crate("brackwater-sound", camera["id"])
    one = crate["deliverables"][0]
    assert any(s["title"] == "Picture left out" for s in one["steps"])
    assert one["picture_size"] is None and "picture" not in one["choices"]
    done = client.run_to_end(crate["id"])["deliverables"][0]
    assert done["run"]["state"] == "done" and done["verdict"] == "meets", done["run"]["error"]
    (file,) = installation.folders.runs.rglob(done["name"])
    with av.open(str(file)) as container:
        assert not container.streams.video and container.format.name == "aiff"
