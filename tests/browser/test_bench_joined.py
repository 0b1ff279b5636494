"""Parts of a master left out on the planning bench, and named ranges joined."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from bench_page import to_bench
from client import Client
from page import Keys, Page

from clips import Picture, moving_bar
from support import Installation

DARK = range(20, 40)


def draw(time: float) -> Picture:
    """Something that moves, with black in the middle of it."""
    if round(time * 25) in DARK:
        return np.zeros((180, 320, 3), np.uint8)
    return moving_bar()(time)


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture(scope="module")
def crate(installation: Installation, client: Client, clip: Callable[..., Path]) -> Any:
    """A film of which two ranges are named."""
    film = clip("joined.mov", draw=draw, frames=75)
    master = client.ingest(installation.folders.intake[0], film)
    for name, first in (("walk", 5), ("lanterns", 50)):
        body = {"name": name, "first": first, "frames": 10}
        client.good("POST", f"/api/masters/{master['id']}/spans", body)
    return client.crate("wickerwork-square", master["id"], title="Lanterns, joined")


def test_ranges_are_joined(page: Page, client: Client, crate: Any) -> None:
    place = f"/api/crates/deliverables/{crate['deliverables'][0]['id']}/range"

    def left_out() -> list[tuple[int, int]]:
        return [(one["first"], one["frames"]) for one in client.good("GET", place)["left_out"]]

    to_bench(page, crate)
    page.click("trim")
    page.sees("Left out in between")
    # Black that was found is offered.
    page.sees("black: 00:00:00:20 to 00:00:01:14, 20 frames")
    page.accessible()
    page.click("Leave it out")
    page.wait(lambda: left_out() == [(20, 20)])
    page.sees("2 parts joined, 20 frames between them left out")
    page.wait(lambda: "black: " not in page.text())
    # By keys: from the frame shown to the one that is gone to.
    at = "input[aria-label=frame]"
    page.press("l")
    page.press("l")
    page.wait(lambda: page.find(at).get_attribute("value") == "50")
    page.press("e")
    page.sees("to the frame shown")
    for _ in range(4):
        page.press(Keys.ARROW_RIGHT)
    page.wait(lambda: page.find(at).get_attribute("value") == "54")
    page.press("e")
    page.wait(lambda: left_out() == [(20, 20), (50, 5)])
    page.sees("3 parts joined")
    page.accessible()
    page.click("Take it again")
    page.wait(lambda: left_out() == [(50, 5)])
    page.press("u")
    page.wait(lambda: left_out() == [(20, 20), (50, 5)])
    page.field("walk").click()
    page.field("lanterns").click()
    page.click("Join them: 0.80 s")
    page.wait(lambda: left_out() == [(15, 35)])
    found = client.good("GET", place)
    assert (found["first"], found["frames"], found["taken"]) == (5, 55, 20)
    page.sees("20 of 75 frames")
    page.click("framing")
    page.sees("What comes of it")
    assert page.errors() == []
