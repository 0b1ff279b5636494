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

# Whether each layer shows a picture of the film: what is drawn covers it.
DRAWN = """
return [...document.querySelectorAll('canvas')].map((canvas) =>
  canvas.width === 320 &&
  canvas.getContext('2d').getImageData(160, 90, 1, 1).data[3] === 255);
"""


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture
def crate(installation: Installation, client: Client, clip: Callable[..., Path]) -> Any:
    film = clip(
        "rehearsed.mp4",
        draw=moving_bar((320, 180), 60),
        frames=25,
        options={"preset": "ultrafast"},
    )
    id = client.ingest(installation.folders.intake[0], film)["id"]
    made = client.crate("tannery-live", id, title="Lanterns, played")
    client.run_to_end(made["id"])
    return made


def test_a_file_is_played_every_way(page: Page, client: Client, crate: Any) -> None:
    page.go(f"/crates/{crate['id']}")
    page.click("Rehearsal")
    page.sees("as a player asks for them")
    page.sees("Asked (rider 5): forwards, backwards, to and fro, anywhere and slower, in 2 layers")
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
    page.click("Show it as it plays")
    page.wait(lambda: page.driver.execute_script(DRAWN) == [True, True])
    page.accessible()
    # It comes to its end by itself.
    page.named("Show it as it plays", "button")
    assert page.errors() == []
