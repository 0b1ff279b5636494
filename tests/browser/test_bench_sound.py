"""The planning bench in a real browser: sound mixed by its matrix, heard, and listened to."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from bench_page import chosen, to_bench
from client import Client
from page import Keys, Page

from clips import moving_bar
from support import Installation
from tones import sine

SECONDS = 4


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture(scope="module")
def film(installation: Installation, client: Client, clip: Callable[..., Path]) -> Iterator[int]:
    """A film whose third second is so loud that it is held, and a spec that wants that."""
    asked = {
        "picture.codec": {"is": "h264"},
        "file.wrapper": {"is": "mp4"},
        "sound.layout": {"is": "stereo"},
        "sound.loudness": {"is": "-5 LUFS", "tolerance": "0.5 LU"},
    }
    spec = {
        "id": "toned-lantern",
        "version": 1,
        "recipient": "pinfold",
        "title": "Lanterns at a loudness",
        "status": "in force",
        "requirements": [{"property": k, "rule": r, "source": "1"} for k, r in asked.items()],
    }
    client.good("POST", "/api/specs", {"document": spec, "base": None})
    left, right = sine(-20, SECONDS, 997), sine(-30, SECONDS, 440)
    left[96000:144000] = sine(-6, 1, 997)
    film = clip(
        "toned.mov",
        draw=moving_bar(),
        frames=25 * SECONDS,
        sound=np.stack([left, right]).astype(np.float32),
        sound_codec="pcm_s24le",
    )
    yield client.ingest(installation.folders.intake[0], film)["id"]
    client.good("POST", "/api/specs", {"document": spec | {"status": "withdrawn"}, "base": 1})


@pytest.fixture
def toned(client: Client, film: int) -> Any:
    return client.crate("toned-lantern", film, title="Lanterns, loud")


PLAYED = (
    "const at = document.querySelector('audio');"
    "return at.readyState > 1 && !at.paused ? at.currentTime : 0"
)


def at(page: Page) -> float:
    return float(page.find("input[aria-label='second listened to']").get_attribute("value") or 0)


def level(page: Page, side: str) -> float:
    meter = page.find(f"[aria-label='Levels, {side}'] [role=meter]")
    return float(meter.get_attribute("aria-valuenow") or 0)


def hear(page: Page, words: str) -> None:
    page.click(words)
    page.find("figure[aria-label^='Loudness over time']")
    page.wait(lambda: level(page, "taken") > -60)


def test_sound_is_mixed_heard_and_listened_to(page: Page, client: Client, toned: Any) -> None:
    to_bench(page, toned)
    page.click("sound")
    page.sees("made \\ taken")
    page.accessible()
    hear(page, "Hear what comes of it")
    page.accessible()
    assert level(page, "taken") == -20
    # The moment that is held most.
    page.press("w")
    page.wait(lambda: 1.9 <= at(page) <= 3.1)
    page.wait(lambda: level(page, "taken") == -6)
    assert level(page, "made") > -3
    page.press(Keys.ARROW_LEFT)
    page.press(Keys.ARROW_LEFT)
    page.wait(lambda: at(page) < 1.2)
    # One is switched for the other while it plays.
    page.press(" ")
    begun = page.wait(lambda: page.driver.execute_script(PLAYED))
    page.press("b")
    pressed = "[aria-label='What is heard'] [aria-pressed=true]"
    page.wait(lambda: page.find(pressed).text == "taken")
    page.wait(lambda: page.driver.execute_script(PLAYED) > begun)
    page.press(" ")
    page.wait(lambda: page.named("Play", "button").is_displayed())
    # A gain is typed; what was heard is other sound then.
    gain = page.find("input[aria-label='FR in FL, dB']")
    gain.send_keys("-6", Keys.ENTER)
    page.wait(lambda: chosen(client, toned).get("mix") == "FL = FL, FR -6; FR = FR")
    page.sees("What was heard is other sound than is planned now.")
    page.sees("Channels mixed as set")
    page.click("Mix as the standard has it")
    page.wait(lambda: "mix" not in chosen(client, toned))
    page.press("u")
    page.wait(lambda: chosen(client, toned).get("mix"))
    page.find("input[aria-label='FR in FL, dB'][value='-6']")
    hear(page, "Hear what comes of it")
    assert page.errors() == []
