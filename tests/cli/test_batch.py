"""A sheet at the command line: what each line makes, what is not made twice, how it goes on."""

import fcntl
import json
import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from ample_crate.store.places import CHECKOUT
from clips import moving_bar

SCHEMA = json.loads((CHECKOUT / "docs" / "cli.schema.json").read_text())
SPEC = """
id: spots-by-sheet
version: 1
recipient: pinfold
title: Spots by sheet
requirements:
  - {property: picture.codec, rule: {is: h264}}
  - {property: picture.size, rule: {is: 320x180}}
  - {property: file.wrapper, rule: {is: mp4}}
delivery:
  name: "spot_{number}"
  fields: {number: {matches: "[0-9]{2}"}}
"""
Run = Callable[..., "subprocess.CompletedProcess[str]"]


@pytest.fixture
def place(tmp_path: Path, clip: Callable[..., Path]) -> Path:
    """A folder with masters and a spec; a folder inside it for what is made."""
    for number, name in enumerate(("one", "two", "three")):
        film = clip(f"{name} of a sheet.mp4", draw=moving_bar((640, 360)), frames=10 + number)
        shutil.copy(film, tmp_path / f"{name}.mp4")
    (tmp_path / "spec.yaml").write_text(SPEC)
    return tmp_path


def command(place: Path, *more: str) -> list[str]:
    head = [sys.executable, "-m", "ample_crate.cli", "batch", str(place / "spots.csv")]
    return [*head, "--spec", str(place / "spec.yaml"), "--out", str(place / "made"), *more]


def batch(place: Path, sheet: str, *more: str) -> tuple[int, Any, str]:
    (place / "spots.csv").write_text(sheet)
    done = subprocess.run(command(place, "--json", *more), capture_output=True, text=True)
    document = json.loads(done.stdout)
    which = "error" if "error" in document else "batch"
    jsonschema.validate(document, {"$ref": f"#/$defs/{which}", "$defs": SCHEMA["$defs"]})
    return done.returncode, document, done.stderr


def test_each_line_is_made_once(place: Path) -> None:
    code, document, _ = batch(place, "master,number\none.mp4,01\ntwo.mp4,02\nno such.mp4,03\n")
    assert code == 2
    first, second, third = document["lines"]
    assert [row["exit"] for row in document["lines"]] == [0, 0, 2]
    assert Path(first["deliverable"]) == place / "made" / "spot_01.mp4"
    assert second["verdict"] == "meets" and not second["before"]
    assert third["line"] == 4 and "no such.mp4" in third["error"]["what"]
    ledger = json.loads((place / "made" / "spot_01.mp4.ledger.json").read_text())
    assert ledger["deliverable"] == first["deliverable"]
    assert json.loads((place / "made" / "spots.batch.json").read_text()) == document
    hidden = [one.name for one in (place / "made").iterdir() if one.name.startswith(".")]
    assert hidden == []
    # Again, with one more line, and one of other bytes.
    shutil.copy(place / "three.mp4", place / "no such.mp4")
    made = (place / "made" / "spot_01.mp4").stat().st_mtime_ns
    code, document, _ = batch(place, "master,number\none.mp4,01\ntwo.mp4,02\nno such.mp4,03\n")
    assert code == 0
    assert [row["before"] for row in document["lines"]] == [True, True, False]
    assert (place / "made" / "spot_01.mp4").stat().st_mtime_ns == made


def test_what_is_gone_or_changed_is_made_anew(place: Path) -> None:
    sheet = "master,number\none.mp4,01\ntwo.mp4,02\n"
    batch(place, sheet)
    for one in (place / "made").glob("spot_0*"):
        one.unlink()
    shutil.copy(place / "three.mp4", place / "two.mp4")
    _, document, _ = batch(place, sheet)
    assert [row["before"] for row in document["lines"]] == [False, False]


def test_two_lines_of_one_name_do_not_replace_each_other(place: Path) -> None:
    code, document, _ = batch(place, "master,number\none.mp4,01\ntwo.mp4,01\n")
    assert code == 2
    told = sorted(document["lines"], key=lambda row: row["exit"])
    assert [row["exit"] for row in told] == [0, 2]
    assert "'spot_01.mp4' is in the folder already" in told[1]["error"]["what"]
    assert (place / "made" / "spot_01.mp4").stat().st_size == told[0]["bytes"]


def test_a_sheet_with_mistakes_makes_nothing(place: Path) -> None:
    code, document, _ = batch(place, "master,numberr\none.mp4,01\n")
    assert code == 2
    assert "line 1, numberr" in document["error"]["what"]
    assert "Did you mean 'number'?" in document["error"]["what"]
    assert not (place / "made").exists()
    code, document, _ = batch(place, "master,number\none.mp4,01\n", "--at-once", "0")
    assert code == 2 and "1 to 32" in document["error"]["way_out"]


def test_one_batch_of_a_sheet_is_at_work_in_a_folder(place: Path) -> None:
    half_made = place / "made" / ".spots.batch"
    half_made.mkdir(parents=True)
    (half_made / "7").mkdir()
    held = os.open(half_made, os.O_RDONLY)
    fcntl.flock(held, fcntl.LOCK_EX)
    sheet = "master,number\none.mp4,01\n"
    code, document, _ = batch(place, sheet)
    assert code == 2 and "is at work in this folder" in document["error"]["what"]
    assert (half_made / "7").exists()
    os.close(held)
    # What one that was killed left there goes.
    assert batch(place, sheet)[0] == 0
    assert not half_made.exists()


def test_a_batch_that_was_stopped_goes_on(place: Path, clip: Callable[..., Path]) -> None:
    # The second is begun when the first is done, and takes longer than it takes to stop it.
    long = clip("long of a sheet.mp4", draw=moving_bar((640, 360)), frames=1500)
    shutil.copy(long, place / "two.mp4")
    sheet = "master,number\none.mp4,01\ntwo.mp4,02\n"
    (place / "spots.csv").write_text(sheet)
    process = subprocess.Popen(command(place, "--at-once", "1"))
    record = place / "made" / "spots.batch.json"
    while not record.exists():
        assert process.poll() is None
        time.sleep(0.05)
    process.send_signal(signal.SIGTERM)
    assert process.wait() == 130
    names = {one.name for one in (place / "made").iterdir() if not one.name.startswith(".")}
    assert "spot_01.mp4" in names and "spot_02.mp4" not in names
    shutil.copy(place / "three.mp4", place / "two.mp4")
    code, document, _ = batch(place, sheet)
    assert code == 0
    assert [row["before"] for row in document["lines"]] == [True, False]
    assert not (place / "made" / ".spots.batch").exists()
