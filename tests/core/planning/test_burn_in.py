"""What is burnt in: read, named, labelled."""

from __future__ import annotations

from fractions import Fraction

import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts.span import Span, within
from ample_crate.core.planning import burn_in
from ample_crate.core.planning.burn_in import BurnIn
from support import master_facts

PAL = Fraction(25)


@pytest.mark.parametrize(
    ("text", "kinds"),
    [
        ("", ()),
        ("name", ("name",)),
        ("name, timecode", ("timecode", "name")),
        (" , name,", ("name",)),
    ],
)
def test_what_is_chosen_is_read(text: str, kinds: tuple[str, ...]) -> None:
    assert burn_in.read(text) == kinds


def test_what_is_not_burnt_in_is_said() -> None:
    with pytest.raises(BadValue, match="'clock' is not burnt in"):
        burn_in.read("timecode, clock")
    assert burn_in.read_watermark("  For   review ") == "For review"
    with pytest.raises(BadValue, match="61 letters"):
        burn_in.read_watermark("x" * 61)


def test_a_name_says_which_version_it_is() -> None:
    names = {"production": "Lanterns", "master": "lanterns_ep3", "episode": "3", "revision": "2"}
    assert burn_in.named(names) == "Lanterns, episode 3, version 2"
    assert burn_in.named({"production": "", "master": "reel"}) == "reel, version 1"


def test_labels_count_on() -> None:
    burnt = BurnIn(start=90_000, rate=PAL)
    assert (burnt.label(0), burnt.label(26)) == ("01:00:00:00", "01:00:01:01")
    assert burnt.later(50).label(0) == "01:00:02:00"
    bare = BurnIn(rate=PAL, name="Lanterns")
    assert bare.label(3) == "" and bare.later(9) == bare


def test_a_corrected_label_of_the_whole_is_not_that_of_a_range() -> None:
    film = master_facts().with_values("assumed", {"file.start_timecode": "10:00:00:00"})
    part = within(film, Span(first=50, frames=25))
    assert part.value("file.start_timecode") == "10:00:02:00"
