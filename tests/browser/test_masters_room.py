"""The Masters room in a real browser: found, looked at, shuttled, marked, corrected, put in a
crate.
"""

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from client import Client
from page import Keys, Page
from PIL import Image

from clips import moving_bar
from support import Installation

LAST = 199  # frame of the reel: long enough to be caught playing on a slow machine
PLAYED = "return document.querySelector('video').currentTime"
# The film may be over before a slow machine looks again: what happens is noted as it happens.
NOTE = """
const film = document.querySelector('video');
window.rates = [];
for (const kind of ['play', 'ratechange'])
    film.addEventListener(kind, () => window.rates.push(film.playbackRate));
"""
RATES = "return window.rates"


@pytest.fixture(scope="module")
def reel(installation: Installation, clip: Callable[..., Path]) -> Any:
    """Eight seconds of SD fields, lower first, marked upper first."""
    path = clip(
        "reel.mpg",
        draw=moving_bar((720, 576), 300),
        codec="mpeg2video",
        pixels="yuv422p",
        sound_codec="mp2",
        fields="lower first",
        flagged="upper first",
        frames=200,
        options={
            "b": "15000000",
            "maxrate": "20000000",
            "bufsize": "4000000",
            "profile": "0",
            "g": "1",
        },
    )
    return Client(installation.address).ingest(installation.folders.intake[0], path)


@pytest.fixture(scope="module")
def roll(installation: Installation) -> Iterator[Path]:
    folder = installation.folders.intake[0] / "roll"
    folder.mkdir()
    for number in (1, 2, 3, 5):
        Image.fromarray(moving_bar((160, 90), 100)(number / 25)).save(
            folder / f"scan_{number:03d}.png"
        )
    yield folder
    shutil.rmtree(folder)


def label(page: Page) -> str:
    return str(page.find("input[aria-label=timecode]").get_attribute("value"))


def at(page: Page, frame: int) -> None:
    page.wait(lambda: page.find(f"img[alt='frame {frame}']").is_displayed())


def test_step_type_mark_and_keep_a_range(page: Page, reel: Any) -> None:
    page.go(f"/masters/{reel['id']}")
    page.sees("1 contradiction between header and decoding")
    page.sees("header says upper first")
    at(page, 0)
    page.press(Keys.END)
    at(page, LAST)
    box = page.find("input[aria-label=timecode]")
    box.click()
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys("00:00:01:10", Keys.ENTER)
    at(page, 35)
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys("00:00:01:30", Keys.ENTER)
    page.sees("does not exist at 25 frames a second")
    box.send_keys(Keys.ESCAPE, Keys.TAB)
    page.driver.execute_script("document.activeElement.blur()")
    page.press("i")
    page.press(Keys.ARROW_RIGHT)
    page.press(Keys.ARROW_RIGHT)
    at(page, 37)
    page.press("o")
    page.sees("00:00:01:10 to 00:00:01:12, 3 frames")
    page.find("input[aria-label='name of the range']").send_keys("three frames")
    page.accessible()
    page.click("Keep the range")
    page.wait(lambda: page.find("input[aria-label='select range three frames']")).click()
    page.click("Put this range in a new crate")
    page.sees("the range three frames, 3 frames")


def test_play_shuttle_and_hear_one_channel(page: Page, reel: Any) -> None:
    page.go(f"/masters/{reel['id']}")
    page.wait(
        lambda: (
            page.find("button[aria-label=play]").is_enabled()
            and page.all("[aria-label='Channels heard'] button")
        )
    )
    page.wait(
        lambda: page.driver.execute_script("return document.querySelector('video').readyState >= 3")
    )
    page.driver.execute_script(NOTE)
    page.press("l")
    page.wait(lambda: page.driver.execute_script(RATES) == [1])
    page.press("l")
    page.wait(lambda: page.driver.execute_script(RATES)[:2] == [1, 2])
    # What is stopped before it has moved shows the first frame, and rightly.
    page.wait(lambda: page.driver.execute_script(PLAYED) > 0.2)
    page.press("k")

    def stopped() -> bool:
        shown = next(i for i in page.all("main img[alt^='frame ']") if i.is_displayed())
        number = int(shown.get_attribute("alt").split()[1])
        return number > 0 and label(page).endswith(f"{number // 25:02d}:{number % 25:02d}")

    page.wait(stopped)
    page.press(Keys.END)
    at(page, LAST)
    page.press("j")
    page.wait(lambda: "-1x" in page.text() and f"frame {LAST} " not in page.text())
    page.press("k")
    one = page.wait(lambda: page.all("[aria-label='Channels heard'] button")[0])
    one.click()
    page.wait(lambda: one.get_attribute("aria-pressed") == "false")
    page.press("m")
    page.wait(
        lambda: all(
            b.get_attribute("aria-pressed") == "false"
            for b in page.all("[aria-label='Channels heard'] button[aria-pressed]")
        )
    )
    page.accessible()


