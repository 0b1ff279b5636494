"""What a rate buys of a film, from stretches of it: held against films whose law is known."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise
from math import log2

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.quality import hardness
from ample_crate.core.quality.hardness import Curve, Flow, Hardness, Point, about, places

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


@given(st.integers(1, 300_000), st.sampled_from([4, 25]), st.sampled_from(["3", "12/5"]))
def test_stretches_lie_spread_over_the_film(frames: int, each: int, coded: str) -> None:
    found = places(frames, each, Fraction(coded), [])
    assert found[0] >= 0 and found[-1] + min(each, frames) <= frames
    assert all(b - a >= each for a, b in pairwise(found))
    if frames >= 3000 and len(found) > hardness.FEWEST:
        # The work in frames, of that of the film.
        assert len(found) * each * Fraction(coded) <= frames * hardness.SHARE


def test_a_pass_that_only_looks_counts_for_a_quarter() -> None:
    assert hardness.often(1) == 3
    assert hardness.often(2) == Fraction(12, 5)


def test_a_typical_place_is_taken_of_each_part() -> None:
    weights = [10.0] * 600
    weights[100:200] = [1000.0] * 100
    found = places(600, 25, Fraction(3), weights)
    assert len(found) == 6
    # Of the part with the burst what is half of it is nearest to its mean.
    assert all(weights[at] == 10.0 for at in found[2:])
    mean = sum(weights[100:200]) / 100
    assert sum(weights[found[1] : found[1] + 25]) / 25 == mean


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
