"""`ample trial`: codecs on the same pictures, as a table, a document and comma-separated values."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from ample_crate import cli
from ample_crate.core.errors import BadSpec, BadValue
from ample_crate.core.planning import tries
from ample_crate.store.places import CHECKOUT
from ample_crate.work.tried import COLUMNS
from clips import Clip, noise

SCHEMA = json.loads((CHECKOUT / "docs" / "cli.schema.json").read_text())


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A second of noise, of which a codec that is given few bits keeps little."""
    clip = Clip(draw=noise((192, 128)), about={"timecode": "10:00:00:00"})
    return clip.write(tmp_path_factory.mktemp("film") / "film.mov")


def told(
    capsys: pytest.CaptureFixture[str], film: Path, *tried: str, more: tuple[str, ...] = ("--json",)
) -> tuple[int, str]:
    capsys.readouterr()
    given = [part for text in tried for part in ("--try", text)]
    code = cli.main(["trial", str(film), *given, *more])
    return code, capsys.readouterr().out


def test_as_a_document(film: Path, capsys: pytest.CaptureFixture[str]) -> None:
    wanted = ("h264:bit_rate=300 kb/s", "h264:bit_rate=3 Mb/s", "ffv1", "prores:profile=lt")
    code, out = told(capsys, film, *wanted, more=("--json", "--range", "5-16"))
    found: Any = json.loads(out)
    jsonschema.validate(found, {"$ref": "#/$defs/trial", "$defs": SCHEMA["$defs"]})
    assert code == 0 and (found["first"], found["frames"]) == (5, 12)
    poor, rich, whole, studio = found["tries"]
    assert [row["codec"] for row in found["tries"]] == ["h264", "h264", "ffv1", "prores"]
    assert poor["settings"] == {"picture.bit_rate": "300 kb/s"} and poor["wrapper"] == "mp4"
    for measure in ("psnr", "ssim", "xpsnr"):
        order = [row[measure]["mean"] for row in (poor, rich, whole)]
        assert order == sorted(order) and order[0] < order[1] < order[2], measure
    assert whole["psnr"]["worst"] == 100 and studio["psnr"]["worst"] < 100
    assert poor["bytes"] < rich["bytes"] < whole["bytes"]
    seconds = found["frames"] / 25
    assert poor["bit_rate"] == pytest.approx(8 * poor["bytes"] / seconds, rel=1e-3)
    for row in found["tries"]:
        assert all(frames > 0 for frames in row["decode"].values())
        fps = found["frames"] / row["encode"]["seconds"]
        assert row["encode"]["fps"] == pytest.approx(fps, rel=0.05)


def test_a_second_pass_is_tried_on_ranges_joined(
    film: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    wanted = ("h264:bit_rate=1 Mb/s", "h264:bit_rate=1 Mb/s:passes=2")
    code, out = told(capsys, film, *wanted, more=("--json", "--range", "0-9,15-24"))
    found: Any = json.loads(out)
    jsonschema.validate(found, {"$ref": "#/$defs/trial", "$defs": SCHEMA["$defs"]})
    assert code == 0 and (found["first"], found["frames"]) == (0, 20)
    once, twice = found["tries"]
    assert (once["passes"], twice["passes"]) == (1, 2)
    assert once["bytes"] != twice["bytes"]
    assert abs(twice["bit_rate"] - 1e6) < abs(once["bit_rate"] - 1e6)


def test_as_values_with_what_cannot_be(film: Path, capsys: pytest.CaptureFixture[str]) -> None:
    span = ("--csv", "--range", "10:00:00:05-10:00:00:09")
    code, out = told(capsys, film, "mjpeg", "dvvideo", more=span)
    rows = list(csv.DictReader(io.StringIO(out)))
    assert code == 1 and tuple(rows[0]) == COLUMNS
    good, bad = rows
    assert float(good["psnr_mean"]) > 20 and int(good["bytes"]) > 0 and not good["error"]
    assert "does not hold 192x128" in bad["error"] and bad["bytes"] == ""


def test_for_a_person(film: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code, out = told(capsys, film, "mjpeg", more=("--range", "0-4"))
    assert code == 0 and "film.mov, 5 frames from 0 on" in out
    assert "backwards" in out and "XPSNR" in out and "mjpeg" in out


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("250-300", "lies outside this master"),
        ("9-3", "ends before it begins"),
        ("all", "is no range"),
        ("09:00:00:00-10:00:00:05", "lies outside this master"),
    ],
)
def test_a_range_that_is_none(
    film: Path, capsys: pytest.CaptureFixture[str], text: str, says: str
) -> None:
    assert cli.main(["trial", str(film), "--try", "h264", "--range", text]) == 2
    assert says in capsys.readouterr().err


def test_settings_are_read() -> None:
    one = tries.read("H.264:picture.pixel_aspect=64:45:profile=high")
    assert one.codec == "h264"
    assert one.settings == {"picture.pixel_aspect": "64:45", "picture.profile": "high"}
    spec = tries.spec_of(tries.read("vp9"))
    asked = {r.property: r.rule for r in spec.requirements}
    assert set(asked) == {"picture.codec", "file.wrapper", "sound.tracks"}


@pytest.mark.parametrize(
    "text",
    [
        "nothing",
        "h264:wonder=4",
        "h264:bit_rate=",
        "cinepak",
        "",
        "h264:passes=3",
        "mpeg2video:passes=2",
    ],
)
def test_what_is_no_try_is_refused(text: str) -> None:
    with pytest.raises(BadValue):
        tries.read(text)


def test_a_value_that_is_none_is_told() -> None:
    with pytest.raises(BadSpec):
        tries.spec_of(tries.read("h264:bit_rate=much"))


def test_bytes_that_are_no_text_are_refused(film: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code = cli.main(["trial", str(film), "--try", "h264:bit_rate=\udcff"])
    assert code == 2
    assert "'h264:bit_rate=?' is no text in UTF-8." in capsys.readouterr().err
