"""What a rate buys, on the planning bench in a real browser."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

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


@pytest.fixture
def rated(installation: Installation, client: Client, clip: Callable[..., Path]) -> Iterator[Any]:
    """A crate of a film whose rate is chosen, and lies where its pictures can be seen to lose."""
    asked = {
        "picture.codec": {"is": "h264"},
        "picture.size": {"is": "320x180"},
        "picture.bit_rate": {"between": ["10 kb/s", "2 Mb/s"]},
        "file.wrapper": {"is": "mp4"},
        "file.size": {"at_most": "100 kB"},
    }
    spec = {
        "id": "rated-lantern",
        "version": 1,
        "recipient": "pinfold",
        "title": "Lanterns at a rate",
        "status": "in force",
        "requirements": [{"property": k, "rule": r, "source": "1"} for k, r in asked.items()],
        "house": {"picture.bit_rate": {"value": "60 kb/s", "note": "Little moves."}},
    }
    client.good("POST", "/api/specs", {"document": spec, "base": None})
    film = clip(
        "rated.mp4", draw=moving_bar((640, 360), 120), frames=25, options={"preset": "ultrafast"}
    )
    id = client.ingest(installation.folders.intake[0], film)["id"]
    yield client.crate("rated-lantern", id, title="Lanterns at a rate")
    client.good("POST", "/api/specs", {"document": spec | {"status": "withdrawn"}, "base": 1})


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
