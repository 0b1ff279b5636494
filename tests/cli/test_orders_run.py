"""An order worked through at the command line, by an installation that is started for it."""

import json
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from ample_crate.store.places import CHECKOUT
from clips import moving_bar

SCHEMA = json.loads((CHECKOUT / "docs" / "cli.schema.json").read_text())
ORDER = """
id: foyer-by-hand
title: Foyer
source: {folder: foyer, names: ["*.mp4"]}
spec: harbour-course
name: {pattern: "{lesson}_{*}", fields: {lesson: "{lesson}"}}
"""


@pytest.fixture(scope="module")
def place() -> Iterator[Path]:
    # The database's own user reaches it.
    folder = Path(tempfile.mkdtemp(prefix="ample-test-"))
    folder.chmod(0o755)
    yield folder
    shutil.rmtree(folder, ignore_errors=True)


def work(place: Path, order: str = ORDER) -> tuple[int, Any, str]:
    (place / "order.yaml").write_text(order)
    env = {
        **os.environ,
        "AMPLE_DATA": str(place / "data"),
        "AMPLE_MEDIA": str(place / "media"),
        "AMPLE_INTAKE": str(place / "intake"),
    }
    head = [sys.executable, "-m", "ample_crate.cli", "orders", "run", str(place / "order.yaml")]
    done = subprocess.run([*head, "--once", "--json"], env=env, capture_output=True, text=True)
    document = json.loads(done.stdout)
    which = "error" if "error" in document else "orders"
    jsonschema.validate(document, {"$ref": f"#/$defs/{which}", "$defs": SCHEMA["$defs"]})
    return done.returncode, document, done.stderr


def test_a_folder_is_worked_through_once(place: Path, clip: Callable[..., Path]) -> None:
    (place / "intake").mkdir()
    code, document, _ = work(place)
    assert code == 2 and "There is no folder 'foyer'" in document["error"]["what"]
    folder = place / "intake" / "foyer"
    folder.mkdir()
    films = [clip(f"foyer {n}.mp4", draw=moving_bar((640, 360)), frames=10 + n) for n in range(2)]
    shutil.copy(films[0], folder / "l01_fog.mp4")
    shutil.copy(films[0], folder / "l02_fog again.mp4")
    shutil.copy(films[1], folder / "rain.mp4")
    (folder / "l03_text.mp4").write_text("no film " * 100)
    (folder / "notes.txt").write_text("for nobody")
    code, document, told = work(place)
    assert code == 1, told
    states = {one["name"]: one["state"] for one in document["items"]}
    assert states.pop("l03_text.mp4") == "asks" and states.pop("rain.mp4") == "asks"
    assert sorted(states.values()) == ["done", "same"]
    asked = {one["name"]: one["question"] for one in document["items"] if one["question"]}
    assert "still needs: lesson" in asked["rain.mp4"]["what"]
    [receipt] = document["receipts"]
    assert receipt["accepted"] is True
    # Again: nothing is made twice, and what asks asks still.
    code, again, _ = work(place)
    assert code == 1 and again == document


def test_an_order_that_cannot_be_read_is_told(place: Path) -> None:
    code, document, _ = work(place, ORDER + "odd: 1\n")
    assert code == 2 and "line 7" in document["error"]["what"]
