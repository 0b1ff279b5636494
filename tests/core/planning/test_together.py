"""Which plans are made from one reading of their master."""

from __future__ import annotations

from ample_crate.core.facts.span import Span
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.ready import Past
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.streams import CopiedPicture, CopiedSound, Text
from ample_crate.core.planning.together import MOST, taken_along
from ample_crate.core.specs.spec import Spec
from support import master_facts


def planned(size: str = "1280x720", span: Span | None = None, **choices: str) -> Plan:
    """Plan a ProRes deliverable of a size; of the master's own where it is to be copied."""
    rules = {"picture.codec": "prores", "file.wrapper": "mov", "picture.size": size}
    rows = [{"property": key, "rule": {"is": value}, "source": key} for key, value in rules.items()]
    head = {"id": "one", "version": 1, "title": "One", "recipient": "Test Hall"}
    spec = Spec.model_validate(head | {"requirements": rows})
    facts = master_facts(
        picture_profile="hq",
        picture_bit_rate=180_000_000,
        motion_longest_gop=1,
        motion_intra_only=True,
        motion_b_frames=0,
        sound_bit_rate=2_304_000,
        file_wrapper="mov",
    )
    chosen = {"picture": "encoded", "sound": "encoded"} | choices
    route = plan_route(facts, spec, chosen, "film.mov", Item(span))
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    return route.plan


FIRST = planned()


def test_what_takes_the_same_of_a_master_goes_along() -> None:
    assert taken_along(FIRST, [planned("1920x1080"), planned("720x576")]) == [0, 1]


def test_another_range_is_read_by_itself() -> None:
    part = Span(name="reel", first=10, frames=100)
    assert taken_along(FIRST, [planned(span=part), planned()]) == [1]
    assert taken_along(planned(span=part), [planned(), planned(span=part)]) == [1]


def test_a_picture_that_is_copied_is_done_by_itself() -> None:
    """Only what is decoded saves anything."""
    copied = planned("1920x1080", picture="copied")
    assert isinstance(copied.picture, CopiedPicture)
    assert taken_along(FIRST, [copied]) == [] and taken_along(copied, [FIRST]) == []


def test_sound_may_be_copied_beside_a_picture() -> None:
    copied = planned("1920x1080", sound="copied")
    assert isinstance(copied.sounds[0], CopiedSound)
    assert taken_along(FIRST, [copied]) == [0] and taken_along(copied, [FIRST]) == [0]


def test_captions_are_turned_for_one_file_alone() -> None:
    text = Text(number=1, codec="mov_text")
    with_text = FIRST.model_copy(update={"streams": (*FIRST.streams, text)})
    assert taken_along(FIRST, [with_text]) == [] and taken_along(with_text, [FIRST]) == []


def test_one_process_bears_so_much_and_no_more() -> None:
    assert len(taken_along(FIRST, [planned()] * 20)) == MOST - 1
    large, fast = planned("3840x2160"), Past(encode={"prores": 10_000.0})
    # Two of 2160p, or one and what fits beside it: a third waits, a small one does not.
    assert taken_along(large, [large, large, FIRST], fast) == [0]
    assert taken_along(FIRST, [large, large, FIRST], fast) == [0, 2]


def test_what_would_hold_the_others_up_waits() -> None:
    """All are done when the slowest is."""
    small, large = planned("640x360"), planned("3840x2160")
    past = Past(encode={"prores": 100.0})
    assert large.work / 100e6 > 6 * 5 > small.work / 100e6
    assert taken_along(small, [large, small], past) == [1]
    assert taken_along(large, [small], past) == []
    # Nobody minds a few seconds.
    assert taken_along(small, [large], Past(encode={"prores": 1000.0})) == [0]
