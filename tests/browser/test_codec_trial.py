"""Codecs tried on a master in a real browser."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from client import Client
from page import Keys, Page
from selenium.webdriver.support.ui import Select

from clips import moving_bar
from support import Installation


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture
def master(installation: Installation, client: Client, clip: Callable[..., Path]) -> Any:
    film = clip(
        "tried in codecs.mp4",
        draw=moving_bar((320, 180), 60),
        frames=12,
        options={"preset": "ultrafast"},
    )
    return client.ingest(installation.folders.intake[0], film)


def chosen(page: Page, label: str, value: str) -> None:
    Select(page.find(f"[aria-label='{label}']")).select_by_value(value)


def written(page: Page, label: str, text: str) -> None:
    field = page.find(f"[aria-label='{label}']")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text)


def test_codecs_are_tried_on_a_master(page: Page, client: Client, master: Any) -> None:
    page.go(f"/masters/{master['id']}")
    page.click("Try codecs")
    page.sees("all else is as the master has it")
    page.accessible()
    chosen(page, "codec 3", "ffv1")
    page.click("Add another")
    chosen(page, "codec 4", "dvvideo")
    written(page, "rate of codec 1", "150 kb/s")
    page.click("Try them")
    page.find("table[aria-label='What came of each codec']")
    page.sees("H.264 at 150 kb/s")
    page.sees("H.264 at 4 Mb/s in two passes")
    page.sees("What came of 12 frames of each")
    page.sees("does not hold 320x180")
    page.accessible()
    found = client.good("GET", f"/api/masters/{master['id']}/codec-trial")
    assert [one["codec"] for one in found["tried"]] == ["h264", "h264", "ffv1", "dvvideo"]
    link = page.find("a[href$='table.csv']")
    address = str(link.get_attribute("href")).partition("/api/")[2]
    assert len(bytes(client.good("GET", f"/api/{address}")).splitlines()) == 5
    assert page.errors() == []
    written(page, "rate of codec 1", "much")
    page.click("Try them")
    page.sees("much")
    page.find("[role='alert']")
