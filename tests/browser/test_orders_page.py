"""Orders in a real browser: written, tried, turned on, asked and answered."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from client import Client
from page import Page
from selenium.webdriver.support.ui import Select

from clips import moving_bar
from support import Installation

ID = "lessons-by-themselves"
ROW = "article[aria-label='Lessons by themselves']"


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture(scope="module")
def film(clip: Callable[..., Path]) -> Path:
    return clip("l07_rain.mp4", draw=moving_bar((640, 360)), frames=30)


@pytest.fixture
def folder(client: Client, installation: Installation) -> Iterator[Path]:
    place = installation.folders.intake[0] / "ordered lessons"
    place.mkdir()
    yield place
    client.call("POST", f"/api/orders/{ID}/switch", {"on": False})
    client.call("DELETE", f"/api/orders/{ID}")
    shutil.rmtree(place)


def written(page: Page, tried: Any) -> None:
    """Write an order by its fields, try it on a master, and keep it."""
    page.go("/orders")
    page.click("New order")
    page.sees("An order has a title, a spec and a folder.")
    page.accessible()
    page.field("Title").send_keys("Lessons by themselves")
    page.field("Folder").send_keys("ordered lessons")
    Select(page.field("Spec")).select_by_value("harbour-course")
    page.sees("What arrives in ordered lessons goes by Lesson for the course portal")
    page.field("Names are read by").send_keys("{lesson}_{*}")
    page.find("textarea[placeholder^='episode']").send_keys("lesson: {lesson}")
    page.field("Names that count").send_keys("*.mp4")
    page.sees("as *.mp4 goes")
    page.find(f"[aria-label='take {tried['name']}']").click()
    page.click("Try it on 1")
    page.sees("It would go by itself.")
    page.accessible()
    page.click("As text")
    text = page.find('textarea[aria-label="the order\'s text"]').get_attribute("value") or ""
    assert f"id: {ID}" in text and "pattern:" in text
    page.click("By fields")
    page.click("Keep the order")
    page.sees("Nothing is here")


def test_an_order_is_written_tried_turned_on_and_answered(
    page: Page, client: Client, installation: Installation, folder: Path, film: Path
) -> None:
    tried = client.ingest(installation.folders.intake[0], film, "l06_fog.mp4")
    written(page, tried)
    page.go("/orders")
    page.find(ROW)
    page.click("Turn on")
    shutil.copy(film, folder / "l07_rain.mp4")
    page.sees("1 done")
    shutil.copy(folder / "l07_rain.mp4", folder / "rain without lesson.mp4")
    page.sees("1 sent before")
    # What its name does not tell is asked for, filled in, and goes on.
    with open(folder / "another rain.mp4", "wb") as another:
        another.write(film.read_bytes() + b"\0" * 8)
    page.sees("The name still needs: lesson")
    page.accessible()
    page.find("[aria-label='name.lesson of another rain.mp4']").send_keys("l8")
    page.click("Fill in")
    page.sees("'l8'")
    page.find("[aria-label='name.lesson of another rain.mp4']").clear()
    page.find("[aria-label='name.lesson of another rain.mp4']").send_keys("l08")
    page.click("Fill in")
    page.sees("2 done")
    page.find(f"{ROW} h2 a").click()
    page.sees("All files arrived whole")
    page.accessible()
    page.click("What it did")
    page.sees("another rain.mp4 asks: The name still needs")
    page.click("Turn off")
    page.click("Forget it")
    page.wait(lambda: not page.all(ROW))
