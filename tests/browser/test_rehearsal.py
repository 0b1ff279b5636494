"""A finished file rehearsed in a real browser."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from client import Client
from page import Keys, Page

from clips import moving_bar
from support import Installation


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture
def crate(installation: Installation, client: Client, clip: Callable[..., Path]) -> Any:
    film = clip(
        "rehearsed.mp4",
        draw=moving_bar((640, 360), 120),
        frames=25,
        options={"preset": "ultrafast"},
    )
    id = client.ingest(installation.folders.intake[0], film)["id"]
    made = client.crate("wickerwork-square", id, title="Lanterns, played")
    client.run_to_end(made["id"])
    return made


def test_a_file_is_played_every_way(page: Page, client: Client, crate: Any) -> None:
    page.go(f"/crates/{crate['id']}")
    page.click("Rehearsal")
    page.sees("as a player asks for them")
    page.accessible()
    page.click("Play it every way")
    page.find("table[aria-label='Late pictures by way and layers']")
    waits = page.find("figure[aria-label^='Waits, forwards']")
    assert "of 240 pictures late" in str(waits.get_attribute("aria-label"))
    page.accessible()
    page.press(Keys.ARROW_DOWN)
    page.find("figure[aria-label^='Waits, backwards']")
    page.press(Keys.ARROW_RIGHT)
    page.sees("2 layers: by how much")
    page.sees("Play it again")
    assert page.errors() == []
