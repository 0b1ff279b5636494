"""Files that are nearly the same are told apart by what they show, through the API."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from client import Client
from master_pages import Make

from ample_crate.store.outlines import Outline
from clips import Draw, moving_bar
from support import Installation

FRAMES = 75


def titled(first: int, last: int) -> Draw:
    """The same film with a title in some of its frames."""
    plain = moving_bar((320, 180))

    def draw(time: float) -> np.ndarray:
        frame = plain(time)
        if first <= round(time * 25) <= last:
            frame[120:150, 60:260] = 235
        return frame

    return draw


@pytest.fixture(scope="module")
def films(client: Client, installation: Installation, clip: Make) -> dict[str, Any]:
    """A film; the same stream in another wrapper; coded coarser; with a title in frames 30 to 41;
    ten frames shorter at its start; and another film.
    """
    options = {"preset": "ultrafast", "crf": "18", "g": "12"}
    made = {
        "near.mov": clip("near.mov", frames=FRAMES, options=options),
        "near.mkv": clip("near.mkv", frames=FRAMES, options=options),
        "near_coarse.mov": clip("near_coarse.mov", frames=FRAMES, options=options | {"crf": "30"}),
        "near_title.mov": clip(
            "near_title.mov", frames=FRAMES, options=options, draw=titled(30, 41)
        ),
        "near_short.mov": clip(
            "near_short.mov",
            frames=FRAMES - 10,
            options=options,
            draw=lambda time: moving_bar((320, 180))(time + 0.4),
        ),
        "far.mov": clip("far.mov", frames=FRAMES, options=options, draw=moving_bar(speed=500.0)),
    }
    folder = installation.folders.intake[0]
    return {name: client.ingest(folder, path) for name, path in made.items()}


@pytest.fixture(scope="module")
def near(client: Client, films: dict[str, Any]) -> dict[str, Any]:
    found = client.good("GET", f"/api/masters/{films['near.mov']['id']}/near")
    assert found["looked"]
    return {one["master"]["name"]: one for one in found["near"]}


def test_the_same_stream_in_another_wrapper_is_known_by_its_coded_frames(
    near: dict[str, Any],
) -> None:
    one = near["near.mkv"]
    assert one["coded"] and one["same"] == one["shared"] == FRAMES
    assert one["wrapper"] == "Matroska" and not one["parts"]


def test_the_same_pictures_coded_otherwise_are_the_same_pictures(near: dict[str, Any]) -> None:
    one = near["near_coarse.mov"]
    assert not one["coded"] and one["same"] == FRAMES and not one["parts"]


def test_another_revision_is_told_by_the_frames_that_differ(near: dict[str, Any]) -> None:
    one = near["near_title.mov"]
    assert one["parts"] == [{"first": 30, "last": 41, "other": 30}]
    assert (one["before"], one["after"], one["more"]) == (0, 0, 0)


def test_one_that_begins_later_is_laid_where_it_belongs(near: dict[str, Any]) -> None:
    one = near["near_short.mov"]
    assert (one["before"], one["after"]) == (-10, 0) and one["same"] == FRAMES - 10


def test_another_film_of_its_length_is_not_near(near: dict[str, Any]) -> None:
    assert "far.mov" not in near


def test_one_that_was_not_looked_at_says_so(
    client: Client, installation: Installation, films: dict[str, Any]
) -> None:
    """As masters are that were measured before outlines were kept."""
    id = films["far.mov"]["id"]
    with installation.database.session() as session:
        session.delete(session.get(Outline, id))
    assert client.good("GET", f"/api/masters/{id}/near") == {
        "looked": False,
        "wrapper": "MOV",
        "near": [],
    }
    again = client.good("POST", f"/api/masters/{id}/read")
    assert again["id"] == id
    client.until(f"/api/masters/{id}", lambda page: page["state"] == "ready")
    assert client.good("GET", f"/api/masters/{id}/near")["looked"]
    assert client.call("GET", "/api/masters/999999/near")[0] == 404
