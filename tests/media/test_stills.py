"""Images: one of a film, a clip of one, and one of one."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from ample_crate.core import formats
from ample_crate.core.facts.span import Span
from ample_crate.core.formats.pixels import RGB, Pixels
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from clips import Clip, moving_bar
from conformance import (
    SIZE,
    Case,
    facts_of,
    made_from,
    make,
    measured_here,
    odd_ones,
    spec_for,
)

RGB10 = Pixels(RGB, 10)


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("film")
    return Clip(draw=moving_bar(SIZE), frames=25).write(folder / "film.mov")


@pytest.fixture(scope="module")
def still(film: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    spec = spec_for(Case("dpx", "", RGB10, "still image"))
    return made_from(film, spec, tmp_path_factory.mktemp("still"))[2]


def picture(path: Path, number: int = 0) -> np.ndarray[Any, Any]:
    with av.open(str(path)) as container:
        frames = [f.to_ndarray(format="rgb24") for f in container.decode(video=0)]
    return frames[number].astype(int)


def test_the_frame_that_is_marked_becomes_the_image(film: Path, tmp_path: Path) -> None:
    spec = spec_for(Case("png", "", Pixels(RGB, 8), "still image"))
    route = plan_route(
        facts_of(film), spec, {}, "film.mov", Item(span=Span(name="title", first=12, frames=1))
    )
    assert route.plan is not None, [c.what for c in route.cautions]
    out = tmp_path / route.plan.files[0].name
    assert out.suffix == ".png"
    make(film, out, route.plan)
    assert odd_ones(route.facts, measured_here(out)) == {}
    apart = [np.abs(picture(out) - picture(film, n)).mean() for n in (11, 12, 13)]
    assert apart.index(min(apart)) == 1 and min(apart) < 1


def test_which_image_is_taken_of_a_film_is_said(film: Path) -> None:
    spec = spec_for(Case("png", "", Pixels(RGB, 8), "still image"))
    route = plan_route(facts_of(film), spec, {}, "film.mov")
    assert "A still of the first frame" in [s.title for s in route.steps]
    assert any("has no place for sound" in s.reason for s in route.steps)


def test_a_still_of_a_still_is_the_same(still: Path, tmp_path: Path) -> None:
    assert still.suffix == ".dpx"
    spec = spec_for(Case("dpx", "", RGB10, "still image"))
    _, predicted, file, measured = made_from(still, spec, tmp_path)
    assert odd_ones(predicted, measured) == {}
    assert np.abs(picture(file) - picture(still)).max() <= 1


def clip_of(still: Path, tmp_path: Path, **choices: str) -> tuple[Path, Any, Any]:
    spec = spec_for(Case("prores", "hq", Pixels("4:2:2", 10), "mov"), **{"sound.tracks": 1})
    _, predicted, file, measured = made_from(still, spec, tmp_path, **choices)
    return file, predicted, measured


def test_a_still_becomes_a_clip_of_the_length_that_is_chosen(still: Path, tmp_path: Path) -> None:
    file, predicted, measured = clip_of(still, tmp_path, **{"file.duration": "1.6 s"})
    assert odd_ones(predicted, measured) == {}
    assert measured.value("motion.frames") == 40
    assert measured.fraction("file.duration") == Fraction(8, 5)
    assert np.abs(picture(file, 39) - picture(still)).mean() < 3


def test_a_clip_of_a_still_needs_a_length(still: Path) -> None:
    spec = spec_for(Case("prores", "hq", Pixels("4:2:2", 10), "mov"))
    route = plan_route(facts_of(still), spec, {}, "still.dpx")
    assert route.plan is None
    (said,) = [c for c in route.cautions if c.blocks]
    assert "for how long" in said.what and said.way_out == "Choose a duration."


def test_images_tell_their_transfer(still: Path) -> None:
    assert measured_here(still).value("picture.transfer") == "BT.601"


def test_every_kind_of_image_has_an_ending() -> None:
    images = [
        c for c in formats.made_picture().values() if c.made and "still image" in c.made.wrappers
    ]
    assert images and all(c.extension for c in images)
