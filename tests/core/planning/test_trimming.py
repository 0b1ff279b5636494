"""What is taken of a master: without black, or as long as asked by black alone."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.facts.span import Piece, Span
from ample_crate.core.planning import trimming
from ample_crate.core.planning.trimming import Length, Proposal, Taken
from ample_crate.core.specs.spec import Spec
from support import master_facts

PAL = Fraction(25)
NOTHING = Fraction(0)


def asking(**rule: Any) -> Spec:
    row = {"property": "file.duration", "rule": rule, "source": "1"}
    head = {"id": "asks", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**head, "requirements": [row]})


@pytest.mark.parametrize(
    ("rule", "lengths"),
    [
        ({"is": "20 s", "tolerance": "1 s"}, [(19, 21)]),
        ({"one_of": ["10 s", "20 s"]}, [(10, 10), (20, 20)]),
        ({"between": ["3 s", "60 s"]}, [(3, 60)]),
        ({"at_most": "60 s"}, [(0, 60)]),
        ({"at_least": "3 s"}, [(3, None)]),
        ({"same_as": "master"}, []),
    ],
)
def test_lengths_are_read_from_the_rule(rule: Any, lengths: list[tuple[int, int | None]]) -> None:
    assert trimming.asked(asking(**rule)) == [Length(Fraction(a), b) for a, b in lengths]


def test_black_is_counted_within_what_is_taken() -> None:
    film = master_facts().with_values(
        "measured", {"motion.black_before": Fraction(2), "motion.black_after": Fraction(1)}
    )
    assert trimming.taken_of(film, None) == Taken(0, 500, 50, 25)
    part = trimming.taken_of(film, Span(first=30, frames=460))
    assert part == Taken(30, 460, 20, 15) and part.clear == Taken(50, 425)
    middle = trimming.taken_of(film, Span(first=100, frames=100))
    assert middle == middle.clear == Taken(100, 100)
    # Of black alone nothing would be left.
    start = trimming.taken_of(film, Span(first=0, frames=40))
    assert start == Taken(0, 40, 40) == start.clear


def test_what_is_left_out_is_no_length_and_no_black_is_looked_for_beyond_it() -> None:
    film = master_facts().with_values(
        "measured", {"motion.black_before": Fraction(2), "motion.black_after": Fraction(1)}
    )
    middle = (Piece(first=200, frames=60), Piece(first=300, frames=15))
    part = trimming.taken_of(film, Span(first=30, frames=460, left_out=middle))
    assert part == Taken(30, 460, 20, 15, middle) and part.count == 385
    assert trimming.length_of(part, PAL, NOTHING) == Fraction(385, 25)
    assert part.clear == Taken(50, 425, 0, 0, middle)
    # 14.8 s are asked: 15 frames of black less, of the 385 that are taken.
    fitted = trimming.fitted(part, [Length(Fraction(0), Fraction(148, 10))], PAL, NOTHING)
    assert fitted == Proposal(Taken(30, 445, 20, 0, middle))
    early = (Piece(first=10, frames=5), Piece(first=480, frames=5))
    assert trimming.taken_of(film, Span(first=0, frames=500, left_out=early)) == Taken(
        0, 500, 10, 15, early
    )


@pytest.mark.parametrize(
    ("taken", "lengths", "around", "wanted"),
    [
        # As it is.
        (Taken(0, 500), [Length(Fraction(20), Fraction(20))], NOTHING, None),
        # Twelve frames too many, of which ten are at the end.
        (
            Taken(0, 512, 25, 10),
            [Length(Fraction(20), Fraction(20))],
            NOTHING,
            Proposal(Taken(2, 500, 23, 0)),
        ),
        # Picture would have to go.
        (Taken(0, 512, 1, 10), [Length(Fraction(20), Fraction(20))], NOTHING, None),
        # What stands around it counts.
        (
            Taken(0, 500, 0, 60),
            [Length(Fraction(20), Fraction(20))],
            Fraction(2),
            Proposal(Taken(0, 450, 0, 10)),
        ),
        # Too short, and never too long.
        (
            Taken(0, 490),
            [Length(Fraction(20), Fraction(21))],
            NOTHING,
            Proposal(Taken(0, 490), Fraction(2, 5)),
        ),
        # The nearest of several lengths.
        (
            Taken(0, 260, 5, 20),
            [Length(Fraction(n), Fraction(n)) for n in (10, 20, 30)],
            NOTHING,
            Proposal(Taken(0, 250, 5, 10)),
        ),
        (Taken(0, 500), [], NOTHING, None),
    ],
)
def test_a_length_is_reached_by_black_alone(
    taken: Taken, lengths: list[Length], around: Fraction, wanted: Proposal | None
) -> None:
    assert trimming.fitted(taken, lengths, PAL, around) == wanted


@given(
    st.integers(1, 2000),
    st.integers(0, 300),
    st.integers(0, 300),
    st.integers(1, 80),
    st.sampled_from([PAL, Fraction(24), Fraction(50)]),
)
def test_what_is_proposed_is_as_asked_and_loses_no_picture(
    frames: int, before: int, after: int, seconds: int, rate: Fraction
) -> None:
    whole = Taken(0, before + frames + after, before, after)
    length = Length(Fraction(seconds), Fraction(seconds))
    found = trimming.fitted(whole, [length], rate, NOTHING)
    if found is None:
        too_long = (before + frames + after) / rate > seconds
        assert length.holds(whole.frames / rate) or (too_long and frames / rate > seconds)
        return
    made = found.taken
    assert length.holds(made.frames / rate + found.black)
    assert made.first <= before and made.first + made.frames >= before + frames
