"""Cuts told from motion, on made-up pictures whose cuts are known."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import pytest
from av.video.frame import VideoFrame
from scipy.ndimage import gaussian_filter, rotate

from ample_crate.media import shots

ROWS, COLUMNS = 288, 512
Grey = np.ndarray


def texture(seed: int, softness: float = 9) -> Grey:
    """Soft grain that goes on without an end."""
    rough = np.random.default_rng(seed).normal(size=(ROWS, 2 * COLUMNS))
    soft = gaussian_filter(rough, softness, mode="wrap")
    return 128 + 40 * soft / soft.std()


ONE, OTHER = texture(1), texture(2)


def at(grain: Grey, place: float) -> Grey:
    return np.roll(grain, -round(place), axis=1)[:, :COLUMNS]


def cuts_of(pictures: Sequence[Grey]) -> list[int]:
    """Give the places of frames that a cut stands before."""
    grey = [np.clip(one, 0, 255).astype(np.uint8) for one in pictures]
    small = [shots.small(VideoFrame.from_ndarray(one, format="gray")) for one in grey]
    pairs = [shots.pair(a, b) for a, b in pairwise(small)]
    around = [shots.Pair(), *pairs, shots.Pair()]
    triples = zip(around[1:], around, around[2:], strict=False)
    return [n + 1 for n, (one, a, b) in enumerate(triples) if shots.is_cut(one, a, b)]


@pytest.mark.parametrize("speed", [0, 3, 17, 38])
def test_a_pan_is_no_cut_and_the_cut_in_it_is_one(speed: int) -> None:
    whole = [at(ONE, speed * n) for n in range(12)]
    assert cuts_of(whole) == []
    assert cuts_of([*whole[:5], *(at(OTHER, speed * n) for n in range(7))]) == [5]


def test_what_turns_is_no_cut() -> None:
    fine = texture(6, 2)[:, :COLUMNS]
    turned = [rotate(fine, 2 * n, reshape=False, mode="reflect") for n in range(6)]
    assert cuts_of(turned) == []


def test_quick_montage_is_cut_by_cut() -> None:
    kinds = [texture(seed) for seed in range(5)]
    montage = [at(kinds[n // 2], 4 * n) for n in range(10)]
    assert cuts_of(montage) == [2, 4, 6, 8]


def test_one_frame_of_another_picture_has_a_cut_on_either_side() -> None:
    pictures = [at(ONE, 2 * n) for n in range(9)]
    pictures[4] = OTHER[:, :COLUMNS]
    assert cuts_of(pictures) == [4, 5]


def test_fades_and_mixes_are_no_cuts() -> None:
    shares = np.linspace(0, 1, 12)
    fade = [share * at(ONE, 3 * n) for n, share in enumerate(shares)]
    assert cuts_of(fade[1:]) == cuts_of(fade[:0:-1]) == []
    mixed = [(1 - share) * at(ONE, n) + share * at(OTHER, n) for n, share in enumerate(shares)]
    assert cuts_of(mixed) == []


def test_a_lamp_that_is_lit_is_no_cut() -> None:
    dark = [0.7 * at(ONE, 2 * n) for n in range(6)]
    light = [at(ONE, 2 * n) for n in range(6, 12)]
    assert cuts_of([*dark, *light]) == []


def test_dark_pictures_are_cut_as_others_are() -> None:
    dim = [16 + 0.1 * at(ONE, 3 * n) for n in range(6)]
    assert cuts_of([*dim, *(16 + 0.1 * at(OTHER, 3 * n) for n in range(6))]) == [6]


def disc(middle: int) -> Grey:
    """A light disc on an even ground."""
    rows, columns = np.ogrid[:ROWS, : 2 * COLUMNS]
    return np.where((rows - 140) ** 2 + (columns - middle) ** 2 < 50**2, 200.0, 60.0)


def test_pictures_of_which_most_is_found_in_any_other_are_cut_too() -> None:
    pictures = [at(disc(150), n) for n in range(6)] + [at(disc(400), n) for n in range(6)]
    assert cuts_of(pictures) == [6]


@pytest.mark.parametrize("size", [(96, 16), (720, 576), (64, 1080)])
def test_any_shape_is_made_small_in_whole_blocks(size: tuple[int, int]) -> None:
    small = shots.small(VideoFrame(*size, format="yuv422p"))
    rows, columns = small.shape
    assert columns == shots.WIDTH and rows >= 16 and rows % shots.BLOCK == 0
