"""What a rate buys, on the planning bench in a real browser."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from bench_page import chosen, to_bench
from client import Client
from page import Keys, Page
from selenium.webdriver.common.by import By

from clips import moving_bar
from support import Installation


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@contextmanager
def crate_at(
    client: Client, master: int, rate: str, id: str, **asked: dict[str, Any]
) -> Iterator[Any]:
    """Have a crate of a master at a rate, by a spec of its own."""
    rules = {
        "picture.codec": {"is": "h264"},
        "picture.bit_rate": {"between": ["10 kb/s", "2 Mb/s"]},
        "file.wrapper": {"is": "mp4"},
    } | asked
    spec = {
        "id": id,
        "version": 1,
        "recipient": "pinfold",
        "title": "Lanterns at a rate",
        "status": "in force",
        "requirements": [{"property": k, "rule": r, "source": "1"} for k, r in rules.items()],
        "house": {"picture.bit_rate": {"value": rate, "note": "Little moves."}},
    }
    client.good("POST", "/api/specs", {"document": spec, "base": None})
    yield client.crate(id, master, title="Lanterns at a rate")
    client.good("POST", "/api/specs", {"document": spec | {"status": "withdrawn"}, "base": 1})


def mastered(installation: Installation, client: Client, film: Path) -> int:
    return int(client.ingest(installation.folders.intake[0], film)["id"])


@pytest.fixture
def rated(installation: Installation, client: Client, clip: Callable[..., Path]) -> Iterator[Any]:
    """A crate of a film whose rate is chosen, and lies where its pictures can be seen to lose."""
    film = clip(
        "rated.mp4", draw=moving_bar((640, 360), 120), frames=25, options={"preset": "ultrafast"}
    )
    id = mastered(installation, client, film)
    asked = {"picture.size": {"is": "320x180"}, "file.size": {"at_most": "100 kB"}}
    with crate_at(client, id, "60 kb/s", "rated-lantern", **asked) as crate:
        yield crate


def rain(time: float) -> np.ndarray:
    """Draw what no codec finds easy."""
    rng = np.random.default_rng(round(time * 1000))
    return rng.integers(16, 235, (180, 320, 1), dtype=np.uint8).repeat(3, 2)


@pytest.fixture
def poor(installation: Installation, client: Client, clip: Callable[..., Path]) -> Iterator[Any]:
    """A crate of a film that is far too hard for its rate."""
    film = clip("poor.mp4", draw=rain, frames=25, options={"preset": "ultrafast"})
    id = mastered(installation, client, film)
    asked = {"picture.size": {"at_most": "1920x1080"}, "motion.rate": {"at_most": 60}}
    with crate_at(client, id, "600 kb/s", "poor-lantern", **asked) as crate:
        yield crate


def test_what_a_rate_buys_is_looked_at_and_taken(page: Page, client: Client, rated: Any) -> None:
    to_bench(page, rated)
    page.click("rate")
    page.sees("held against what went in")
    page.accessible()
    page.click("Look how hard these pictures are")
    page.sees("Foretold from")
    page.find("figure[aria-label^='Quality over rate']")
    page.sees("The spec takes rates from 10 kb/s to 2 Mb/s.")
    page.accessible()
    take = page.find("button.take-rate")
    assert not take.is_enabled()
    slider = page.find("input[aria-label='rate to look at']")
    slider.send_keys(Keys.ARROW_LEFT, Keys.ARROW_LEFT)
    page.wait(take.is_enabled)
    # A hard part as it looks coded at either rate, beside what goes in.
    tried = (
        "return [...document.querySelectorAll('.window img')]"
        ".filter(i => i.naturalWidth > 0 && i.ariaBusy === 'false').map(i => i.dataset.src)"
    )
    page.wait(lambda: len(page.driver.execute_script(tried)) == 3)
    before, as_planned, other = page.driver.execute_script(tried)
    assert "planned-places" in before and "/coded/" in as_planned and "/coded/" in other
    window = page.find(".window")
    across = window.get_attribute("aria-valuenow")
    window.send_keys(Keys.ARROW_RIGHT)
    page.wait(lambda: {w.get_attribute("aria-valuenow") for w in page.all(".window")} != {across})
    assert len({w.get_attribute("aria-valuenow") for w in page.all(".window")}) == 1
    page.accessible()
    wanted = take.text.removeprefix("Take ")
    take.click()
    page.wait(lambda: chosen(client, rated).get("picture.bit_rate"))
    planned = "//tr[th='as planned']/td[1]"
    page.wait(lambda: page.driver.find_element(By.XPATH, planned).text == wanted)
    page.press("u")
    page.wait(lambda: "picture.bit_rate" not in chosen(client, rated))
    page.wait(lambda: page.driver.find_element(By.XPATH, planned).text == "60 kb/s")
    page.go(f"/crates/{rated['id']}")
    page.sees("foretold")
    assert page.errors() == []


def test_what_would_help_is_looked_at_and_taken(page: Page, client: Client, poor: Any) -> None:
    to_bench(page, poor)
    page.click("rate")
    page.click("Look how hard these pictures are")
    page.sees("this will look poor")
    page.sees("a frame of 214 x 120; half of the frames, 12.5 a second")
    page.accessible()
    page.click("See by how much")
    page.find("table[aria-label='What would help']")
    page.accessible()
    rows = page.all("table[aria-label='What would help'] tbody tr")
    planned, best, other = (row.text for row in rows)
    assert planned.startswith("as planned") and "a frame of" in best + other
    page.find("button[aria-label='Take it: half of the frames, 12.5 a second']").click()
    page.wait(lambda: chosen(client, poor).get("motion.rate") == "25/2")
    page.sees("What was learned is of another picture than the one planned now.")
    assert page.errors() == []
