"""Channels of a master's track, chosen in a crate."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from client import Client
from specs_here import document

from clips import Clip
from support import Installation

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
    {"property": "picture.size", "rule": {"is": "320x180"}, "source": "2"},
    {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "3"},
    {"property": "sound.layout", "rule": {"is": "stereo"}, "source": "4"},
    {"property": "sound.tracks", "rule": {"is": 1}, "source": "5"},
]


@pytest.fixture(scope="module")
def crate(
    client: Client,
    installation: Installation,
    save_for_all: Callable[..., Any],
    tmp_path_factory: Any,
) -> Any:
    """A film with a track of six channels and one of two."""
    save_for_all(document("channels-stereo", requirements=ROWS))
    noise = np.random.default_rng(2).normal(0, 0.05, (8, 48000)).astype(np.float32)
    clip = Clip(sound_codec="pcm_s24le", tracks=[("5.1", noise[:6]), ("stereo", noise[6:])])
    path = clip.write(tmp_path_factory.mktemp("channels") / "six_and_two.mov")
    master = client.ingest(installation.folders.intake[0], path)
    return client.crate("channels-stereo", master["id"])


def test_channels_are_those_of_the_track_that_is_chosen(client: Client, crate: Any) -> None:
    one = crate["deliverables"][0]

    def choose(key: str, value: str | None) -> Any:
        change = {"property": key, "value": value}
        return client.good("PATCH", f"/api/crates/deliverables/{one['id']}", change)

    page = choose("tracks", "1")["deliverables"][0]
    offered = [o["value"] for o in page["options"]["channels"]]
    assert offered[:4] == ["", "1+2", "3+4", "5+6"] and "6" in offered
    page = choose("channels", "5+6")["deliverables"][0]
    assert page["choices"]["channels"] == "5+6"
    assert any("Channels 5, 6" in step["title"] for step in page["steps"])
    status, said, _ = client.call(
        "PATCH",
        f"/api/crates/deliverables/{one['id']}",
        {"property": "channels", "value": "6+7"},
    )
    assert status == 422 and "a track that has 6" in said["detail"]
    answer = choose("tracks", "2")
    assert answer["taken_back"] == ["channels 5+6"]
    assert "channels" not in answer["deliverables"][0]["choices"]
    done = client.run_to_end(crate["id"])["deliverables"][0]
    assert done["verdict"] in {"meets", "advice"}, done["rows"]
