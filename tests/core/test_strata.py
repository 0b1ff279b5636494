"""Parts of a film that stand for others: each is as near to what it stands for as may be."""

from __future__ import annotations

from collections.abc import Sequence
from math import log

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.quality.strata import LENGTH, strata

WEIGHTS = st.lists(st.floats(1, 1e7), min_size=1, max_size=80)


@given(WEIGHTS, st.integers(1, 12))
def test_every_part_belongs_to_one(weights: list[float], count: int) -> None:
    found = strata(weights, count)
    assert 1 <= len(found) <= count
    assert sorted(n for one in found for n in one.members) == list(range(len(weights)))
    typical = [one.typical for one in found]
    assert typical == sorted(set(typical))


def test_kinds_are_told_apart_by_weight_and_then_by_place() -> None:
    weights = [10.0, 1000.0] * 20
    assert sorted(weights[one.typical] for one in strata(weights, 2)) == [10.0, 1000.0]
    found = strata(weights, 4)
    assert [len(one.members) for one in found] == [10] * 4
    # Each kind once in either half.
    assert sorted((weights[one.typical], one.typical >= 20) for one in found) == [
        (10.0, False),
        (10.0, True),
        (1000.0, False),
        (1000.0, True),
    ]


def test_equal_weights_are_cut_by_place_alone() -> None:
    found = strata([7.0] * 64, 4)
    assert [len(one.members) for one in found] == [16] * 4
    assert [one.typical // 16 for one in found] == [0, 1, 2, 3]


@given(WEIGHTS.filter(lambda weights: len(weights) > 1))
def test_no_cut_leaves_less_apart(weights: list[float]) -> None:
    known = [(log(weight), LENGTH * n / len(weights)) for n, weight in enumerate(weights)]
    orders = [sorted(range(len(weights)), key=lambda n: known[n][axis]) for axis in (0, 1)]
    least = min(
        _scatter(known, order[:at]) + _scatter(known, order[at:])
        for order in orders
        for at in range(1, len(order))
    )
    left = sum(_scatter(known, one.members) for one in strata(weights, 2))
    assert left == pytest.approx(least, abs=1e-6)


@given(WEIGHTS, st.integers(1, 12))
def test_the_most_typical_stands_for_its_stratum(weights: list[float], count: int) -> None:
    for one in strata(weights, count):
        logs = {n: log(weights[n]) for n in one.members}
        mean = sum(logs.values()) / len(logs)
        nearest = min(abs(value - mean) for value in logs.values())
        assert one.typical in one.members
        # What lies far in is less typical, by as much as all of a film at most.
        assert abs(logs[one.typical] - mean) <= nearest + LENGTH


def _scatter(known: list[tuple[float, float]], members: Sequence[int]) -> float:
    """Sum up the squares of what they are apart from their mean."""
    found = 0.0
    for axis in (0, 1):
        mean = sum(known[n][axis] for n in members) / len(members)
        found += sum((known[n][axis] - mean) ** 2 for n in members)
    return found
