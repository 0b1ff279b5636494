"""`ample compare`: a finished file beside its master, for a person and for a program."""

import json
from pathlib import Path

import jsonschema
import pytest

from ample_crate import cli
from ample_crate.core.quality import MEASURES
from ample_crate.store.places import CHECKOUT

SCHEMA = json.loads((CHECKOUT / "docs" / "cli.schema.json").read_text())


@pytest.fixture(scope="module")
def pair(hd_frames: Path, tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """A master, and what was made of it for a spec that asks for a name in fields."""
    out = tmp_path_factory.mktemp("made")
    names = [f"name.{field}" for field in ("production=Lichen Hours", "episode=e03")]
    chosen = [part for name in names for part in ("--choose", name)]
    arguments = ["deliver", str(hd_frames), "--spec", "fellside-1080p", "--out", str(out), *chosen]
    assert cli.main(arguments) == 0
    (made,) = out.glob("*.mp4")
    return hd_frames, made


def test_as_a_document(pair: tuple[Path, Path], capsys: pytest.CaptureFixture[str]) -> None:
    # The file has its name already: the fields of it are not asked for again.
    given = ["compare", *map(str, pair), "--spec", "fellside-1080p", "--json"]
    capsys.readouterr()
    assert cli.main(given) == 0
    found = json.loads(capsys.readouterr().out)
    jsonschema.validate(found, {"$ref": "#/$defs/compare", "$defs": SCHEMA["$defs"]})
    assert found["frames"] == len(found["curve"]["xpsnr"]) and found["notes"] == []
    for key in ("psnr", "ssim", "xpsnr", "colour", "blocks", "gradients"):
        curve, figures = found["curve"][key], found[key]
        assert figures["worst"] == pytest.approx(min(curve), abs=1e-3)
        assert figures["mean"] == pytest.approx(sum(curve) / len(curve), abs=1e-3)
    assert 30 < found["psnr"]["mean"] < 100


def test_for_a_person(pair: tuple[Path, Path], capsys: pytest.CaptureFixture[str]) -> None:
    capsys.readouterr()
    assert cli.main(["compare", *map(str, pair), "--spec", "fellside-1080p"]) == 0
    shown = capsys.readouterr().out
    for key in ("psnr", "ssim", "xpsnr"):
        assert MEASURES[key].says in shown and MEASURES[key].source in shown
    assert "Worst moments:" in shown


def test_under_another_spec_it_is_refused(
    pair: tuple[Path, Path], capsys: pytest.CaptureFixture[str]
) -> None:
    assert cli.main(["compare", *map(str, pair), "--spec", "pinfold-720p"]) == 2
    told = capsys.readouterr().err
    assert "1920x1080; the route gives 1280x720" in told and "that it was made with" in told


def test_what_is_no_film_is_said_to_be_none(
    pair: tuple[Path, Path], capsys: pytest.CaptureFixture[str]
) -> None:
    text = pair[1].with_suffix(".txt")
    text.write_text("no film")
    assert cli.main(["compare", str(pair[0]), str(text), "--spec", "fellside-1080p"]) == 2
    assert "text file" in capsys.readouterr().err