def test_guides_fields_and_samples(page: Page, reel: Any) -> None:
    page.go(f"/masters/{reel['id']}")
    at(page, 0)
    page.press("g")
    page.find("svg[aria-label*='EBU R 95']")
    page.press("f")
    page.wait(lambda: "field=upper" in page.find("img[alt='frame 0']").get_attribute("src"))
    page.press("z")
    wide = page.wait(
        lambda: page.driver.execute_script(
            "return document.querySelector('img[alt*=\"sample for sample\"]').naturalWidth"
        )
    )
    assert wide == 720
    page.accessible()


def test_events_on_the_time_line_are_gone_to(page: Page, reel: Any) -> None:
    page.go(f"/masters/{reel['id']}")
    at(page, 0)
    page.press(Keys.END)
    at(page, LAST)
    page.find("[aria-label='Time line'] summary").click()
    page.wait(
        lambda: next(
            b for b in page.all("[aria-label='Time line'] li button") if "steady tone" in b.text
        )
    ).click()
    at(page, 0)
    page.find("[aria-label^='sound track 1: 2 channels']")
    page.find("[aria-label^='picture bit rate over time']")


def test_a_correction_is_made_and_taken_back(page: Page, reel: Any) -> None:
    page.go(f"/masters/{reel['id']}")
    page.find("button[aria-label='correct field order']").click()
    page.find("select[aria-label='field order is']").send_keys("upper first")
    page.click("It is so")
    page.sees("decoding shows lower first")
    page.sees("assumed")
    page.accessible()
    page.find("button[aria-label='correct field order']").click()
    page.click("Take back")
    page.wait(lambda: "decoding shows lower first" not in page.text())


def test_answers_are_sorted(page: Page, reel: Any) -> None:
    page.go(f"/masters/{reel['id']}")
    page.sees("needs an encode")
    page.click("recipient")

    def names() -> list[str]:
        return [
            r.text.split("\n")[0]
            for r in page.all(
                "section[aria-label='Who would take it as it is'] tbody tr td:first-child"
            )
        ]

    page.wait(lambda: len(names()) > 20 and names() == sorted(names()))


def test_a_sequence_is_taken_from_a_folder_and_found_again(page: Page, roll: Path) -> None:
    page.errors()  # those of other tests, which ask for refusals
    page.go("/masters")
    page.click("Intake folder")
    page.click("roll")
    page.sees("4 images, 1 missing")
    page.field("image sequences run at").send_keys("24")
    page.field("for the production").send_keys("Scan test")
    page.accessible()
    page.click("Take in everything new here (1)")
    page.sees("taken in")
    search = page.find("input[type=search]")
    search.send_keys("scan_ image")
    page.wait(lambda: "1 master\n" in page.text() and "Frame 4 is missing." in page.text())
    page.find("input[aria-label^='select scan_']").click()
    page.sees("1 selected")
    page.accessible()
    page.click("Dismiss")
    page.sees("No master fits the search")
    search.send_keys(Keys.CONTROL, "a")
    search.send_keys("over 3 parsecs")
    page.sees("Not understood: over 3 parsecs")
    assert page.errors() == []


def test_an_upload_goes_on_after_a_reload(
    page: Page, installation: Installation, clip: Callable[..., Path], tmp_path: Path
) -> None:
    import numpy as np

    big = tmp_path / "half way.bin.mov"
    big.write_bytes(clip("plain.mp4").read_bytes() + np.random.default_rng(3).bytes(40 * 2**20))
    page.go("/masters")
    page.sees("Masters")
    # A slow line, so that the reload comes in the middle.
    slow = {
        "offline": False,
        "latency": 5,
        "downloadThroughput": 50 * 2**20,
        "uploadThroughput": 6 * 2**20,
    }
    page.driver.execute_cdp_cmd("Network.enable", {})
    page.driver.execute_cdp_cmd("Network.emulateNetworkConditions", slow)
    try:
        page.find("input[type=file]").send_keys(str(big))
        client = Client(installation.address)
        page.wait(
            lambda: any(
                u["arrived"] >= 8 * 2**20 for u in client.good("GET", "/api/uploads/unfinished")
            )
        )
        page.go("/masters")
        page.sees("half way.bin.mov is here in part")
    finally:
        page.driver.execute_cdp_cmd(
            "Network.emulateNetworkConditions",
            slow | {"uploadThroughput": -1, "downloadThroughput": -1, "latency": 0},
        )
    (before,) = client.good("GET", "/api/uploads/unfinished")
    page.find("input[type=file]").send_keys(str(big))
    row = page.wait(
        lambda: next(m for m in client.good("GET", "/api/masters")["rows"] if m["name"] == big.name)
    )
    assert client.good("GET", "/api/uploads/unfinished") == [] and row["size"] == big.stat().st_size
    made = next((installation.folders.masters / before["id"]).iterdir())
    assert made.read_bytes() == big.read_bytes()
