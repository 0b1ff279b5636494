"""What is made of figures of likeness, and where two films are in step."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core import quality
from ample_crate.core.quality import MEASURES, Likeness, in_step

CURVES = st.lists(st.floats(0, 100), min_size=1, max_size=200)


def likeness(xpsnr: list[float], shift: int = 0) -> Likeness:
    curves = {"psnr": xpsnr, "ssim": [0.9] * len(xpsnr), "xpsnr": xpsnr}
    return Likeness(curves, 0, shift, (), 1.0)


def test_a_curve_is_summed_up_by_values_that_frames_have() -> None:
    found = quality.figures([float(n) for n in range(1, 101)])
    assert found == (50.5, 5.0, 1.0)
    assert quality.figures([7.0]) == (7.0, 7.0, 7.0)


def test_figures_are_of_the_programme_alone() -> None:
    found = replace(likeness([90.0, 90.0, 40.0, 42.0, 90.0]), programme=(2, 4))
    assert quality.summary(found.of_programme)["xpsnr"] == {"mean": 41, "p5": 40, "worst": 40}
    assert Likeness.from_json(found.as_json()) == found
    assert quality.summary(likeness([40.0, 42.0]).of_programme)["xpsnr"]["mean"] == 41
    # A file so short that none of it was compared is told of by what was.
    short = replace(found, programme=(5, 9))
    assert short.of_programme == short.curves


@given(CURVES)
def test_nineteen_frames_in_twenty_reach_the_percentile(curve: list[float]) -> None:
    found = quality.figures(curve)
    below = sum(value < found.p5 for value in curve)
    assert below < 0.05 * len(curve) + 1e-9 and found.p5 in curve
    assert found.worst == min(curve)


@given(CURVES, st.integers(1, 30))
def test_worst_moments_lie_apart_and_begin_with_the_worst(curve: list[float], apart: int) -> None:
    found = quality.worst({"xpsnr": curve}, apart)
    if len(set(curve)) > 1:
        assert curve[found[0]] == min(curve)
    assert [curve[n] for n in found] == sorted(curve[n] for n in found)
    assert all(abs(a - b) >= apart for n, a in enumerate(found) for b in found[:n])
    assert len(found) <= quality.MOST_MOMENTS


def test_of_frames_that_are_all_alike_none_is_worst() -> None:
    assert quality.worst({"xpsnr": [40.0] * 50}, 25) == []


def test_moments_are_named_by_the_files_own_timecode() -> None:
    curve = [50.0] * 60
    curve[31] = 20.0
    found = quality.moments(likeness(curve, shift=4), Fraction(25), "10:00:00:00")
    assert [(one["frame"], one["timecode"]) for one in found] == [(35, "10:00:01:10")]
    assert found[0]["xpsnr"] == 20.0
    dropped = quality.moments(likeness(curve), Fraction(30000, 1001), "00:00:59;20")
    assert dropped[0]["timecode"] == "00:01:00;23"
    # A file may say what does not exist: drop-frame at 25 a second.
    odd = quality.moments(likeness(curve), Fraction(25), "10:00:00;00")
    assert odd[0]["timecode"] == "00:00:01:06"


def test_where_a_file_begins_earlier_its_frames_are_counted_from_its_first() -> None:
    assert likeness([1.0], shift=-3).of_file(0) == 0
    assert likeness([1.0], shift=3).of_file(0) == 3


@given(CURVES, st.integers(1, 50))
def test_a_shortened_curve_keeps_its_lows(curve: list[float], most: int) -> None:
    short = quality.lows(curve, most)
    assert len(short) <= most and min(short) == min(curve)
    each = quality.stretch(len(curve), most)
    assert short == [min(curve[n : n + each]) for n in range(0, len(curve), each)]


def test_every_measure_says_what_it_means_and_where_it_comes_from() -> None:
    assert all(measure.says and measure.source for measure in MEASURES.values())
    assert set(quality.HEADLINE) <= set(MEASURES) and quality.RANKED in quality.HEADLINE


def looks(frames: int, seed: int = 3) -> in_step.Looks:
    return np.random.default_rng(seed).uniform(0, 255, (frames, 40)).astype(np.float32)


@pytest.mark.parametrize("by", [-9, -1, 0, 1, 7])
def test_a_shift_is_found_through_what_coding_leaves(by: int) -> None:
    whole = looks(60)
    reference, film = whole[10:40], whole[10 - by : 40 - by]
    coded = film + np.random.default_rng(1).normal(0, 2, film.shape).astype(np.float32)
    found, apart = in_step.shift(reference, coded, 12)
    assert found == by and apart < 3


def test_where_nothing_moves_no_shift_is_made_up() -> None:
    still = np.repeat(looks(1), 30, axis=0)
    coded = still + np.random.default_rng(1).normal(0, 0.3, still.shape).astype(np.float32)
    assert in_step.shift(still, coded, 12)[0] == 0
    assert in_step.stands_still(still) and not in_step.stands_still(looks(30))


def test_another_film_is_no_shift_of_this_one() -> None:
    found, apart = in_step.shift(looks(30), looks(30, seed=4), 12)
    assert found == 0 and apart > 20
