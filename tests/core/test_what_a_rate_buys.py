"""What a rate buys of a film, from stretches of it: held against films whose law is known."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise
from math import log2

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.quality import hardness
from ample_crate.core.quality.hardness import Curve, Flow, Hardness, Point, about, stretches

TRIED = (22, 28, 34)
SIX = 6.0206  # dB for twice the fineness: 20 log10 2
FREE = Flow(ceiling=1000.0, evenly=False)


def stretch(weight: float) -> Curve:
    """A stretch that halves its rate for 6 steps of the quantiser, and then has 6 dB less."""
    return Curve([Point(q, weight * 2 ** (-q / 6), measured(q)) for q in TRIED])


def measured(quantiser: float) -> dict[str, float]:
    quality = 60 - quantiser / 6 * SIX
    return {"xpsnr": quality, "psnr": quality - 1, "ssim": 1 - quantiser / 500}


WEIGHTS = st.lists(st.floats(1e6, 1e8), min_size=1, max_size=12)


@given(WEIGHTS, st.floats(18, 38))
def test_all_of_a_film_is_coded_as_finely(weights: list[float], quantiser: float) -> None:
    film = Hardness([stretch(weight) for weight in weights], FREE)
    rate = sum(weight * 2 ** (-quantiser / 6) for weight in weights) / len(weights)
    shares = film.shares(rate)
    assert sum(shares) / len(shares) == pytest.approx(rate)
    for share, weight in zip(shares, weights, strict=True):
        assert -6 * log2(share / weight) == pytest.approx(quantiser)
    assert film.figures(rate) == pytest.approx(measured(quantiser))
    assert abs(film.quantiser(0, rate) - quantiser) <= 0.51
    assert film.rate_for(measured(quantiser)["xpsnr"]) == pytest.approx(rate, rel=1e-4)
    assert film.rate_for(measured(quantiser)["psnr"], "psnr") == pytest.approx(rate, rel=1e-4)


@given(WEIGHTS, st.floats(1e5, 1e6))
def test_a_constant_rate_is_the_same_for_all(weights: list[float], rate: float) -> None:
    film = Hardness([stretch(weight) for weight in weights], Flow(1.0, evenly=True))
    assert film.shares(rate) == [rate] * len(weights)
    wanted = [measured(-6 * log2(rate / weight))["xpsnr"] for weight in weights]
    assert film.figures(rate)["xpsnr"] == pytest.approx(sum(wanted) / len(wanted))


def test_no_second_gets_more_than_the_ceiling() -> None:
    weights = [1e6, 1e6, 1e6, 1e8]
    film = Hardness([stretch(weight) for weight in weights], Flow(2.0, evenly=False))
    easy, *_, hard = film.shares(100_000)
    assert hard == 200_000 and easy == pytest.approx(200_000 / 3)
    assert film.hardest(100_000)[0] == 3
    free = Hardness(film.curves, FREE)
    assert free.figures(100_000)["xpsnr"] < film.figures(100_000)["xpsnr"]


def test_easy_pictures_take_no_more_than_they_can() -> None:
    film = Hardness([stretch(1e6)], FREE)
    # Beyond half of what was tried nothing is told.
    assert film.shares(1e9) == [pytest.approx(1e6 * 2 ** (-16 / 6))]
    assert not film.reaches(1e9) and not film.reaches(1.0)
    assert all(film.reaches(1e6 * 2 ** (-quantiser / 6)) for quantiser in (17, 28, 39))


def test_what_lies_far_from_what_was_tried_is_not_foretold() -> None:
    film = Hardness([stretch(1e6)], FREE)
    assert film.rate_for(80.0) is None and film.rate_for(5.0) is None


@given(WEIGHTS, st.floats(1e4, 1e7))
def test_more_rate_is_never_worse(weights: list[float], rate: float) -> None:
    film = Hardness([stretch(weight) for weight in weights], Flow(2.0, evenly=False))
    less, more = (film.figures(times * rate) for times in (1.0, 1.5))
    assert all(more[key] >= less[key] - 1e-6 for key in less)


def test_noise_in_what_was_coded_is_borne() -> None:
    odd = Curve([Point(22, 1000.0, measured(22)), Point(28, 1100.0, measured(28))])
    assert odd.rate(28) < odd.rate(22)
    assert Curve([Point(22, 1000.0, measured(22))]).figure(5.0) == measured(22)["xpsnr"]
    assert stretch(1e6).figure(1e12, "ssim") == 1.0


def timed(weight: float, fixed: float) -> Curve:
    """A stretch whose coding takes so many seconds, and one more each time its rate doubles."""
    return Curve(
        [Point(q, weight * 2 ** (-q / 6), measured(q), fixed + (TRIED[-1] - q) / 6) for q in TRIED]
    )


@given(st.floats(22, 34), st.floats(22, 34))
def test_what_coding_takes_follows_the_rate(one: float, other: float) -> None:
    film = Hardness([timed(1e6, 1.0), timed(4e6, 3.0)], FREE)
    rates = [2.5e6 * 2 ** (-quantiser / 6) for quantiser in (one, other)]
    wanted = [4 + 2 * (34 - quantiser) / 6 for quantiser in (one, other)]
    assert film.slower(*rates) == pytest.approx(wanted[0] / wanted[1])


def test_what_coding_takes_is_not_foretold_beyond_what_was_tried() -> None:
    film = Hardness([timed(1e6, 1.0)], FREE)
    most, least = (1e6 * 2 ** (-quantiser / 6) for quantiser in (22, 34))
    assert film.slower(2 * most, least) == film.slower(most, least) == pytest.approx(3.0)
    assert film.slower(least / 2, most) == pytest.approx(1 / 3)


def test_what_coding_takes_is_unknown_where_it_was_not_taken_down() -> None:
    assert Hardness([timed(1e6, 1.0), stretch(1e6)], FREE).slower(1e5, 2e5) is None


@given(st.integers(1, 300_000), st.sampled_from([4, 25]), st.sampled_from(["3", "12/5"]))
def test_stretches_lie_spread_over_the_film(frames: int, each: int, coded: str) -> None:
    found = stretches(frames, each, Fraction(coded), [])
    firsts = [one.first for one in found]
    assert firsts[0] >= 0 and firsts[-1] + min(each, frames) <= frames
    assert all(b - a >= each for a, b in pairwise(firsts))
    assert sum(one.share for one in found) == pytest.approx(1)
    if frames >= 3000 and len(found) > hardness.FEWEST:
        # The work in frames, of that of the film.
        assert len(found) * each * Fraction(coded) <= frames * hardness.SHARE
    if frames >= 100 * each:
        # Where all weighs the same, each stands for a part of its own, of one half to one twice.
        assert max(one.share for one in found) < 2.5 * min(one.share for one in found)
        assert all(b - a < frames * 2.5 / len(found) for a, b in pairwise(firsts))


def test_a_pass_that_only_looks_counts_for_a_quarter() -> None:
    assert hardness.often(1) == 3
    assert hardness.often(2) == Fraction(12, 5)


def test_stretches_stand_for_what_is_as_heavy() -> None:
    # Scenes that come again and again, as a tenth, three tenths and six tenths of the film.
    scenes = [(100.0, 1), (1000.0, 3), (5000.0, 6)] * 10
    weights = [weight for weight, seconds in scenes for _ in range(25 * seconds)]
    found = stretches(len(weights), 25, Fraction(3), weights)
    assert len(found) == hardness.FEWEST
    for weight, share in ((100.0, 0.1), (1000.0, 0.3), (5000.0, 0.6)):
        mine = [one.share for one in found if weights[one.first] == weight]
        assert sum(mine) == pytest.approx(share), weight


def test_what_each_stretch_stands_for_counts() -> None:
    easy, hard = stretch(1e6), stretch(8e6)
    uneven = Hardness([easy, hard], FREE, stand=[0.75, 0.25])
    alike = Hardness([easy, easy, easy, hard], FREE)
    for rate in (5e4, 1e5, 2e5):
        assert uneven.figures(rate) == pytest.approx(alike.figures(rate))
        assert uneven.reaches(rate) == alike.reaches(rate)
    assert uneven.rate_for(40.0) == pytest.approx(alike.rate_for(40.0))
    assert uneven.tried == pytest.approx(alike.tried)


@pytest.mark.parametrize(
    ("rate", "wanted", "found"),
    [(1e6, 1e6, (22, 28, 34)), (4e6, 1e6, (34, 40, 46)), (1e6, 2e6, (16, 22, 28))],
)
def test_quantisers_are_chosen_about_the_rate(
    rate: float, wanted: float, found: tuple[int, ...]
) -> None:
    ladder = (4, 10, 16, 22, 28, 34, 40, 46)
    assert tuple(about(ladder, rate, wanted)) == found


def test_they_stay_on_the_ladder() -> None:
    assert tuple(about((4, 10, 16, 22), 1e9, 1.0)) == (10, 16, 22)
    assert tuple(about((4, 10, 16, 22), 1.0, 1e9)) == (4, 10, 16)
