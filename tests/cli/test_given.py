"""What the command line takes: folders and patterns of numbered images, and several files."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
import jsonschema
import numpy as np
import pytest
from PIL import Image

from ample_crate.cli import main
from ample_crate.store.places import CHECKOUT
from tones import sine, write

SCHEMA = json.loads((CHECKOUT / "docs" / "cli.schema.json").read_text())
Captured = pytest.CaptureFixture[str]


@pytest.fixture
def roll(tmp_path: Path) -> Path:
    folder = tmp_path / "roll"
    folder.mkdir()
    for number in range(86400, 86406):
        picture = np.full((96, 160, 3), number % 251, np.uint8)
        Image.fromarray(picture).save(folder / f"reel_{number:07d}.png")
    return folder


def printed(captured: Captured) -> Any:
    return json.loads(captured.readouterr().out)


@pytest.mark.parametrize(
    "name", ["", "reel_%07d.png", "reel_#######.png", "reel_[0086400-0086405].png", "reel_*.png"]
)
def test_a_folder_or_a_pattern_is_one_master(name: str, roll: Path, capsys: Captured) -> None:
    assert main(["facts", str(roll / name), "--rate", "24", "--json"]) == 0
    facts = printed(capsys)["facts"]
    assert facts["motion.frames"]["measured"] == 6
    assert facts["file.name"]["declared"] == "reel_[0086400-0086405].png"
    assert facts["motion.rate"]["declared"] == "24/1"


def test_a_sequence_is_delivered(roll: Path, tmp_path: Path, capsys: Captured) -> None:
    out = tmp_path / "out"
    code = main(
        ["deliver", str(roll), "--rate", "24", "--spec", "brackwater-scan", "--out", str(out)]
        + ["--json"]
    )
    document = printed(capsys)
    jsonschema.validate(document, {"$ref": "#/$defs/deliver", "$defs": SCHEMA["$defs"]})
    made = Path(document["deliverable"])
    assert made.name == "reel_0086400-0086405.mov" and made.is_file()
    # Nobody says what curve these images have, so that none can be compared.
    assert code == 2
    odd = {f["property"] for f in document["findings"] if f["verdict"] == "unproven"}
    assert odd == {"picture.transfer"}


FRAMES = """
id: frames
version: 1
recipient: someone
title: Frames
requirements:
  - {property: picture.codec, rule: {is: png}}
  - {property: file.wrapper, rule: {is: image sequence}}
delivery: {name: "{master}_{frame}"}
"""


def test_images_are_delivered_as_a_folder(roll: Path, tmp_path: Path, capsys: Captured) -> None:
    spec, out = tmp_path / "frames.yaml", tmp_path / "out"
    spec.write_text(FRAMES)
    command = ["deliver", str(roll), "--rate", "24", "--spec", str(spec), "--out", str(out)]
    for more, code in (([], 0), ([], 2), (["--force"], 0)):
        assert main([*command, "--json", *more]) == code
    answers = capsys.readouterr()
    assert "is there already" in answers.err
    made = out / "reel"
    assert f'"deliverable": "{made}"' in answers.out
    assert sorted(p.name for p in made.iterdir()) == sorted(p.name for p in roll.iterdir())
    assert {p.name for p in out.iterdir()} == {"reel", "reel.ledger.html", "reel.ledger.json"}


@pytest.mark.parametrize(
    ("name", "rate", "said"),
    [
        ("", [], "nobody says at what rate"),
        ("other_*.png", ["--rate", "24"], "holds no numbered images"),
        ("", ["--rate", "0"], "beyond reason"),
        ("", ["--rate", "fast"], "fast"),
    ],
)
def test_what_is_no_sequence_is_said(
    name: str, rate: list[str], said: str, roll: Path, capsys: Captured
) -> None:
    assert main(["facts", str(roll / name), *rate]) == 2
    told = capsys.readouterr().err
    assert said in told and "Traceback" not in told


def test_several_files_one_after_the_other(
    clip: Callable[..., Path], tmp_path: Path, capsys: Captured
) -> None:
    good, bad = clip("good.mp4"), tmp_path / "bad.mov"
    bad.write_bytes(b"no film at all" * 100)
    code = main(["facts", str(good), str(bad), str(good), "--headers", "--json"])
    document = printed(capsys)
    jsonschema.validate(document, {"$ref": "#/$defs/files", "$defs": SCHEMA["$defs"]})
    assert code == 2
    assert [one["exit"] for one in document["files"]] == [0, 2, 0]
    assert "error" in document["files"][1] and "facts" in document["files"][2]


def test_two_rolls_are_no_master_to_look_back_at(
    clip: Callable[..., Path], roll: Path, capsys: Captured
) -> None:
    for number in (1, 2):
        Image.new("RGB", (160, 96)).save(roll / f"other_{number:04d}.png")
    asked = ["--spec", "brackwater-scan", "--master", str(roll), "--rate", "24"]
    assert main(["check", str(clip("a.mp4")), *asked]) == 2
    told = capsys.readouterr().err
    assert "holds 2 image sequences" in told and "by a pattern" in told


def test_the_sound_of_another_file_goes_along(
    clip: Callable[..., Path], tmp_path: Path, capsys: Captured
) -> None:
    film = clip("mute_film.mov", tones=None)
    mix = write(tmp_path / "mix.wav", [sine(-20, 1)] * 2)
    asked = [str(film), "--sound", str(mix), "--spec", "pinfold-720p"]
    assert main(["plan", *asked, "--json"]) == 0
    assert "Sound from 'mix.wav'" in [step["title"] for step in printed(capsys)["steps"]]
    out = tmp_path / "out"
    assert main(["deliver", *asked, "--json", "--out", str(out)]) in (0, 1)
    assert printed(capsys)["facts"]["sound.tracks"]["second"] == 1
    assert main(["plan", str(film), "--sound", str(film), "--spec", "pinfold-720p"]) == 2
    assert "'mute_film.mov' has no sound" in capsys.readouterr().err


def test_transparency_is_laid_over_a_still(tmp_path: Path, capsys: Captured) -> None:
    roll, still = tmp_path / "clear", tmp_path / "wall.png"
    roll.mkdir()
    for number in (1, 2, 3):
        Image.new("RGBA", (160, 96), (0, 0, 0, 0)).save(roll / f"clear_{number:04d}.png")
    Image.new("RGB", (320, 192), (200, 60, 40)).save(still)
    asked = [str(roll), "--rate", "25", "--over", str(still), "--spec", "brackwater-scan"]
    assert main(["plan", *asked, "--json"]) == 0
    assert "Laid over 'wall.png'" in [step["title"] for step in printed(capsys)["steps"]]
    out = tmp_path / "out"
    main(["deliver", *asked, "--json", "--out", str(out)])
    # Of its curve the master says nothing.
    assert printed(capsys)["verdict"] == "unproven"
    with av.open(str(next(out.rglob("*.mov")))) as container:
        seen = next(container.decode(video=0)).to_ndarray(format="rgb24")
    assert np.abs(seen.astype(int) - (200, 60, 40)).max() <= 2
    assert main(["plan", *asked[:-2], "--spec", "tannery-stage"]) == 1
    assert "Nothing of 'wall.png' would be seen" in capsys.readouterr().out
