"""Ranges of a master with pieces left out, and ranges that are joined."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Piece, Span, joined, within, without

places = st.integers(0, 60)
lengths = st.integers(1, 25)
pieces = st.lists(st.tuples(places, lengths), max_size=6)


def frames_of(span: Span) -> list[int]:
    return [n for one in span.pieces for n in range(one.first, one.end)]


@given(places, st.integers(1, 60), pieces)
def test_what_is_left_out_and_nothing_else_is_not_taken(
    first: int, frames: int, cut: list[tuple[int, int]]
) -> None:
    gone = {n for a, count in cut for n in range(a, a + count)}
    wanted = [n for n in range(first, first + frames) if n not in gone]
    out = [Piece(first=a, frames=count) for a, count in cut]
    whole = Span(name="walk", first=first, frames=frames)
    if not wanted:
        with pytest.raises(BadValue, match="Nothing is left"):
            without(whole, out)
        return
    span = without(whole, out)
    assert frames_of(span) == wanted and span.taken == len(wanted) and span.name == "walk"
    assert (span.first, span.last) == (wanted[0], wanted[-1])
    # In order and apart: what is taken stands between them.
    assert all(a.end < b.first for a, b in zip(span.left_out, span.left_out[1:], strict=False))
    assert joined(span.pieces, "walk") == span


@given(st.lists(st.tuples(st.integers(0, 9), lengths), min_size=1, max_size=6))
def test_ranges_are_joined_in_their_order(parts: list[tuple[int, int]]) -> None:
    made, at = [], 0
    for gap, count in parts:
        made.append(Piece(first=at + gap, frames=count))
        at = made[-1].end
    assert frames_of(joined(made)) == [n for one in made for n in range(one.first, one.end)]


@pytest.mark.parametrize("later", [(3, 5), (0, 2)])
def test_ranges_that_share_frames_or_come_out_of_order_are_not_joined(
    later: tuple[int, int],
) -> None:
    with pytest.raises(BadValue, match="begins before the one from frame 2 has ended"):
        joined([Piece(first=2, frames=5), Piece(first=later[0], frames=later[1])])


def test_of_what_is_left_its_length_and_its_first_timecode_are_known() -> None:
    values = {"motion.frames": 100, "motion.rate": 25, "file.start_timecode": "10:00:00:00"}
    master = Facts({}).with_values("measured", values)
    part = without(Span(first=10, frames=50), [Piece(first=20, frames=15)])
    known = within(master, part)
    assert known.value("motion.frames") == 35 and known.value("file.duration") == Fraction(7, 5)
    assert known.value("file.start_timecode") == "10:00:00:10"


def test_without_anything_left_out_it_is_kept_as_it_was() -> None:
    plain = Span(name="walk", first=5, frames=9)
    assert plain.as_json() == {"name": "walk", "first": 5, "frames": 9}
    cut = without(plain, [Piece(first=7, frames=2)])
    assert Span.model_validate(cut.as_json()) == cut
    with pytest.raises(ValidationError):
        Span.model_validate({**plain.as_json(), "left_in": []})
