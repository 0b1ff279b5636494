"""The planning bench in a real browser: a part of the picture drawn, typed, moved by keys, taken
back, carried over.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from bench_page import CHANGED, SHOWN, chosen, to_bench
from client import Client
from page import Keys, Page
from selenium.webdriver.common.action_chains import ActionChains

from carried import shows, two_and_three
from clear import halves
from clips import moving_bar
from support import Installation


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture(scope="module")
def crate(installation: Installation, client: Client, clip: Callable[..., Path]) -> Any:
    """A crate of two films that are framed."""
    ids = []
    for name in ("framed one.mp4", "framed two.mp4"):
        film = clip(
            name, draw=moving_bar((640, 360), 120), frames=25, options={"preset": "ultrafast"}
        )
        ids.append(client.ingest(installation.folders.intake[0], film)["id"])
    return client.crate("wickerwork-square", *ids, title="Lanterns, square")


def test_a_part_is_drawn_typed_and_moved(page: Page, client: Client, crate: Any) -> None:
    to_bench(page, crate)
    page.accessible()
    first = page.driver.execute_script(SHOWN)
    page.click("1:1")
    page.sees("seen 360 x 360 from 140, 0")
    page.wait(lambda: page.driver.execute_script(SHOWN) not in {"", first})
    # By mouse: the whole is moved, and ends in whole steps.
    box = page.find(".part-box")
    wide = box.size["width"]
    ActionChains(page.driver).drag_and_drop_by_offset(box, round(-wide / 4), 0).perform()
    page.wait(lambda: read(chosen(client, crate)["region"])[2] < 100)
    moved = read(chosen(client, crate)["region"])
    assert moved[:2] == [360, 360] and moved[2] % 2 == 0 and moved[3] == 0
    # By keys, while the page's own arrows rest.
    frame = page.find("input[aria-label=frame]").get_attribute("value")
    page.press("p")
    page.wait(
        lambda: page.driver.switch_to.active_element.get_attribute("class") == box_class(page)
    )
    page.driver.switch_to.active_element.send_keys(Keys.ARROW_RIGHT)
    page.wait(lambda: read(chosen(client, crate)["region"])[2] == moved[2] + 2)
    assert page.find("input[aria-label=frame]").get_attribute("value") == frame
    # By number; what is odd is brought to the next that can be.
    column = page.field("from column")
    column.send_keys(Keys.CONTROL, "a")
    column.send_keys("201", Keys.ENTER)
    page.wait(lambda: read(chosen(client, crate)["region"])[2] == 202)
    assert page.errors() == []


def box_class(page: Page) -> str:
    return str(page.find(".part-box").get_attribute("class"))


def read(text: str) -> list[int]:
    size, x, y = text.split(" + ")
    width, height = size.split(" x ")
    return [int(width), int(height), int(x), int(y)]


def test_an_edge_is_drawn(page: Page, client: Client, crate: Any) -> None:
    to_bench(page, crate)
    page.press("w")
    page.wait(lambda: "region" not in chosen(client, crate))
    page.wait(lambda: page.find(".part-box").size["width"] > 300)
    grip = page.find("[data-edge=e]")
    ActionChains(page.driver).drag_and_drop_by_offset(grip, -120, 0).perform()
    page.wait(lambda: "region" in chosen(client, crate))
    width, height, x, y = read(chosen(client, crate)["region"])
    assert (x, y, height) == (0, 0, 360) and width < 600 and width % 2 == 0


def test_choices_are_undone_and_carried_over_by_keys(
    page: Page, client: Client, crate: Any
) -> None:
    to_bench(page, crate)
    page.press("w")
    page.wait(lambda: "region" not in chosen(client, crate))
    page.press("2")
    page.wait(lambda: chosen(client, crate).get("framing") == "crop")
    page.sees("black none")
    page.press("1")
    page.wait(lambda: chosen(client, crate)["framing"] == "pad")
    page.press("u")
    page.wait(lambda: chosen(client, crate)["framing"] == "crop")
    # The page knows it too before the next key counts.
    page.wait(lambda: page.named("Redo").is_enabled())
    page.press("U")
    page.wait(lambda: chosen(client, crate)["framing"] == "pad")
    page.press("u")
    page.wait(lambda: chosen(client, crate)["framing"] == "crop")
    page.click("Carry the framing over")
    page.field("framed two.mp4").click()
    page.click("To this one")
    page.sees("Carried over to framed two.mp4")
    assert chosen(client, crate, 1) == {"framing": "crop"}
    page.accessible()
    page.press("g")
    page.find("svg[aria-label^='safe areas']")
    assert page.errors() == []


def test_a_range_is_framed_otherwise(page: Page, client: Client, crate: Any) -> None:
    to_bench(page, crate)
    page.press(Keys.HOME)
    page.press("e")
    page.sees("from 00:00:00:00 to the frame shown")
    for _ in range(4):
        page.press(Keys.ARROW_RIGHT)
    page.sees("to the frame shown, 00:00:00:04")
    page.click("Frame it otherwise")
    page.sees("What is set now is of the range that the frame shown lies in.")
    page.accessible()
    before = page.driver.execute_script(SHOWN)
    page.press("3")
    page.wait(lambda: chosen(client, crate)["reframed"].endswith("stretch"))
    assert chosen(client, crate)["framing"] == "crop"
    page.wait(lambda: page.driver.execute_script(f"return {CHANGED}", before))
    page.press(Keys.END)
    page.wait(lambda: "What is set now is of the range" not in page.text())
    page.click("Go to it")
    page.sees("What is set now is of the range")
    page.click("As the rest")
    page.wait(lambda: "reframed" not in chosen(client, crate))
    assert page.errors() == []


def test_motion_is_judged_by_a_strip_of_frames(page: Page, client: Client, crate: Any) -> None:
    to_bench(page, crate)
    page.click("motion")
    strip = "[aria-label='Consecutive frames'] li"
    page.wait(lambda: len(page.all(strip)) == 10)
    loaded = (
        "return [...document.querySelectorAll(\"[aria-label='Consecutive frames'] img\")]"
        ".filter(i => i.naturalWidth > 0).length"
    )
    page.wait(lambda: page.driver.execute_script(loaded) == 10)
    # Of 25 a second one is left out for 23.976.
    page.sees("1 left out")
    page.accessible()
    page.press("2")
    page.wait(lambda: chosen(client, crate).get("speed") == "24000/1001")
    page.sees("25 fps taken at 23.976")
    page.wait(lambda: "left out" not in page.text())
    page.field("its pitch follows").click()
    page.wait(lambda: chosen(client, crate).get("pitch") == "follows")
    page.sees("semitones lower")
    page.press("1")
    page.wait(lambda: "speed" not in chosen(client, crate))
    page.sees("1 left out")
    page.field("mixed of the two about each moment").click()
    page.wait(lambda: chosen(client, crate).get("retime") == "blended")
    page.sees("What moves is seen twice")
    page.wait(lambda: "% of" in page.find(strip).text)
    page.press("u")
    page.wait(lambda: "retime" not in chosen(client, crate))
    assert page.errors() == []


def test_a_master_is_trimmed_on_its_time_line(page: Page, client: Client, crate: Any) -> None:
    def taken() -> tuple[int, int]:
        one = client.good("GET", f"/api/crates/{crate['id']}")["deliverables"][0]
        return one["first"], one["master_frames"]

    to_bench(page, crate)
    page.click("trim")
    page.sees("What is taken of the master")
    page.accessible()
    assert taken() == (0, 25)
    page.press("l")
    page.press(Keys.HOME)
    for _ in range(3):
        page.press(Keys.ARROW_RIGHT)
    at = "input[aria-label=frame]"
    page.wait(lambda: page.find(at).get_attribute("value") == "3")
    page.press("i")
    page.wait(lambda: taken() == (3, 22))
    # By mouse: the last frame is drawn to about the middle.
    line = page.find("[aria-label='Time line'] [role=presentation]")
    wide = line.size["width"]
    grip = page.find("[data-end=last]")
    page.wait(lambda: grip.get_attribute("aria-valuenow") == "24")
    ActionChains(page.driver).drag_and_drop_by_offset(grip, -round(wide / 2), 0).perform()
    page.wait(lambda: 7 <= taken()[1] <= 11)
    # By keys, while the page's own arrows rest.
    _, frames = taken()
    page.driver.execute_script("arguments[0].focus()", page.find("[data-end=last]"))
    page.driver.switch_to.active_element.send_keys(Keys.ARROW_RIGHT)
    page.wait(lambda: taken() == (3, frames + 1))
    # By timecode.
    first = page.find("input[aria-label='first frame taken']")
    first.send_keys(Keys.CONTROL, "a")
    first.send_keys("00:00:00:05", Keys.ENTER)
    page.wait(lambda: taken() == (5, frames - 1))
    page.click("Closer")
    page.wait(
        lambda: page.find("[aria-label='Time line'] [role=presentation]").size["width"] > 1.8 * wide
    )
    page.accessible()
    page.click("All of it")
    page.wait(lambda: taken() == (0, 25))
    page.press("u")
    page.wait(lambda: taken() == (5, frames - 1))
    page.click("All of it")
    page.wait(lambda: taken() == (0, 25))
    assert page.errors() == []


def test_a_leader_is_set_before_a_programme(page: Page, client: Client, crate: Any) -> None:
    to_bench(page, crate)
    page.click("leader")
    page.sees("Before the programme, seconds")
    for label, seconds in (("bars and tone", "2"), ("slate", "1"), ("black after it", "0.5")):
        page.field(label).send_keys(seconds)
    page.accessible()
    page.field("slate").send_keys(Keys.ENTER)
    page.wait(lambda: chosen(client, crate).get("tail") == "0.5 s")
    assert chosen(client, crate)["leader"] == "bars 2 s, slate 1 s"
    stretches = "[aria-label='What comes of it'] li"
    page.wait(lambda: len(page.all(stretches)) == 4)
    # A part is gone to, and its picture comes out of the chain.
    page.click("programme")
    at = page.find("input[aria-label=frame]").get_attribute("value")
    one = client.good("GET", f"/api/crates/{crate['id']}")["deliverables"][0]
    rate = Fraction(one["rate"])
    assert int(at or 0) == round(2 * rate) + round(rate)
    page.wait(lambda: page.driver.execute_script(MADE) == f"frame {at} as made")
    page.click("motion")
    page.click("leader")
    # What is refused is said, and stays as it was typed.
    slate = page.field("slate")
    slate.send_keys(Keys.CONTROL, "a")
    slate.send_keys("900", Keys.ENTER)
    page.sees("A leader of more than 600 s is not made.")
    assert page.field("slate").get_attribute("value") == "900"
    page.click("Undo")
    page.wait(lambda: "tail" not in chosen(client, crate))
    page.wait(lambda: len(page.all(stretches)) == 3)
    page.click("Undo")
    page.wait(lambda: "leader" not in chosen(client, crate))
    page.wait(lambda: len(page.all(stretches)) == 1)
    # The browser notes the refusal, and nothing else.
    assert [one for one in page.errors() if "422" not in one] == []


MADE = (
    "const at = [...document.querySelectorAll('img')].find(i => i.alt.endsWith('as made'));"
    "return at && at.naturalWidth > 0 ? at.alt : ''"
)


def test_a_copy_for_review_is_marked(page: Page, client: Client, crate: Any) -> None:
    to_bench(page, crate)
    page.click("burn-in")
    made = "img[alt$='as it will be made']"
    page.wait(lambda: page.find(made).get_attribute("data-src"))
    bare = page.find(made).get_attribute("data-src")
    page.press("1")
    page.wait(lambda: chosen(client, crate).get("burn_in") == "timecode")
    page.field("name").click()
    page.wait(lambda: chosen(client, crate).get("burn_in") == "timecode, name")
    page.field("watermark").send_keys("For review", Keys.ENTER)
    page.wait(lambda: chosen(client, crate).get("watermark") == "For review")
    page.wait(lambda: page.find(made).get_attribute("data-src") != bare)
    page.accessible()
    page.press("u")
    page.wait(lambda: "watermark" not in chosen(client, crate))
    page.wait(lambda: page.named("Redo", "button").is_enabled())
    page.press("u")
    page.wait(lambda: chosen(client, crate).get("burn_in") == "timecode")
    page.wait(lambda: not page.field("name").is_selected())
    page.press("u")
    page.wait(lambda: "burn_in" not in chosen(client, crate))
    assert page.errors() == []


def test_film_is_taken_out_of_fields(
    page: Page, installation: Installation, client: Client, clip: Callable[..., Path]
) -> None:
    film = clip(
        "carried.mov",
        draw=shows(two_and_three(24)),
        rate=Fraction(30000, 1001),
        frames=30,
        fields="upper first",
    )
    id = client.ingest(installation.folders.intake[0], film)["id"]
    crate = client.crate("wickerwork-square", id, title="Film in fields")
    to_bench(page, crate)
    page.click("motion")
    # Measuring found the film.
    undone = "2:3 pulldown undone: 23.976 frames of film"
    page.sees(undone)
    page.accessible()
    page.field("as fields, each at its own moment").click()
    page.wait(lambda: chosen(client, crate).get("pulldown") == "")
    page.sees("Fields to frames")
    page.field("as film").click()
    page.wait(lambda: chosen(client, crate).get("pulldown") == "undone")
    page.sees(undone)
    page.press("u")
    page.wait(lambda: chosen(client, crate).get("pulldown") == "")
    page.sees("Fields to frames")
    assert page.errors() == []


def test_levels_are_brought_within_limits(page: Page, client: Client, crate: Any) -> None:
    to_bench(page, crate)
    page.click("colour")
    page.field("brought within EBU R 103, softly").click()
    page.wait(lambda: chosen(client, crate).get("levels") == "legal")
    page.sees("Levels brought within EBU R 103")
    page.accessible()
    page.press("u")
    page.wait(lambda: "levels" not in chosen(client, crate))
    page.wait(lambda: "Levels brought" not in page.text())
    assert page.errors() == []


def test_transparency_is_looked_at_and_laid_over(
    page: Page, installation: Installation, client: Client, tmp_path: Path
) -> None:
    film = halves(tmp_path / "half clear.mov")
    id = client.ingest(installation.folders.intake[0], film)["id"]
    crate = client.crate("wickerwork-square", id, title="Half a lantern")
    page.go(f"/crates/{crate['id']}")
    page.click("Planning bench")
    page.click("colour")
    first = page.wait(lambda: page.driver.execute_script(SHOWN))
    page.sees("laid over black")
    page.accessible()
    page.field("transparency laid over").send_keys("white")
    page.wait(lambda: chosen(client, crate).get("background") == "white")
    white = page.wait(lambda: page.driver.execute_script(f"return {CHANGED}", first))
    page.sees("Laid over white")
    pressed = "[aria-label='What is clear shows'] [aria-pressed=true]"
    for ground in ("black", "white", "green", "matte alone"):
        page.press("a")
        page.wait(lambda ground=ground: page.find(pressed).text == ground)
    page.wait(lambda: page.driver.execute_script(f"return {CHANGED}", white))
    page.press("u")
    page.wait(lambda: "background" not in chosen(client, crate))
    assert page.errors() == []
