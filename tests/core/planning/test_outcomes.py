"""What runs teach of those to come, and how far off what was foretold of them was."""

from __future__ import annotations

from dataclasses import replace

import pytest

from ample_crate.core.planning.outcomes import (
    ENOUGH,
    TAUGHT_BY,
    Foretold,
    Outcome,
    error_of,
    errors,
    taught,
)
from ample_crate.core.planning.ready import (
    DEFAULT_MEASURE_SPEED,
    NO_PAST,
    encode_seconds,
    measure_seconds,
)

RUN = Outcome(
    effort="prores",
    work=40_000_000,
    looked=40_000_000,
    sized_by="prores hq",
    made_of="a",
    planned=1000,
    size=900,
    encode=2.0,
    measure=0.5,
)


def test_speeds_are_all_samples_over_all_seconds_of_a_kind() -> None:
    slow = replace(RUN, work=10_000_000, encode=8.0)
    past = taught([RUN, slow, replace(RUN, effort="h264", encode=20.0)])
    assert past.encode == {"prores": pytest.approx(5.0), "h264": pytest.approx(2.0)}
    assert encode_seconds("prores", 50e6, past) == pytest.approx(10.0)
    assert measure_seconds(80e6, "prores", past) == pytest.approx(1.0)
    assert measure_seconds(80e6, "hevc", past) == 80 / DEFAULT_MEASURE_SPEED


def test_what_several_workers_shared_teaches_no_speed() -> None:
    assert taught([replace(RUN, encode=None)]).encode == {}


def test_only_the_newest_of_a_kind_teach() -> None:
    old = replace(RUN, encode=200.0, size=100, made_of="b")
    past = taught([RUN] * TAUGHT_BY + [old] * 50)
    assert past.encode["prores"] == pytest.approx(20.0)
    assert past.size(1000, "prores hq") == 900


def test_the_same_pictures_take_the_same_and_others_about_what_their_kind_takes() -> None:
    runs = [replace(RUN, made_of=name, size=size) for name, size in [("a", 500), ("b", 800)]]
    past = taught([*runs, replace(RUN, made_of="c", size=1200)])
    assert past.size(2000, "prores hq", "a") == 1000
    assert past.size(2000, "prores hq", "b") == 1600
    assert past.size(2000, "prores hq", "elsewhere") == 1600  # the middle one's
    assert past.size(2000, "prores lt", "a") == 2000
    # A plan that knows its size is not corrected, whatever came of others.
    known = taught([replace(RUN, sized_by="", size=10)])
    assert known.size(2000, "", "a") == 2000 and NO_PAST.size(7, "prores hq", "a") == 7


def test_what_was_made_so_before_comes_to_the_same_again() -> None:
    """Whatever decides its size, such as a rate that a short film does not come to."""
    made = replace(RUN, sized_by="", made_as="so", planned=1000, size=950)
    past = taught([made])
    assert past.size(2000, "", "a", "so") == 1900
    assert past.size(2000, "", "b", "so") == past.size(2000, "", "a", "otherwise") == 2000


def test_the_newest_runs_of_the_very_same_tell_its_time() -> None:
    slow = replace(RUN, encode=20.0)
    runs = [replace(RUN, encode=n, made_as="so") for n in (4.0, 5.0, 80.0, 80.0, 80.0)]
    past = taught([*runs, slow, slow])
    assert encode_seconds("prores", 40e6, past, "so") == pytest.approx(5.0)
    assert encode_seconds("prores", 40e6, past, "otherwise") > 10


def told(sampled: float, came: float | None) -> Outcome:
    foretold = Foretold(size=950, encode=2.2, measure=0.55, sampled=sampled, quality=sampled)
    return replace(RUN, quality=came, foretold=foretold)


def test_quality_is_corrected_from_so_many_runs_on() -> None:
    few = [told(40.0, 40.4)] * (ENOUGH - 1)
    assert taught([*few, told(40.0, None)]).quality == {}
    assert taught([*few, told(38.0, 41.0)]).quality == {"prores": pytest.approx(0.4)}


def test_errors_are_shares_of_what_came_and_decibels() -> None:
    one = told(40.0, 39.5)
    found = error_of(one)
    assert found["size"] == pytest.approx(950 / 900 - 1)
    assert found["time"] == pytest.approx(0.1)
    assert found["quality"] == pytest.approx(0.5)
    assert error_of(RUN) == {}
    # A miss below counts as one above; a run nobody compared says nothing of quality.
    held = errors([one, told(40.0, 41.5), told(40.0, 40.1), told(40.0, None)])
    assert held["quality"].runs == 3 and held["size"].runs == 4
    assert held["quality"].middle == pytest.approx(0.5)
    assert held["quality"].worst == pytest.approx(1.5)
