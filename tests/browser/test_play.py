"""A finished file and what went into its encoder, played together in a real browser."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from client import Client
from page import Keys, Page

from clips import Picture
from support import Installation

FRAMES = 100
# Red of the middle of each half of what is drawn.
DRAWN = """
const canvas = document.querySelector('section[aria-label="Played together"] canvas');
if (!canvas) return [];
const to = canvas.getContext('2d');
return [1, 3].map((n) => to.getImageData(canvas.width * n / 4, canvas.height / 2, 1, 1).data[0]);
"""


def brighter(time: float) -> Picture:
    """Grey that rises by two steps a frame."""
    return np.full((180, 320, 3), 20 + 2 * round(time * 25), np.uint8)


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture
def crate(installation: Installation, client: Client, clip: Callable[..., Path]) -> Any:
    film = clip("brighter.mp4", draw=brighter, frames=FRAMES, options={"preset": "ultrafast"})
    id = client.ingest(installation.folders.intake[0], film)["id"]
    made = client.crate("tannery-live", id, title="Lanterns, side by side")
    return client.run_to_end(made["id"])


def both(page: Page, least: int, most: int) -> bool:
    seen = page.driver.execute_script(DRAWN)
    return len(seen) == 2 and all(least <= one <= most for one in seen)


def test_both_are_played_in_step(page: Page, client: Client, crate: Any) -> None:
    one = crate["deliverables"][0]["id"]
    page.go(f"/crates/{crate['id']}/side-by-side/{one}?view=play&frame=20")
    page.accessible()
    page.click("Make a copy of both to play")
    # Frame 20 is there at once, in both, though nobody plays it yet.
    page.wait(lambda: both(page, 45, 75))
    page.accessible()
    page.press(" ")
    page.named("Stop", "button")
    page.wait(lambda: both(page, 110, 255))
    page.press(" ")
    page.named("Play", "button")
    # Where it was stopped, the other views go on.
    page.wait(lambda: "frame=20" not in page.driver.current_url)
    page.press(Keys.HOME)
    page.wait(lambda: both(page, 5, 35))
    page.press("v")
    page.find("input[aria-label='where one gives way to the other']")
    page.press("v")
    page.find("canvas[aria-label^='one at a time']")
    page.accessible()
    assert page.errors() == []
