"""`ample plan --hard`: what quality a rate buys, as a document and in words."""

from __future__ import annotations

import json
from itertools import pairwise
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from ample_crate import cli
from ample_crate.store.places import CHECKOUT
from clips import Clip, noise

SCHEMA = json.loads((CHECKOUT / "docs" / "cli.schema.json").read_text())
SPEC = """
id: {codec}-small
version: 1
recipient: pinfold
title: Small
requirements:
  - {{property: picture.codec, rule: {{is: {codec}}}}}
  - {{property: file.wrapper, rule: {{is: mov}}}}
"""


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    clip = Clip(draw=noise((192, 128)), frames=60, tones=None)
    return clip.write(tmp_path_factory.mktemp("film") / "film.mov")


@pytest.fixture
def asked(film: Path, tmp_path: Path) -> list[str]:
    return ["plan", str(film), "--spec", str(spec(tmp_path, "h264")), "--hard"]


def spec(folder: Path, codec: str) -> Path:
    file = folder / f"{codec}.yaml"
    file.write_text(SPEC.format(codec=codec))
    return file


def test_as_a_document(asked: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main([*asked, "--json", "--choose", "picture.bit_rate=1 Mb/s"]) == 0
    found: Any = json.loads(capsys.readouterr().out)
    jsonschema.validate(found, {"$ref": "#/$defs/plan", "$defs": SCHEMA["$defs"]})
    hard = found["hard"]
    for key in ("bit_rate", "psnr", "ssim", "xpsnr"):
        assert all(a[key] <= b[key] for a, b in pairwise(hard["points"])), key
    assert hard["planned"]["bit_rate"] == 1_000_000 and hard["planned"] in hard["points"]
    assert hard["points"][0]["xpsnr"] < hard["points"][-1]["xpsnr"]
    assert hard["sampled"]["frames"] == 25 * hard["sampled"]["stretches"] == 50
    # Noise at a sixth of a bit a sample is poor whichever way it is coded.
    assert hard["planned"]["xpsnr"] < 30
    assert hard["poor"]["bit_rate"] is None or hard["poor"]["bit_rate"] > 1_000_000


def test_in_words(asked: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main([*asked, "--choose", "picture.bit_rate=4 Mb/s"]) == 0
    said = capsys.readouterr().out
    assert "foretold from 50 of 60 frames" in said and "as planned" in said
    assert "XPSNR" in said and "hardest: 25 frames from frame" in said


def test_a_codec_without_a_rate_says_why(
    film: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    rest = ["--spec", str(spec(tmp_path, "prores")), "--hard"]
    assert cli.main(["plan", str(film), *rest]) != 0
    said = capsys.readouterr().err
    assert "No rate is set of what is made" in said and "keeps to a rate" in said
