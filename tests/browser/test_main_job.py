"""The whole way in the real interface: from an empty floor to a receipt."""

import os
import re
import signal
import urllib.request
from collections.abc import Callable
from pathlib import Path

import bagit
import numpy as np
import pytest
from client import Client
from page import Keys, Page
from PIL import Image
from selenium.webdriver.support.ui import Select

from clips import write_clear
from support import Installation


@pytest.fixture(scope="module")
def master(hd_fields: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("desk") / "evening lantern.mxf"
    path.write_bytes(hd_fields.read_bytes())
    return path


def test_from_floor_to_receipt(page: Page, installation: Installation, master: Path) -> None:
    page.go("/")
    page.sees("Floor")
    page.sees("Running now")
    page.accessible()
    hand_in(page, master)
    look_at_the_spec(page)
    make_the_crate(page)
    crate = run_it(page)
    look_side_by_side(page)
    page.driver.get(crate)
    seal(page, crate)
    hand_over(page)
    page.go("/receipts")
    page.sees("evening_lantern_skerry_r1.mpg")
    page.accessible()
    bags = list((installation.folders.inboxes / "skerry-ingest").glob("crate-*-r1"))
    assert bags and all(bagit.Bag(str(b)).validate() for b in bags)
    page.go("/")
    page.sees("handed over")
    assert page.errors() == []


def hand_in(page: Page, master: Path) -> None:
    """A master goes up in pieces, is read, measured, and shows pictures."""
    page.go("/masters")
    page.find("input[type=file]").send_keys(str(master))
    page.sees("evening lantern.mxf")
    page.wait(lambda: "measured" in page.find("tr:has(a[href^='/masters/'])").text)
    page.accessible()
    page.click("evening lantern.mxf")
    page.sees("Who would take it as it is")
    page.sees("upper first")
    page.wait(
        lambda: page.driver.execute_script(
            "return [...document.querySelectorAll('main img')].filter(i => i.naturalWidth > "
            "0).length >= 8"
        )
    )
    first = page.find("img[alt='frame 0']").get_attribute("data-src")
    page.press(Keys.ARROW_RIGHT)
    page.press(Keys.ARROW_UP)
    page.wait(lambda: page.find("img[alt='frame 26']").get_attribute("data-src") != first)
    page.wait(
        lambda: page.find("input[aria-label=timecode]").get_attribute("value") == "00:00:01:01"
    )
    page.accessible()


def look_at_the_spec(page: Page) -> None:
    """A spec, as sentences and as a table."""
    page.go("/specs")
    page.sees("Skerry Television")
    page.click("Standard definition programme file, 625 lines")
    page.sees("must be upper first")
    page.accessible()
    page.press("2")
    page.sees("50 Mb/s ± 4 %")


def make_the_crate(page: Page) -> None:
    """A crate, with the frame as it will be shown."""
    page.click("New crate to this spec")
    page.field("Title").send_keys("Evening lantern for transmission")
    page.sees("Still needed: a master")
    page.field("evening lantern.mxf").click()
    page.accessible()
    page.click("Make the crate")
    page.sees("Fields kept: to frames at field rate and back")
    for head in ("master has", "spec asks", "route gives", "file measures", "verdict"):
        page.sees(head)
    page.sees("predicted to meet")
    page.sees("no cap")
    # The frame as it will be shown comes out of the route's own chain.
    page.wait(
        lambda: page.driver.execute_script(
            "return document.querySelector(\"img[alt='the frame as it will be "
            "shown']\")?.naturalWidth === 480"
        )
    )
    page.accessible()


def run_it(page: Page) -> str:
    """It runs, and moves while it is looked at; the page can be closed and opened again."""
    page.press(Keys.ENTER)
    page.wait(lambda: "frame " in page.find("progress + span, progress ~ span").text)
    crate = page.driver.current_url
    page.go("/specs")
    page.driver.get(crate)
    page.sees("measured in")
    page.wait(lambda: page.named("Seal the crate"))
    assert "breaks" not in page.text()
    page.accessible()
    return crate


def look_side_by_side(page: Page) -> None:
    """Side by side, frame by frame."""
    page.click("Side by side")
    page.wait(
        lambda: page.driver.execute_script(
            "return [...document.querySelectorAll('figure img')].filter(i => i.naturalWidth > "
            "0).length == 2"
        )
    )
    page.press(Keys.ARROW_RIGHT)
    page.wait(lambda: page.find("img[alt='deliverable at frame 1']"))
    page.accessible()
    page.press("2")
    page.wait(lambda: page.find("img[alt='master through the route']"))
    page.accessible()
    page.press("4")
    page.wait(
        lambda: page.driver.execute_script(
            "return document.querySelector(\"img[alt^='difference']\")?.naturalWidth > 0"
        )
    )
    page.press("5")
    look_at_samples(page)
    page.press("6")
    page.sees("Make a copy of both to play")
    page.press("1")
    measure_the_quality(page)


def look_at_samples(page: Page) -> None:
    """Samples about a place, by figures and on the picture."""
    page.sees("is of the upper field")
    page.field("line").send_keys(Keys.ARROW_UP)
    page.sees("line 65 is of the lower field")
    page.find("div[aria-label='samples before coding, Y']")
    page.accessible()
    page.find("button[aria-label='choose a place on the picture']").click()
    # In the middle of 576 lines, as near as a screen's dots let one press.
    page.wait(lambda: re.search(r"line 2[89]\d is of the", page.text()))


def measure_the_quality(page: Page) -> None:
    """Every frame held against its master, and the worst moments gone to by key."""
    page.click("Measure the quality")
    page.sees("frames compared in")
    page.sees("Worst moments")
    page.press("w")
    page.wait(lambda: page.find("[aria-label='Quality over time'] [aria-current='true']"))
    page.accessible()
    # What is offered of a report is there.
    for words in ("as a page", "PDF", "JSON", "figures of each frame as CSV"):
        address = page.named(words, "a").get_attribute("href")
        with urllib.request.urlopen(str(address)) as answer:
            assert answer.status == 200 and len(answer.read()) > 500, words


def seal(page: Page, crate: str) -> None:
    """Sealed, and shown in the bag."""
    page.click("Seal the crate")
    page.sees("Seal this crate?")
    page.accessible()
    page.click("Yes, seal it")
    page.wait(lambda: page.named("Hand over"))
    page.sees("Sealed")
    # Enter on a link does what it says, never the crate's next step.
    page.named("Read the ledger in the bag")
    page.find("nav a[href='/receipts']").send_keys(Keys.ENTER)
    page.sees("Public key of this house")
    page.driver.get(crate)
    page.wait(lambda: page.named("Hand over"))


def hand_over(page: Page) -> None:
    """Handed over, and received."""
    page.press(Keys.ENTER)
    page.sees("Hand this crate over?")
    page.click("Leave it")
    page.wait(lambda: "Hand this crate over?" not in page.text())
    page.click("Hand over")
    page.click("Yes, hand it over")
    page.sees("Handed over and received")
    page.sees("every checksum agrees")
    page.accessible()


def test_rates_are_chosen_in_place_and_a_wrong_one_is_refused(
    page: Page, hd_frames: Path, installation: Installation
) -> None:
    client = Client(installation.address)
    master = client.ingest(installation.folders.intake[0], hd_frames)
    crate = client.crate("pinfold-720p", master["id"], title="Small film")
    page.go(f"/crates/{crate['id']}")
    page.sees("cap 30.00 MB")
    field = page.find("input[aria-label='choose sound bit rate']")
    page.wait(lambda: field.get_attribute("value") == "192")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("64", Keys.ENTER)
    page.sees("outside what the spec allows")
    page.sees("Choose a value inside the room")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("0.128 Mb/s", Keys.ENTER)
    page.sees("AAC stereo 128 kb/s")
    page.click("as planned")
    page.sees("AAC stereo 192 kb/s")
    framing = Select(page.field("framing"))
    framing.select_by_visible_text("crop")
    page.wait(
        lambda: (
            client.good("GET", f"/api/crates/{crate['id']}")["deliverables"][0]["chosen"]
            == {"framing": "crop"}
        )
    )


def test_transparency_is_laid_over_what_is_chosen(
    page: Page, installation: Installation, tmp_path: Path
) -> None:
    client, intake = Client(installation.address), installation.folders.intake[0]
    clear = np.zeros((64, 128, 4), np.uint8)
    film = client.ingest(intake, write_clear(tmp_path / "all_clear.mov", [clear] * 3))
    Image.new("RGB", (128, 64), (200, 60, 40)).save(tmp_path / "brick_wall.png")
    client.ingest(intake, tmp_path / "brick_wall.png")
    crate = client.crate("pinfold-720p", film["id"], title="Clear over a wall")
    page.go(f"/crates/{crate['id']}")
    page.sees("Laid over black")
    for chosen, said in (
        ("brick_wall.png", "Laid over 'brick_wall.png'"),
        ("checker", "Laid over a checker"),
    ):
        Select(page.field("transparency laid over")).select_by_visible_text(chosen)
        page.sees(said)


def test_a_crate_is_removed_and_put_back(
    page: Page, hd_frames: Path, installation: Installation
) -> None:
    client = Client(installation.address)
    crate = client.crate(
        "pinfold-720p",
        client.ingest(installation.folders.intake[0], hd_frames)["id"],
        title="Too many",
    )
    page.go(f"/crates/{crate['id']}")
    page.sees("not run yet")
    page.click("Remove")
    page.sees("It can be put back for seven days")
    page.click("Yes, remove it")
    page.sees(f"Crate {crate['number']} was removed.")
    page.wait(lambda: not [a for a in page.all("table a") if a.text == "Too many"])
    page.accessible()
    page.click("Put it back")
    page.wait(lambda: [a for a in page.all("table a") if a.text == "Too many"])


def test_what_takes_room_is_seen(page: Page) -> None:
    page.go("/housekeeping")
    page.sees("sealed crates")
    page.sees("at most 2.00 GB")
    page.click("Tidy now")
    page.sees("Ordered.")
    page.accessible()


def test_the_page_waits_for_a_database_that_is_away(page: Page, installation: Installation) -> None:
    page.go("/")
    page.sees("Running now")
    assert installation.cluster.pid is not None
    os.kill(installation.cluster.pid, signal.SIGKILL)
    try:
        page.wait(lambda: installation.cluster.lost)
        page.click("New crate")
        page.sees("The database is away. This page waits for it and goes on by itself.")
        page.accessible()
    finally:
        installation.cluster.start()
    page.wait(lambda: page.field("Title") and "is away" not in page.text())


def test_a_run_is_stopped_and_started_again(
    page: Page, installation: Installation, slow: Path
) -> None:
    client = Client(installation.address)
    crate = client.crate(
        "tannery-list",
        client.ingest(installation.folders.intake[0], slow)["id"],
        title="To be stopped",
    )
    page.go(f"/crates/{crate['id']}")
    page.click("Run")
    page.click("Stop")
    page.sees("The last run was stopped")
    page.click("Run again")
    page.wait(lambda: page.named("Stop"))
    client.until(f"/api/crates/{crate['id']}", lambda c: c["next_step"] == "seal")
    # This one a browser can play itself.
    page.click("Side by side")
    page.click("play")
    page.click("The file itself, as a browser plays it")
    page.find("video")
    page.wait(
        lambda: page.driver.execute_script(
            "const v = document.querySelector('video'); return v.readyState >= 2 && v.videoWidth "
            "=== 1920"
        )
    )


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("nothing.mp4", b"", "is empty: it has no bytes"),
        (
            "diary.mp4",
            b"Dear diary, the lantern went out.\n" * 30,
            "is a text file, whatever its name says",
        ),
        ("half.mp4", None, "is cut short"),
    ],
)
def test_bad_files_say_why_on_the_page(
    page: Page, tmp_path: Path, clip: Callable[..., Path], name: str, data: bytes | None, says: str
) -> None:
    path = tmp_path / name
    whole = clip("plain.mp4").read_bytes()
    path.write_bytes(whole[: len(whole) // 2] if data is None else data)
    page.go("/masters")
    page.find("input[type=file]").send_keys(str(path))
    page.sees(says)
    page.accessible()
    page.click("Dismiss")
    page.wait(lambda: name not in page.text())


def test_keys_are_listed_and_the_room_can_be_dimmed(page: Page) -> None:
    page.go("/")
    page.sees("Floor")
    page.press("?")
    assert "new crate" in page.find("aside[aria-label='Keys of this page']").text
    page.press("?")
    page.wait(lambda: not page.all("aside[aria-label='Keys of this page']"))
    next(b for b in page.all("nav button") if "Dim room" in b.text).click()
    page.wait(lambda: page.find("html").get_attribute("data-theme") == "dim")
    page.accessible()
    next(b for b in page.all("nav button") if "Daylight" in b.text).click()
    page.press("n")
    page.sees("New crate")


def test_a_page_that_is_not_there_and_a_crate_that_is_not(page: Page) -> None:
    page.go("/nowhere")
    page.sees("There is no such page")
    page.go("/crates/99999")
    page.sees("There is no crate 99999")


def test_a_bad_spec_file_is_named_on_the_page(page: Page, own_specs: Path) -> None:
    bad = own_specs / "typo.yaml"
    bad.write_text(
        "id: typo\nversion: 1\nrecipient: tannery\ntitle: T\nrequirements:\n  - {property: "
        "picture.colour, rule: {is: red}}\n"
    )
    page.go("/specs")
    page.sees("typo.yaml, line 6")
    page.sees("There is no property 'picture.colour'")
    page.accessible()
    bad.write_text(
        bad.read_text().replace("picture.colour", "picture.chroma").replace("red", "'4:2:0'")
    )
    page.click("Read the files again")
    page.wait(lambda: page.named("T"))
    bad.unlink()
