"""Picture and sound in files of their own: each is what it should be, and they belong together."""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path

import pytest
from pymediainfo import MediaInfo

from ample_crate.core.errors import BadMedia
from ample_crate.core.facts import Facts
from ample_crate.core.ledger import ledger
from ample_crate.core.specs.spec import Spec
from ample_crate.media import apart, folders, ops
from ample_crate.media.viewer import Viewer
from ample_crate.store.library import find
from ample_crate.work.deliver import Delivered, plan_or_refuse, run_route
from clips import Clip, moving_bar

DVD = find("ostler-dvd-625")
APART = {"either.streams": "picture and sound apart"}
TOGETHER = Spec.model_validate(
    {
        "id": "together",
        "version": 1,
        "recipient": "ostler",
        "title": "t",
        "requirements": [
            {"property": "sound.length_difference", "rule": {"between": ["-0.04 s", "0.04 s"]}}
        ],
    }
)


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Facts]:
    folder = tmp_path_factory.mktemp("film")
    clip = Clip(draw=moving_bar((720, 576)), frames=50, aspect=Fraction(64, 45))
    path = clip.write(folder / "film.mov")
    return path, ops.measure(path).facts


@pytest.fixture(scope="module")
def made(film: tuple[Path, Facts], tmp_path_factory: pytest.TempPathFactory) -> Delivered:
    choices = APART | {"sound.tracks": "2", "either.scan": "whole frames"}
    route, _ = plan_or_refuse(film[1], DVD, choices, "film.mov")
    return run_route([film[0]], film[1], DVD, route, tmp_path_factory.mktemp("out"))


def test_each_stream_is_a_file_of_its_own(made: Delivered) -> None:
    files = folders.files_of(made.path)
    assert [f.name for f in files] == [
        "film_title_r1.m2v",
        "film_title_r1.ac3",
        "film_title_r1_2.ac3",
    ]
    assert {f.parent.name for f in files} == {"film_title_r1"}
    kinds = [[t.format for t in MediaInfo.parse(f).tracks[1:]] for f in files]
    assert kinds == [["MPEG Video"], ["AC-3"], ["AC-3"]]
    assert not [f for f in made.findings if f.verdict in {"breaks", "unproven"}]
    assert made.facts.value("file.size") == sum(f.stat().st_size for f in files)
    assert made.facts.value("file.wrapper") == "separate streams"
    assert made.facts.value("sound.tracks") == 2


def test_they_end_together_to_a_coded_frame(made: Delivered) -> None:
    """A frame of AC-3 has 1,536 samples (ATSC A/52): 32 ms at 48 kHz."""
    for key, fact in made.facts.tracks("sound.length_difference"):
        assert isinstance(fact.measured, Fraction), key
        assert 0 <= fact.measured < Fraction(1536, 48000)
    predicted = made.route.facts
    for key in ("sound.length_difference", "sound.length_difference@2"):
        assert predicted.value(key) == made.facts.value(key)


def test_sound_that_breaks_off_does_not_belong_to_its_picture(
    made: Delivered, tmp_path: Path
) -> None:
    files, short = [], tmp_path / "short"
    short.mkdir()
    for file in folders.files_of(made.path):
        files.append(short / file.name)
        data = file.read_bytes()
        # AC-3 frames of 448 kb/s have 1,792 bytes; a second has 31.25 of them.
        files[-1].write_bytes(data if file.suffix == ".m2v" else data[: 1792 * 30])
    facts = ops.measure(apart.lay_out(tmp_path / "laid", files)).facts
    found = {f.property: f for f in ledger(facts, TOGETHER, made.facts)}
    assert found["sound.length_difference"].verdict == "breaks"
    assert facts.value("sound.length_difference") == 30 * Fraction(1536, 48000) - 2


def test_the_picture_is_what_is_looked_at(made: Delivered) -> None:
    viewer = Viewer()
    try:
        jpeg = viewer.picture(made.path, 10, 200)
    finally:
        viewer.close()
    assert jpeg[:2] == b"\xff\xd8"


@pytest.mark.parametrize("text", ["", "{}", '{"files": []}', '{"files": ["../secret.m2v"]}', "[1]"])
def test_a_description_leads_nowhere_else(text: str, tmp_path: Path) -> None:
    path = tmp_path / apart.DESCRIPTION
    path.write_text(text)
    with pytest.raises(BadMedia, match="no description"):
        apart.links_of(path)


def test_what_is_missing_is_missed(made: Delivered, tmp_path: Path) -> None:
    files = [tmp_path / "a.m2v", tmp_path / "a.ac3"]
    for file in files:
        file.write_bytes(b"x")
    path = apart.lay_out(tmp_path / "laid", files)
    assert folders.is_there(path)
    os.unlink(files[1])
    assert not folders.is_there(path)
