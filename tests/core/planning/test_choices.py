"""What may be chosen, and that every choice reaches the plan."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core.errors import AmpleError, BadValue
from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.planning import choices as choices_of
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.resolve import Resolver
from ample_crate.core.planning.route import plan_route
from ample_crate.store import library
from ample_crate.work.deliver import plan_or_refuse
from support import master_facts


def test_what_the_planner_settles_is_what_may_be_chosen(monkeypatch: pytest.MonkeyPatch) -> None:
    seen: list[Resolver] = []
    begin = Resolver.__init__

    def watched(self: Resolver, *args: Any) -> None:
        begin(self, *args)
        seen.append(self)

    monkeypatch.setattr(Resolver, "__init__", watched)
    for spec in library.specs():
        for master in (
            master_facts(),
            master_facts(motion_scan="interlaced", motion_field_order="upper first"),
            master_facts(sound_tracks=0),
            master_facts(file_wrapper="still image", motion_rate=None),
        ):
            try:
                plan_route(master, spec, {}, "film.mov")
            except AmpleError:
                continue
    assert {key for one in seen for key in one.settled} == {
        k for k, p in PROPERTIES.items() if p.chosen
    }


def sound_rate(plan: Plan) -> int:
    return plan.sounds[0].encoding.rate(plan.sounds[0].format)


def shape(plan: Plan) -> Fraction:
    assert plan.picture is not None
    return plan.picture.format.pixel_aspect


CHOICES = [
    ("ostler-dvd-625", "picture.vbv", "1 Mbit", lambda p: p.picture.encoding.buffer <= 10**6),
    ("ostler-dvd-625", "motion.longest_gop", "6", lambda p: p.picture.encoding.gop == 6),
    ("ostler-dvd-625", "sound.codec", "mp2", lambda p: p.sounds[0].encoding.codec == "mp2"),
    ("ostler-dvd-625", "sound.bit_rate", "224 kb/s", lambda p: sound_rate(p) == 224_000),
    ("ostler-dvd-625", "picture.display_aspect", "4:3", lambda p: shape(p) < 1.1),
    ("ostler-bd", "motion.b_frames", "1", lambda p: p.picture.encoding.b_frames == 1),
    ("ostler-bd", "picture.slices", "8", lambda p: p.picture.encoding.slices == 8),
    ("ostler-dvd-625", "sound.tracks", "2", lambda p: len(p.sounds) == 2),
    ("wickerwork-square", "sound.tracks", "0", lambda p: not p.sounds),
    ("fellside-1080p", "motion.rate", "50", lambda p: p.picture.format.rate == 50),
    ("tannery-list", "picture.profile", "main", lambda p: p.picture.encoding.profile == "main"),
    ("fellside-1080p", "levels", "legal", lambda p: p.picture.steps[-1].kind == "legalise"),
]


@pytest.mark.parametrize(
    ("id", "key", "value", "reached"), CHOICES, ids=[f"{c[0]} {c[1]}" for c in CHOICES]
)
def test_a_choice_reaches_the_plan(id: str, key: str, value: str, reached: Any) -> None:
    given = {"production": "Lichen"}
    spec = library.find(id)
    before, after = (
        plan_route(master_facts(), spec, choices, "film.mov", Item(given=given))
        for choices in ({}, {key: value})
    )
    assert key in before.choices and before.plan is not None and after.plan is not None
    assert not reached(before.plan) and reached(after.plan)
    choices_of.require_effect(after, key, value)


@pytest.mark.parametrize(
    ("id", "key", "value", "says"),
    [
        ("ostler-dvd-625", "picture.peak_bit_rate", "5 Mb/s", "comes out of the encode"),
        ("ostler-dvd-625", "motion.rate", "25", "the spec fixes it"),
        ("wickerwork-square", "sound.tracks", "2", "outside what the spec allows"),
    ],
)
def test_a_choice_that_would_change_nothing_is_refused(
    id: str, key: str, value: str, says: str
) -> None:
    with pytest.raises(BadValue, match=says):
        plan_or_refuse(master_facts(), library.find(id), {key: value}, "film.mov")


def test_values_to_pick_from_are_said_in_the_words_of_the_trade() -> None:
    spec, route = (
        library.find("ostler-dvd-625"),
        plan_route(master_facts(), library.find("ostler-dvd-625"), {}, "film.mov"),
    )
    found = choices_of.options(spec.resolved({"streams": "program stream"}), route.choices)
    assert found["sound.codec"] == [
        ("ac3", "AC-3"),
        ("mp2", "MPEG-1 layer 2"),
        ("pcm_dvd", "PCM of a DVD"),
    ]
    assert found["picture.display_aspect"] == [("16/9", "16:9"), ("4/3", "4:3")]
    assert found["sound.tracks"] == [(str(n), str(n)) for n in range(1, 9)]
    square = plan_route(master_facts(), library.find("wickerwork-square"), {}, "film.mov")
    assert choices_of.options(library.find("wickerwork-square"), square.choices)[
        "sound.tracks"
    ] == [
        ("0", "0"),
        ("1", "1"),
    ]


def test_a_background_is_offered_only_where_it_shows() -> None:
    clear = master_facts(picture_alpha=True)
    assert "background" in plan_route(clear, library.find("tannery-list")).choices
    kept = plan_route(clear, library.find("tannery-stage"), {"either.coding": "small files"})
    assert "background" not in kept.choices
    heard = plan_route(clear, library.find("brackwater-sound"))
    assert heard.plan is not None and "background" not in heard.choices
    opaque = clear.with_values("measured", {"picture.alpha_use": "wholly opaque"})
    assert "background" not in plan_route(opaque, library.find("tannery-list")).choices
