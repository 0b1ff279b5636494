"""The Specs room in a real browser: searched, read, written from a file, mended, versioned,
compared, tried on files.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from client import Client
from page import Keys, Page
from selenium.webdriver.common.by import By
from selenium.webdriver.support.select import Select

from ample_crate.core.facts import media_type
from ample_crate.media import ops
from clips import moving_bar
from support import Installation


@pytest.fixture(scope="module")
def lantern(clip: Callable[..., Path]) -> Path:
    return clip(
        "lantern_small.mp4",
        draw=moving_bar((640, 360), 120),
        frames=25,
        options={"preset": "ultrafast"},
    )


@pytest.fixture(scope="module")
def client(installation: Installation) -> Client:
    return Client(installation.address)


def labelled(page: Page, label: str) -> Any:
    return page.find(f'[aria-label="{label}"]')


def write(page: Page, label: str, text: str) -> None:
    box = labelled(page, label)
    page.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", box)
    box.click()
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys(text, Keys.TAB)


def enabled(page: Page, words: str) -> bool:
    found = [b for b in page.driver.find_elements(By.TAG_NAME, "button") if b.text.strip() == words]
    return bool(found) and found[0].is_enabled()


def test_the_register_is_searched_and_a_spec_is_read_three_ways(page: Page) -> None:
    page.go("/specs")
    page.sees("Ostler Discs")
    page.accessible()
    page.press("/")
    page.driver.switch_to.active_element.send_keys("surround owlery")
    page.wait(lambda: "1 of " in page.text())
    box = page.find("input[type=search]")
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys(Keys.DELETE)
    page.sees("Ostler Discs")
    box.send_keys("5.1 3840x2160 owlery")
    page.wait(lambda: "1 of " in page.text())
    page.click("Film in UHD with surround")
    page.sees("A surround track that is there and switched off is the commonest fault.")
    page.sees("Where the layout is 5.1: of sound track 2: the layout should be stereo")
    page.accessible()
    page.press("2")
    page.sees("yours to choose")
    page.accessible()
    page.press("3")
    page.sees("id: owlery-uhd")
    page.go("/specs/skerry-hd")
    page.sees("coding: one of these")
    page.sees("long GOP")
    page.go("/specs/nothing-here")
    page.sees("There is no spec 'nothing-here'")
    page.go("/specs")
    page.find("input[type=search]").send_keys("no such thing")
    page.sees("No spec is like that")


def test_a_spec_is_written_from_a_file_they_accepted_and_mended(
    page: Page, client: Client, lantern: Path
) -> None:
    page.go("/specs/new")
    page.accessible()
    page.find("input[aria-label^='Drop the file']").send_keys(str(lantern))
    page.sees("suggests")
    page.sees("As the file has it: 640 x 360.")
    page.accessible()
    labelled(page, "bit depth matters").click()
    page.driver.find_element(By.XPATH, "//button[starts-with(., 'Write a spec of these')]").click()
    page.sees("Still needed before it can be kept: a recipient.")
    assert not enabled(page, "Save as draft")
    Select(page.field("Recipient")).select_by_visible_text("Pinfold (platform)")
    title = page.field("Title")
    title.send_keys(Keys.CONTROL, "a")
    title.send_keys("Small lantern")
    assert page.field("Short name").get_attribute("value") == "small-lantern"
    page.wait(lambda: enabled(page, "Save and put in force"))
    # A level that cannot hold the picture is caught in its place, and its repair is one press.
    Select(labelled(page, "level at most")).select_by_value("1.3")
    page.sees("Cannot be met: Level 1.3 cannot hold 640x360 at 25 fps.")
    page.sees("920 macroblocks")
    page.accessible()
    assert not enabled(page, "Save and put in force") and enabled(page, "Save as draft")
    page.click("Do so")
    page.wait(
        lambda: (
            labelled(page, "level at most").get_attribute("value") == "3"
            and "Cannot be met" not in page.text()
        )
    )
    page.click("Undo")
    page.sees("Cannot be met: Level 1.3")
    page.click("Redo")
    page.wait(lambda: "Cannot be met" not in page.text())
    # A figure in a wrong unit is told of in its row, while the others are still read.
    write(page, "picture bit rate is", "5 MHz")
    page.sees("has the unit 'MHz', which is not one for a bit rate")
    page.sees("The picture's codec must be H.264.")
    write(page, "picture bit rate is", "3")
    page.wait(lambda: labelled(page, "picture bit rate is").get_attribute("value") == "3 Mb/s")
    page.sees("The picture bit rate must be 3 Mb/s ± 5 %.")
    page.wait(lambda: enabled(page, "Save and put in force"))
    page.click("Save and put in force")
    page.sees("version 1, in force")
    page.sees("The picture bit rate must be 3 Mb/s ± 5 %.")
    assert client.good("GET", "/api/specs/small-lantern")["in_force"]


def test_a_file_is_tried_on_it(page: Page, lantern: Path, tmp_path: Path) -> None:
    page.go("/specs/small-lantern")
    page.click("Try a file")
    bad = tmp_path / "notes.mp4"
    bad.write_text("not a film")
    page.find("input[aria-label^='Drop a file']").send_keys(str(bad))
    page.sees("notes.mp4")
    page.wait(lambda: page.find("[role=alert]").is_displayed())
    page.find("input[aria-label^='Drop a file']").send_keys(str(lantern))
    page.wait(
        lambda: (
            "lantern_small.mp4" in page.text()
            and page.all("table[aria-label='Ledger of the file tried']")
        )
    )
    rows = page.find("table[aria-label='Ledger of the file tried']").text
    assert "The picture bit rate is" in rows and "breaks" in rows
    page.accessible()
    page.find("section[aria-label='Try a file'] input[type=checkbox]").click()
    page.sees("is within what is asked")


def test_a_new_version_leaves_the_crate_its_own_and_tells_it(
    page: Page, client: Client, installation: Installation, lantern: Path
) -> None:
    master = client.ingest(installation.folders.intake[0], lantern)
    crate = client.crate("small-lantern", master["id"], title="Small lantern")
    page.go("/specs/small-lantern/edit")
    page.sees("Version 1 stays as it is")
    Select(labelled(page, "frame rate is: usual rates")).select_by_value("50")
    page.sees("The frame rate must be 50 fps.")
    # Twice the frames are more than the level holds: it is said at once.
    page.sees("Cannot be met: Level 3 cannot hold 640x360 at 50 fps.")
    page.click("Do so")
    page.wait(lambda: "Cannot be met" not in page.text())
    page.driver.refresh()
    page.sees("What you wrote before you left is here again")
    page.sees("The frame rate must be 50 fps.")
    Select(labelled(page, "add a requirement on sound")).select_by_value("sound.language")
    page.sees("The sound's language must be eng.")
    page.click("a choice of alternatives")
    page.accessible()
    labelled(page, "take out choice 1").click()
    page.wait(lambda: not page.all("[aria-label='take out choice 1']"))
    page.click("Save as a new version")
    page.sees("version 2, in force")
    page.click("2 versions, 0 open crates of 0 planned with this one")
    page.click("Compare with 2")
    page.sees("Compare two specs")
    for label in ("frame rate", "language"):
        page.wait(
            lambda label=label: any(
                label in r.text.split("\n")[0]
                for r in page.all("tr[data-change=changed], tr[data-change=added]")
            )
        )
    page.accessible()
    page.click("All rows")
    page.wait(lambda: page.all("tr[data-change=same]"))
    page.go("/specs/small-lantern?version=1")
    page.click("2 versions, 1 open crate of 1 planned with this one")
    page.sees("Used by")
    page.go(f"/crates/{crate['id']}")
    page.sees("Version 2 of this spec is in force; this crate keeps version 1.")
    page.sees("Frame rate: 25 fps becomes 50 fps.")
    page.accessible()
    page.click("Plan with version 2")
    page.sees("(version 2)")
    page.wait(lambda: "this crate keeps" not in page.text())
    client.good("DELETE", f"/api/crates/{crate['id']}")


def test_a_spec_is_withdrawn_and_comes_back(page: Page, client: Client) -> None:
    page.go("/specs/small-lantern")
    page.click("2 versions, 0 open crates of 0 planned with this one")
    page.click("Withdraw")
    page.sees("version 3, withdrawn")
    page.go("/specs")
    page.sees("Tannery Hall")
    assert "Small lantern" not in page.text()
    page.click("withdrawn")
    page.sees("Small lantern")


def test_text_is_read_or_refused_with_its_line(page: Page) -> None:
    page.go("/specs/new")
    page.click("from YAML or JSON")
    box = labelled(page, "The spec's text")
    box.send_keys(
        "id: pasted-here\nversion: 1\nrecipient: tannery\ntitle: Pasted\nrequirements:\n- "
        "{property: picture.size, rule: {is: wide}}"
    )
    page.click("Read it")
    page.sees("pasted text, line 6")
    page.sees("'wide' is not a picture size")
    page.accessible()
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys(
        "id: pasted-here\nversion: 1\nrecipient: tannery\ntitle: Pasted\nrequirements:\n- "
        "{property: picture.size, rule: {is: 1080x1080}}"
    )
    page.click("Read it")
    page.wait(lambda: page.field("Title").get_attribute("value") == "Pasted")
    page.sees("1:1")
    page.click("Leave without saving")
    page.sees("Tannery Hall")


def test_words_are_taken_as_people_write_them_and_slips_are_told(page: Page) -> None:
    head = (
        "id: in-words\nversion: 1\nrecipient: tannery\ntitle: In words\nrequirements:\n- "
        "{property: file.wrapper, rule: {is: MP4}}\n"
    )
    page.go("/specs/new")
    page.click("from YAML or JSON")
    box = labelled(page, "The spec's text")
    box.send_keys(head + "- {property: motion.scan, rule: {is: interlacd}}")
    page.click("Read it")
    page.sees("pasted text, line 7")
    page.sees("Did you mean 'interlaced'?")
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys(
        head + "- {property: motion.scan, rule: {is: interlace}}\n- {property: motion.rate, rule: "
        "{is: 29.97}}\n- {property: picture.bit_rate, rule: {is: '50'}}"
    )
    page.click("Read it")
    page.sees("The wrapper must be MP4.")
    assert Select(labelled(page, "wrapper is")).first_selected_option.text == "MP4"
    assert Select(labelled(page, "scan is")).first_selected_option.text == "interlaced"
    page.sees("29.97 fps (30000/1001)")
    # A figure without its unit is doubted, and what was meant is one press.
    page.sees("0.1 kb/s is beyond reason for the picture bit rate.")
    page.click("Do so")
    page.sees("The picture bit rate must be 50 Mb/s.")
    # Sound is counted in kb/s; a word that is not in the list can be written, and is doubted.
    Select(labelled(page, "add a requirement on sound")).select_by_value("sound.bit_rate")
    write(page, "sound bit rate at most", "320")
    page.sees("The sound bit rate must be at most 320 kb/s.")
    Select(labelled(page, "add a requirement on sound")).select_by_value("sound.codec")
    Select(labelled(page, "codec is")).select_by_visible_text("another")
    write(page, "codec is, in other words", "opsu")
    page.sees("No file is known by the codec 'opsu'.")
    page.accessible()
    page.driver.find_element(
        By.XPATH, "//tr[@data-property='sound.codec']//button[.='Do so']"
    ).click()
    page.wait(lambda: Select(labelled(page, "codec is")).first_selected_option.text == "Opus")
    page.click("Leave without saving")
    page.sees("Tannery Hall")


def test_a_copy_begins_as_a_draft(page: Page) -> None:
    page.go("/specs/new?copy=fellside-1080p")
    page.click("Begin")
    page.wait(
        lambda: (
            page.field("Title").get_attribute("value")
            == "Programme for the community channel, copy"
        )
    )
    assert labelled(page, "name of house set 1").get_attribute("value") in {
        "rain and grass",
        "lantern light",
    }
    # A name that another has is not taken: one of the two would be lost.
    names = [labelled(page, f"name of house set {n}").get_attribute("value") for n in (1, 2)]
    labelled(page, "name of house set 1").send_keys(Keys.CONTROL, "a")
    labelled(page, "name of house set 1").send_keys(names[1])
    page.sees(f"{names[1]} is there already")
    labelled(page, "name of house set 1").send_keys(Keys.TAB)
    page.wait(
        lambda: (
            [labelled(page, f"name of house set {n}").get_attribute("value") for n in (1, 2)]
            == names
        )
    )
    # What is wrong beside the rules is said where it stands.
    name = page.field("File name")
    held = name.get_attribute("value")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("{chapter}")
    page.wait(
        lambda: (
            "has a field that is not known (chapter)"
            in page.find("section[aria-label='Name and delivery']").text
        )
    )
    assert not enabled(page, "Save as draft")
    page.accessible()
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys(held)
    page.wait(lambda: enabled(page, "Save as draft"))
    page.click("Save as draft")
    page.sees("version 1, draft")
    page.click("One version, 0 open crates of 0 planned with this one")
    page.click("Remove this draft")
    page.wait(lambda: page.driver.current_url.endswith("/specs"))


CODED = [
    ("h264_high.mp4", {"options": {"preset": "ultrafast", "profile": "high"}}),
    ("h264_main.mp4", {"options": {"preset": "fast", "profile": "main", "level": "4.0"}}),
    (
        "h264_base.mp4",
        {"options": {"preset": "ultrafast", "profile": "baseline"}, "tones": (440, 440)},
    ),
    (
        "vp8.webm",
        {
            "codec": "libvpx",
            "options": {"deadline": "realtime", "cpu-used": "8"},
            "tones": (440, 440),
            "sound_codec": "libopus",
        },
    ),
    (
        "vp9.webm",
        {
            "codec": "libvpx-vp9",
            "options": {"deadline": "realtime", "cpu-used": "8"},
            "tones": (440, 440),
            "sound_codec": "libopus",
        },
    ),
    ("av1.mp4", {"codec": "libsvtav1", "options": {"preset": "12"}}),
]


def test_the_media_types_of_real_files_are_understood_by_chromium(
    page: Page, clip: Callable[..., Path]
) -> None:
    """RFC 6381, held against the browser's own parser: what it does not understand it answers with
    an empty string.
    """
    page.go("/specs")
    ask = "return document.createElement('video').canPlayType(arguments[0])"
    assert page.driver.execute_script(ask, 'video/mp4; codecs="avc1.nonsense"') == ""
    decode = (
        "const done = arguments[1]; navigator.mediaCapabilities.decodingInfo({type: 'file', "
        "video: {contentType: arguments[0],"
        " width: 320, height: 180, bitrate: 500000, framerate: 25}}).then(i => done(i.supported), "
        "e => done(String(e)))"
    )
    for name, how in CODED:
        facts = ops.read_facts(clip(name, draw=moving_bar((320, 180), 100), frames=10, **how))  # type: ignore[arg-type]
        kind = media_type.media_type(facts)
        assert kind is not None, name
        assert page.driver.execute_script(ask, kind) == "probably", (name, kind)
        alone = kind.split("; ")[0] + f'; codecs="{facts.value("picture.codec_string")}"'
        assert page.driver.execute_async_script(decode, alone) is True, (name, alone)
    # The snippet's own markup: the browser reads the type out of it unharmed.
    text = media_type.snippet("film.mp4", facts, 'A "quoted" title')
    got = page.driver.execute_script(
        "const d = new DOMParser().parseFromString(arguments[0], 'text/html'); const s = "
        "d.querySelector('source'); return [s.type, s.getAttribute('src'), "
        "d.querySelector('video').title]",
        text,
    )
    assert got == [kind, "film.mp4", 'A "quoted" title']
