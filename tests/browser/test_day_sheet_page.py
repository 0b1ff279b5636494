"""The day sheet in a real browser: whose turn it is, who works, what was made."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from client import Client
from page import Keys, Page
from selenium.webdriver import ActionChains
from selenium.webdriver.support.ui import Select
from workers_here import draining, wanted

from clips import moving_bar
from support import Installation


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture(scope="module")
def masters(installation: Installation, client: Client, clip: Callable[..., Path]) -> list[Any]:
    films = [
        clip(f"turn {name}.mp4", draw=moving_bar((320, 180), 60), frames=20 + number)
        for number, name in enumerate(("one", "two", "three"))
    ]
    return [client.ingest(installation.folders.intake[0], film) for film in films]


@pytest.fixture
def crates(client: Client, masters: list[Any]) -> Iterator[list[Any]]:
    """Crates of an item each, whose runs wait for workers that take nothing."""
    draining_now = draining(client)
    next(draining_now)
    made = []
    for number, master in enumerate(masters):
        crate = client.crate("tannery-list", master["id"], title=f"Turn {number}")
        made.append(client.good("POST", f"/api/crates/{crate['id']}/runs"))
    yield made
    next(draining_now, None)


def turns(page: Page) -> list[str]:
    """Give the items in their order; none while they are drawn anew."""
    return [one.text for one in page.all("table[aria-label='Runs in their order'] tbody td b")]


def in_order(page: Page, *names: str) -> None:
    page.wait(lambda: turns(page) == [f"turn {name}.mp4" for name in names])


def test_runs_are_put_in_order_held_and_let_go(
    page: Page, client: Client, crates: list[Any]
) -> None:
    page.go("/day")
    in_order(page, "one", "two", "three")
    page.sees("takes nothing more")
    page.accessible()
    # By keys: the third is chosen, and begun first of all, then one later.
    for _ in range(3):
        page.press(Keys.ARROW_DOWN)
    page.press("f")
    in_order(page, "three", "one", "two")
    page.press("l")
    in_order(page, "one", "three", "two")
    # By dragging.
    rows = page.all("table[aria-label='Runs in their order'] tbody tr")
    ActionChains(page.driver).drag_and_drop(rows[2], rows[0]).perform()
    in_order(page, "two", "one", "three")
    # A priority goes before the order.
    number = crates[2]["number"]
    priority = page.find(f"[aria-label='priority of turn three.mp4 of {number}']")
    Select(priority).select_by_visible_text("first")
    in_order(page, "three", "two", "one")
    what_is_held_and_for_the_night(page, crates)
    page.click("Hold all")
    page.sees("Nothing that waits is begun.")
    page.click("Release all")
    wanted(client, "working")
    page.sees("Nothing runs and nothing waits")


def what_is_held_and_for_the_night(page: Page, crates: list[Any]) -> None:
    of = f"turn one.mp4 of {crates[0]['number']}"
    page.find(f"[aria-label='held: {of}']").click()
    page.sees("held back")
    page.accessible()
    page.find(f"[aria-label='held: {of}'][aria-pressed='true']").click()
    page.find(f"[aria-label='at night: {of}']").click()
    page.find(f"[aria-label='at night: {of}'][aria-pressed='true']").click()
    page.find(f"[aria-label='at night: {of}'][aria-pressed='false']")


def test_what_would_help_is_done_from_there(page: Page, client: Client, crates: list[Any]) -> None:
    last = crates[2]
    ready = client.good("GET", f"/api/crates/{last['id']}")["ready"]
    # In time by itself, and late behind the others.
    due = datetime.now(UTC) + timedelta(seconds=ready["total"] - ready["wait"] / 2)
    client.good("PATCH", f"/api/crates/{last['id']}", {"due_at": due.isoformat()})
    page.go("/day")
    page.sees("Would be late")
    page.accessible()
    page.click(f"Make {last['number']} first")
    in_order(page, "three", "one", "two")


def test_a_worker_is_paused_and_works_again(page: Page, client: Client) -> None:
    page.go("/day")
    worker = client.until("/api/day", lambda day: bool(day["workers"]))["workers"][0]
    name = f"{worker['machine']}, worker {worker['place']}"
    page.find(f"[aria-label='Pause {name}']").click()
    page.sees("paused")
    page.find(f"[aria-label='Resume {name}']").click()
    page.wait(lambda: "paused" not in page.text())
    client.until("/api/day", lambda day: all(w["heard"] == "working" for w in day["workers"]))


def test_past_runs_are_looked_through(page: Page, client: Client, crates: list[Any]) -> None:
    wanted(client, "working")
    client.until("/api/day", lambda day: not day["runs"])
    page.go("/day")
    page.click("Past runs")
    page.find("[aria-label='find runs']").send_keys("turn two")
    page.wait(lambda: "turn two.mp4" in page.text() and "turn one.mp4" not in page.text())
    page.accessible()
    Select(page.find("[aria-label='codec']")).select_by_visible_text("ProRes")
    page.sees("No run that has ended is like that")
    Select(page.find("[aria-label='codec']")).select_by_visible_text("H.264")
    page.sees("turn two.mp4")
    link = "a[href^='/api/runs/history.csv?'][href*='codec=h264']"
    page.wait(lambda: page.all(link))
