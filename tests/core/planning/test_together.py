"""Which plans are made from one reading of their master."""

from __future__ import annotations

import pytest

from ample_crate.core.facts.span import Span
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.streams import Copied
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


@pytest.mark.parametrize("stream", ["picture", "sound"])
def test_what_is_copied_is_done_by_itself(stream: str) -> None:
    """Only what is encoded shares frames."""
    copied = planned("1920x1080", **{stream: "copied"})
    assert any(isinstance(s, Copied) for s in copied.streams)
    assert taken_along(FIRST, [copied]) == [] and taken_along(copied, [FIRST]) == []


def test_one_process_bears_so_much_and_no_more() -> None:
    assert len(taken_along(FIRST, [planned()] * 20)) == MOST - 1
    large = planned("3840x2160")
    # Two of 2160p, or one and what fits beside it: a third waits, a small one does not.
    assert taken_along(large, [large, large, FIRST]) == [0]
    assert taken_along(FIRST, [large, large, FIRST]) == [0, 2]
