"""Ranges of a master that are framed otherwise: at each place the frame is the one that is made
where all is framed so.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts.span import Piece, Span
from ample_crate.core.planning import reframing, segments
from ample_crate.core.planning.places import frame_at, source_of
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.streams import MadePicture
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops, planned, reference
from clips import Clip, moving_bar
from conformance import facts_of, made, plan_of

PART, OTHER = "200 x 120 + 32 + 24", "240 x 136 + 0 + 0"
REFRAMED = f"5-9: {PART}, crop; 14-17: {OTHER}, stretch; 18-20: {PART}, crop"
WAYS = ({}, {"region": PART, "framing": "crop"}, {"region": OTHER, "framing": "stretch"})
HEAD = {"id": "reframed", "version": 1, "recipient": "pinfold", "title": "t"}


def spec(**asked: str) -> Spec:
    rows = {"picture.codec": "ffv1", "file.wrapper": "mkv", "picture.size": "256x144", **asked}
    keyed = {key.replace("__", "."): value for key, value in rows.items()}
    return Spec.model_validate(
        {**HEAD, "requirements": [{"property": k, "rule": {"is": v}} for k, v in keyed.items()]}
    )


def film(folder: Path, rate: Fraction = Fraction(25), **more: Any) -> Path:
    clip = Clip(draw=moving_bar((320, 180), 9), rate=rate, frames=30, tones=None, **more)
    return clip.write(folder / "film.mov")


def frames(plan: Plan, master: Path) -> list[np.ndarray]:
    assert isinstance(plan.picture, MadePicture)
    return [one.to_ndarray() for one in reference.frames(plan.picture, plan, [str(master)])]


CASES: dict[str, tuple[dict[str, Any], dict[str, str], dict[str, str], Item]] = {
    "as it is": ({}, {}, {}, Item()),
    "a range": ({}, {}, {}, Item(span=Span(first=3, frames=24))),
    "ranges joined": (
        {},
        {},
        {},
        Item(span=Span(first=2, frames=26, left_out=(Piece(first=7, frames=9),))),
    ),
    "fields to frames": (
        {"fields": "tff"},
        {"motion__scan": "progressive", "motion__rate": "50"},
        {},
        Item(),
    ),
    "frames to fields": (
        {"rate": Fraction(50)},
        {"motion__scan": "interlaced", "motion__rate": "25", "motion__field_order": "upper"},
        {},
        Item(),
    ),
    "repeats": (
        {"rate": Fraction(24)},
        {"motion__rate": "50"},
        {},
        Item(span=Span(first=1, frames=25)),
    ),
    "faster": ({"rate": Fraction(24)}, {"motion__rate": "25"}, {"speed": "25"}, Item()),
    "mixed": ({"rate": Fraction(24)}, {"motion__rate": "25"}, {"retime": "blended"}, Item()),
    "after a leader": ({}, {}, {"leader": "black 0.2 s", "burn_in": "timecode"}, Item()),
}


@pytest.mark.parametrize("case", CASES)
def test_each_frame_is_the_one_of_its_way(case: str, tmp_path: Path) -> None:
    clip, asked, choices, item = CASES[case]
    master = film(tmp_path, **clip)
    usual = {"picture": "encoded", **choices}
    plan = plan_of(master, spec(**asked), item, reframed=REFRAMED, **usual)
    assert isinstance(plan.picture, MadePicture)
    assert [one.ranges for one in plan.picture.reframed] == [((5, 9), (18, 20)), ((14, 17),)]
    found = frames(plan, master)
    alone = [frames(plan_of(master, spec(**asked), item, **usual, **way), master) for way in WAYS]
    assert len(found) == plan.frames == len(alone[0])
    ways = [plan.picture.way(source_of(plan, place)) for place in range(plan.frames)]
    assert set(ways) == {0, 1, 2} or case == "ranges joined"
    for place, way in enumerate(ways):
        if case == "mixed" and ways[place : place + 2] != [way] * 2:
            continue  # two framings are mixed where one gives way to the other
        assert (found[place] == alone[way][place]).all(), (place, way)
    edges = [n for n in range(1, plan.frames) if ways[n] != ways[n - 1]]
    for place in sorted({*edges, *(n - 1 for n in edges), plan.frames - 1}):
        one = planned.frame_of([str(master)], plan, place)
        assert (one.to_ndarray() == found[place]).all(), place


def test_segments_of_it_are_what_is_made_in_one(tmp_path: Path) -> None:
    master = film(tmp_path)
    asked = spec(picture__codec="prores", file__wrapper="mov")
    plan = plan_of(master, asked, reframed=REFRAMED, picture="encoded")
    whole = frames(plan, master)
    joined = [
        frame for part in segments.parted(plan, 4) for frame in frames(part, master)[: part.frames]
    ]
    assert len(joined) == len(whole) and all(
        (a == b).all() for a, b in zip(joined, whole, strict=True)
    )


def test_a_file_is_held_against_each_ranges_own_framing(tmp_path: Path) -> None:
    master = film(tmp_path)
    plan = plan_of(master, spec(), reframed=REFRAMED, picture="encoded")
    file = made(plan, master, tmp_path / "made")
    found = ops.quality(file, [master], plan, ops.Control())
    assert found.frames == found.identical == 30
    plain = plan_of(master, spec(), picture="encoded")
    assert ops.quality(file, [master], plain, ops.Control()).identical == 30 - 5 - 4 - 3


def test_places_of_a_range_are_its_masters_frames(tmp_path: Path) -> None:
    master = film(tmp_path)
    plan = plan_of(master, spec(), Item(span=Span(first=4, frames=20)), reframed=REFRAMED)
    assert isinstance(plan.picture, MadePicture)
    taken = plan.inputs[0]
    assert [frame_at(plan.picture, taken, place) for place in (0, 1, 19)] == [4, 5, 23]


def test_it_is_told_in_the_route_and_offered_of_moving_pictures(tmp_path: Path) -> None:
    facts = facts_of(film(tmp_path))
    route = plan_route(facts, spec(), {"reframed": REFRAMED}, "film.mov")
    (told,) = [one for one in route.steps if "framed otherwise" in one.title]
    assert told.title == "3 ranges are framed otherwise" and PART in told.reason
    assert route.choices["reframed"] == REFRAMED
    assert plan_route(facts, spec(), {}, "film.mov").choices["reframed"] == ""
    with pytest.raises(BadValue, match="ends behind the last frame, 29"):
        plan_route(facts, spec(), {"reframed": "25-40: crop"}, "film.mov")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("5-9", "no range that is framed otherwise"),
        ("9-5: , crop", "ends before it begins"),
        ("5-9: , wide", "no framing"),
        ("5-9: , crop; 9-12: , pad", "overlap"),
        ("; ".join(f"{n}-{n}: , crop" for n in range(0, 90, 2)), "too many"),
        ("5-9: 20 by 30", "20 by 30"),
    ],
)
def test_what_is_no_range_is_refused(text: str, says: str) -> None:
    with pytest.raises(BadValue, match=says):
        reframing.read(text)


@pytest.mark.parametrize(
    "text", ["", REFRAMED, "0-0: pad", "3-8: 200 x 120 + 32 + 24", "100-200: stretch"]
)
def test_ranges_are_written_as_they_are_read(text: str) -> None:
    assert reframing.shown(reframing.read(text)) == text
