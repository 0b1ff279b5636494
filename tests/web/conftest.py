"""A client of the running installation, specs and a small master, for the tests of the API."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from client import Client
from specs_here import keeping

from clips import moving_bar
from support import Installation


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture
def save(client: Client) -> Iterator[Callable[..., Any]]:
    """Keep specs, and withdraw them after the test, so that other tests' lists stay as they are."""
    yield from keeping(client)


@pytest.fixture(scope="module")
def save_for_all(client: Client) -> Iterator[Callable[..., Any]]:
    """Keep specs for all tests of this file."""
    yield from keeping(client)


@pytest.fixture(scope="module")
def tiny(clip: Callable[..., Path]) -> Path:
    return clip(
        "Tiny Lantern ep07.mp4",
        draw=moving_bar((320, 180), 120),
        frames=25,
        options={"preset": "ultrafast"},
    )


@pytest.fixture(scope="module")
def tiny_master(client: Client, installation: Installation, tiny: Path) -> Any:
    master = client.ingest(installation.folders.intake[0], tiny)
    client.good("PATCH", f"/api/masters/{master['id']}", {"production": "Lichen Hours"})
    return master


@pytest.fixture(scope="module")
def inbox(installation: Installation) -> Iterator[Path]:
    folder = installation.folders.intake[0] / "reels"
    folder.mkdir(exist_ok=True)
    yield folder
    shutil.rmtree(folder, ignore_errors=True)
