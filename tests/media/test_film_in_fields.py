"""Film that lies in fields by two and three is found again: every frame once, in order, whole."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Span
from ample_crate.core.formats.pixels import RGB
from ample_crate.core.planning.places import source_of
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.pulldown import may_carry
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.segments import can_be_parted
from ample_crate.core.planning.steps import UndoPulldown
from ample_crate.core.planning.streams import MadePicture
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops
from carried import NTSC, shows, two_and_three
from clips import Clip
from conformance import facts_of, make
from counting import fields, numbers

FILM, PAL = Fraction(24000, 1001), Fraction(25)
FRAMES = 60  # that carry 48 of film


def carried(path: Path, order: Sequence[int], first: str = "upper first", **more: Any) -> Path:
    clip = {"rate": NTSC, "frames": FRAMES, "fields": first, "tones": None, "codec": "ffv1"}
    return Clip(draw=shows(order), options={}, **{**clip, **more}).write(path)


@pytest.fixture(scope="module", params=["upper first", "lower first"])
def master(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("carried")
    return carried(folder / "film.mkv", two_and_three(FRAMES), request.param)


def spec(rate: Fraction, scan: str = "progressive", **asked: object) -> Spec:
    rows = {
        "picture.codec": "ffv1",
        "motion.rate": str(rate),
        "motion.scan": scan,
        "sound.tracks": 0,
        "file.wrapper": "mkv",
    }
    rows |= {key.replace("_", ".", 1): value for key, value in asked.items()}
    head = {"id": "film", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


def route_of(facts: Facts, asked: Spec, item: Item = Item(), **choices: Any) -> Route:  # noqa: B008
    return plan_route(facts, asked, choices, "film", item)


def made(route: Route, master: Path, folder: Path) -> Path:
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    file = folder / route.plan.outcome
    make(master, file, route.plan)
    return file


def undone(route: Route) -> bool:
    assert route.plan is not None and isinstance(route.plan.picture, MadePicture)
    return any(isinstance(step, UndoPulldown) for step in route.plan.picture.steps)


@pytest.mark.parametrize("first", range(5))
def test_every_frame_of_film_once_and_whole(master: Path, first: int, tmp_path: Path) -> None:
    """Wherever in the five frames it begins."""
    item = Item(span=Span(name="part", first=first, frames=50))
    route = route_of(facts_of(master), spec(FILM), item, pulldown="undone")
    assert route.plan is not None and route.plan.frames == 40
    pairs = fields(made(route, master, tmp_path))
    assert len(pairs) == 40
    # The first frame of a range may lack a field that lies before it, the last one after it; where
    # the first is half of either, the first five carry five of film, of which four go on.
    inside = pairs[4 if first == 2 else 1 : -1]
    assert all(upper == lower for upper, lower in inside)
    assert all(b - a == 1 for (a, _), (b, _) in pairwise(inside))
    for place, (number, _) in list(enumerate(pairs))[1:-1]:
        assert abs(source_of(route.plan, place) * Fraction(4, 5) - number) <= 1


def test_where_the_order_breaks_no_frame_is_woven_of_two(tmp_path: Path) -> None:
    """A cut in the middle of the turns."""
    whole = two_and_three(FRAMES)
    order = [*whole[:61], *whole[64:]]
    master = carried(tmp_path / "cut.mkv", order)
    route = route_of(facts_of(master), spec(FILM), pulldown="undone")
    pairs = fields(made(route, master, tmp_path))
    woven = [place for place, (upper, lower) in enumerate(pairs) if upper != lower]
    assert len(woven) <= 1 and all(20 <= place <= 28 for place in woven)


def test_what_is_made_of_it_goes_on_at_any_rate(master: Path, tmp_path: Path) -> None:
    asked = spec(PAL, "interlaced", motion_field_order="upper first")
    route = route_of(facts_of(master), asked, pulldown="undone")
    shown = [number for pair in fields(made(route, master, tmp_path)) for number in pair]
    # Of 23.976 in 50 fields each frame stays for two or three.
    assert shown == sorted(shown) and {shown.count(n) for n in range(2, 44)} == {2, 3}


def test_what_is_made_without_loss_is_what_it_is_held_against(master: Path, tmp_path: Path) -> None:
    route = route_of(facts_of(master), spec(FILM), pulldown="undone")
    file = made(route, master, tmp_path)
    assert route.plan is not None and not can_be_parted(route.plan)
    found = ops.quality(file, [master], route.plan, ops.Control())
    assert found.frames == 48 and found.identical == 48


def test_it_is_undone_by_itself_where_film_was_found_and_is_asked_for(
    master: Path, tmp_path: Path
) -> None:
    facts = facts_of(master)
    told = "2:3 in fields: 23.976 pictures in 29.97 frames a second"
    known = facts.with_values("assumed", {"motion.cadence": told})
    route = route_of(known, spec(FILM))
    assert undone(route) and route.choices["pulldown"] == "undone"
    assert not [c for c in route.cautions if c.row == "motion.cadence"]
    assert [*dict.fromkeys(numbers(made(route, master, tmp_path)))] == list(range(48))
    for other in (facts, facts.with_values("assumed", {"motion.cadence": "every frame new"})):
        assert not undone(route_of(other, spec(FILM)))
    assert not undone(route_of(known, spec(NTSC)))
    left = route_of(known, spec(FILM), pulldown="")
    assert not undone(left) and left.choices["pulldown"] == ""


def test_what_is_not_known_to_be_film_is_said(master: Path) -> None:
    facts = facts_of(master)
    for cadence in (None, "every frame new"):
        known = facts.with_values("assumed", {"motion.cadence": cadence}) if cadence else facts
        (doubt,) = [
            c
            for c in route_of(known, spec(FILM), pulldown="undone").cautions
            if c.row == "motion.cadence"
        ]
        assert (cadence or "Nobody has looked") in doubt.why and doubt.way_out


def test_more_bits_than_fields_are_matched_in_are_refused(master: Path) -> None:
    deep = spec(FILM, picture_bit_depth=10)
    route = route_of(facts_of(master), deep, pulldown="undone")
    (why,) = [c for c in route.cautions if c.blocks]
    assert "8 bit" in why.what and "10" in why.what and "8 bit" in why.way_out
    assert route.choices["pulldown"] == "undone"
    assert "pulldown" not in route_of(facts_of(master), deep).choices


def test_only_fields_at_the_rate_carry_film_so(tmp_path: Path) -> None:
    frames = facts_of(Clip(tones=None).write(tmp_path / "frames.mov"))
    with pytest.raises(BadValue, match=r"29\.97 or 30"):
        route_of(frames, spec(PAL), pulldown="undone")
    with pytest.raises(BadValue, match="nothing that is done"):
        route_of(frames, spec(PAL), pulldown="twice")
    assert "pulldown" not in route_of(frames, spec(PAL)).choices
    carrying = frames.with_values(
        "assumed", {"motion.scan": "interlaced", "motion.rate": NTSC, "picture.chroma": "4:2:0"}
    )
    assert may_carry(carrying)
    for key, value in (("picture.chroma", RGB), ("picture.alpha", True)):
        assert not may_carry(carrying.with_values("assumed", {key: value}))
