"""Names of many items, filled in from what their masters are called, and by number."""

from __future__ import annotations

import time

import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.specs.filling import Filling, expression

NAMES = ["Lichen_Hours_E03_v2.mov", "lichen_hours_e4_v11.mxf"]


def test_fields_are_read_from_the_masters_names() -> None:
    fields = {"episode": "{episode}", "cut": "v{version}", "title": "Night"}
    filling = Filling(fields, "lichen_hours_e{episode}_v{version}")
    assert [filling.values(name, place) for place, name in enumerate(NAMES)] == [
        {"episode": "03", "cut": "v2", "title": "Night"},
        {"episode": "4", "cut": "v11", "title": "Night"},
    ]
    assert Filling({"a": "{what}"}, "{*}_e{what}_{*}").values(NAMES[0], 0) == {"a": "03"}


def test_items_are_numbered_from_the_first() -> None:
    filling = Filling({"episode": "{number:03}", "part": "{number} of 9"}, first=8)
    assert [filling.values("a.mov", place) for place in (0, 2)] == [
        {"episode": "008", "part": "8 of 9"},
        {"episode": "010", "part": "10 of 9"},
    ]


def test_what_a_name_calls_its_number_goes_before_the_count() -> None:
    assert Filling({"a": "{number}"}, "e{number}", first=5).values("e07.mov", 0) == {"a": "07"}


def test_a_name_that_does_not_fit_is_said() -> None:
    with pytest.raises(BadValue, match=r"'trailer' does not fit lichen_\{x\}"):
        Filling({"a": "{x}"}, "lichen_{x}").values("trailer.mov", 0)
    with pytest.raises(BadValue, match=r"\{y\} is not read"):
        Filling({"a": "{y}"}, "{x}").values("trailer.mov", 0)


@pytest.mark.parametrize("pattern", ["{a}{b}", "{a}_{a}", "{a", "a}", "{A}_b", "{*}{a}"])
def test_a_pattern_that_cannot_be_told_apart_is_refused(pattern: str) -> None:
    with pytest.raises(BadValue):
        expression(pattern)


def test_marks_in_a_pattern_mean_themselves() -> None:
    filling = Filling({"a": "{x}"}, "a.b (c)+{x}")
    assert filling.values("A.B (C)+7.mov", 0) == {"a": "7"}
    with pytest.raises(BadValue):
        filling.values("aXb (c)+7.mov", 0)


def test_a_long_name_and_many_wildcards_take_no_age() -> None:
    began = time.process_time()
    with pytest.raises(BadValue):
        Filling({"a": "x"}, "{*}a" * 40 + "b").values("a" * 200 + ".mov", 0)
    # By trying out every way it would not end in a year.
    assert time.process_time() - began < 60
