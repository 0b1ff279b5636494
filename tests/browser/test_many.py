"""Many at once in a real browser: a sheet to one spec, a master to several recipients."""

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

SHEET = """master,lesson
many one,l01
many two.mp4,l02
many three,lesson 3
many four,l04
"""


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


@pytest.fixture(scope="module")
def masters(installation: Installation, client: Client, clip: Callable[..., Path]) -> list[Any]:
    films = [
        clip(f"many {name}.mp4", draw=moving_bar((320, 180), 60), frames=20 + number)
        for number, name in enumerate(("one", "two", "three"))
    ]
    return [client.ingest(installation.folders.intake[0], film) for film in films]


def rows(page: Page) -> list[str]:
    return [one.text for one in page.all("table[aria-label='Items'] tbody tr")]


def written(page: Page, label: str, text: str) -> None:
    field = page.find(f"[aria-label='{label}']")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text)


def test_a_sheet_of_masters_becomes_a_crate(page: Page, client: Client, masters: list[Any]) -> None:
    page.go("/crates/new?spec=harbour-course")
    page.field("Title").send_keys("Course of three")
    page.click("Take a sheet")
    page.find('[aria-label="the sheet\'s text"]').send_keys(SHEET)
    page.sees("2 mistakes in the sheet.")
    page.sees("There is no master 'many four'.")
    page.sees("does not fit the rule of the field 'lesson'")
    page.accessible()
    page.click("Make the crate of the 2 lines without mistakes")
    one_look_over_all(page)
    the_third_is_added_by_its_sheet(page)
    names_are_counted(page)


def one_look_over_all(page: Page) -> None:
    page.wait(lambda: page.named("grid")).click()
    page.wait(lambda: len(rows(page)) == 2)
    page.accessible()
    page.press("4")
    page.sees("No item is like this.")
    page.press("1")
    page.press("a")
    page.sees("2 picked")
    page.click("one choice for all")
    Select(page.field("Choose for these 2 items")).select_by_value("framing")
    Select(page.find("[aria-label=value]")).select_by_value("crop")
    page.click("Choose it")
    page.sees("Chosen for 2 items.")
    page.accessible()
    page.click("by requirement")
    page.find("table[aria-label='Requirements by item'] tr[data-property]")
    page.click("Show all requirements")
    page.sees("All requirements are shown.")
    page.accessible()


def the_third_is_added_by_its_sheet(page: Page) -> None:
    page.click("grid")
    page.click("sheet")
    page.find('[aria-label="the sheet\'s text"]').send_keys("master,lesson\nmany three,l07\n")
    page.click("Take the line")
    page.sees("The sheet was taken.")
    page.wait(lambda: len(rows(page)) == 3)


def names_are_counted(page: Page) -> None:
    page.click("names")
    page.press("a")
    page.sees("3 picked")
    page.field("lesson").send_keys("l{number:02}")
    written(page, "count from", "8")
    page.click("Look at the names")
    page.wait(lambda: "l10_" in page.find("table[aria-label='Names as they would be']").text)
    page.accessible()
    page.click("Keep these names")
    page.sees("The names are kept")
    page.wait(lambda: "l08_many_one" in " ".join(rows(page)))


def test_a_master_goes_to_several_recipients(
    page: Page, client: Client, masters: list[Any]
) -> None:
    page.go(f"/masters/{masters[0]['id']}")
    page.click("To several recipients")
    page.sees("Still needed: a title, a recipient.")
    page.field("Title of the crates").send_keys("One to two")
    for spec in ("Portfolio film, 720p under 30 MB", "Playout list, 1080p25"):
        page.find(f"[aria-label='deliver to {spec}']").click()
    page.find("[aria-label='due of Playout list, 1080p25']")
    page.accessible()
    page.click("Make the 2 crates")
    page.wait(lambda: len(rows(page)) == 2)
    page.accessible()
    page.click("Run these 2 crates")
    page.sees("Run: ")
    page.wait(lambda: all("seal" in row or "review" in row for row in rows(page)))
    page.press(Keys.ARROW_DOWN)
    page.press(Keys.ENTER)
    page.sees("measured in")
    page.sees("simply meet and are folded")
    page.click("Show all rows")
    page.sees("All requirements are shown, by group.")
    another_is_made_like_it(page, masters[1])


def another_is_made_like_it(page: Page, master: Any) -> None:
    page.click("Make another like it")
    page.find(f"[aria-label='take {master['name']}']").click()
    page.find(f"[aria-label='{master['name']} stands for']")
    page.accessible()
    page.click("Make the crate")
    page.wait(lambda: page.named("Run"))
    page.sees("many two")


def test_what_is_usual_for_a_recipient_is_kept(page: Page, client: Client) -> None:
    page.go("/crates/new?spec=tannery-list")
    page.click("Nothing is kept as usual for Tannery Hall")
    written(page, "due after so many days", "3")
    page.find("option[value='Europe/Oslo']")
    Select(page.find("[aria-label='in which time zone']")).select_by_value("Europe/Oslo")
    page.accessible()
    page.click("Keep as usual, with this spec")
    page.sees("Usual for Tannery Hall: due 3 working days later at 16:00 (Europe/Oslo)")
    page.go("/crates/new")
    Select(page.field("Recipient")).select_by_value("tannery")
    page.wait(lambda: Select(page.field("Spec")).first_selected_option.text.startswith("Playout"))
    (kept,) = [r for r in client.good("GET", "/api/recipients") if r["usual"]]
    due = page.driver.execute_script(
        "return new Date(document.querySelector('input[type=datetime-local]').value).getTime()"
    )
    wanted = page.driver.execute_script("return Date.parse(arguments[0])", kept["due_at"])
    assert due == wanted
    client.good("DELETE", "/api/recipients/tannery/usual")
