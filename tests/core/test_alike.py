"""Films that are nearly the same are laid over each other, and what differs is told."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.errors import BadMedia
from ample_crate.core.quality import alike
from ample_crate.core.quality.alike import COUNT, Frames, compare, means, packed, unpacked


def film(frames: int = 200, seed: int = 1) -> Frames:
    """Scenes of some seconds each, in which light wanders."""
    rng = np.random.default_rng(seed)
    scenes = [
        rng.integers(20, 200, COUNT) + rng.normal(0, 2, (50, COUNT)).cumsum(axis=0)
        for _ in range(-(-frames // 50))
    ]
    return np.clip(np.concatenate(scenes)[:frames], 0, 255).astype(np.uint8)


def coded(frames: Frames, seed: int = 2) -> Frames:
    """What coding leaves of it: hardly anything changes in means of large cells."""
    rng = np.random.default_rng(seed)
    moved = frames.astype(int) + rng.integers(-1, 2, frames.shape)
    return np.clip(moved, 0, 255).astype(np.uint8)


@given(st.integers(1, 40), st.integers(0, 2**32 - 1))
def test_an_outline_is_kept_to_the_last_step(frames: int, seed: int) -> None:
    made = np.random.default_rng(seed).integers(0, 256, (frames, COUNT)).astype(np.uint8)
    assert (unpacked(packed(made)) == made).all()


def test_what_is_no_outline_is_refused() -> None:
    with pytest.raises(BadMedia):
        unpacked(b"nothing of the kind")


@given(st.integers(1, 60), st.integers(1, 60))
def test_a_plain_picture_has_its_own_mean_in_every_cell(lines: int, across: int) -> None:
    assert (means(np.full((lines, across), 77.0)) == 77).all()


def test_a_cell_holds_what_lies_in_it() -> None:
    picture = np.zeros((40, 60))
    picture[10:20, 20:30] = 200
    found = means(picture).reshape(alike.CELLS)
    assert found[1, 2] == 200 and found.sum() == 200


@given(st.integers(-60, 60), st.integers(0, 30))
def test_it_is_found_where_another_shows_the_same(shift: int, tail: int) -> None:
    whole = film(300)
    first = max(0, -shift)
    one, other = whole[60:240], coded(whole[60 - shift : 240 + tail])
    if shift < 0:
        other = coded(whole[60 + first : 240 + tail])
    found = compare(one, other)
    assert found.near and found.shift == shift and not found.parts
    assert (found.before, found.after) == (shift, tail)


def test_what_looks_otherwise_is_found_to_the_frame() -> None:
    one = film()
    other = coded(one)
    other[60:80, 3] ^= 128
    other[150, 7] ^= 128
    found = compare(one, other)
    assert found.parts == ((60, 79), (150, 150)) and found.same == 200 - 21


def test_parts_that_lie_close_are_told_as_one() -> None:
    one = film()
    other = one.copy()
    for place in (40, 45, 50, 100):
        other[place] ^= 128
    assert compare(one, other).parts == ((40, 50), (100, 100))


def test_all_of_it_a_little_brighter_is_the_same_picture() -> None:
    one = np.clip(film(), 30, 200).astype(np.uint8)
    assert not compare(one, one + np.uint8(9)).parts


def test_another_film_is_not_near() -> None:
    assert not compare(film(seed=1), film(seed=9)).near


def test_a_picture_that_stands_still_is_laid_as_it_stands() -> None:
    still = np.full((50, COUNT), 90, np.uint8)
    found = compare(still, np.full((80, COUNT), 90, np.uint8))
    assert found.near and (found.shift, found.after) == (0, 30)


def test_a_single_frame_is_compared_too() -> None:
    one = film(1)
    assert compare(one, one).same == 1
