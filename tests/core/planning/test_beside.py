"""Sound from another file: where it is laid, and what is known of both together."""

from __future__ import annotations

from fractions import Fraction

import pytest

from ample_crate.core.errors import BadValue, Impossible
from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Span
from ample_crate.core.planning import beside
from ample_crate.core.planning.beside import Beside
from ample_crate.core.planning.plan import Plan, Route
from ample_crate.core.planning.request import Item, delivered
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from support import master_facts

SPEC = Spec.model_validate(
    {
        "id": "film-with-sound",
        "version": 1,
        "title": "Film with sound",
        "recipient": "Test Hall",
        "requirements": [
            {"property": "picture.codec", "rule": {"is": "prores"}, "source": "1"},
            {"property": "sound.codec", "rule": {"is": "pcm_s24le"}, "source": "2"},
            {"property": "sound.layout", "rule": {"same_as": "master"}, "source": "3"},
            {"property": "file.wrapper", "rule": {"is": "mov"}, "source": "4"},
        ],
    }
)
PICTURE = master_facts(file_start_timecode="10:00:00:00", sound_tracks=0)


def mix(seconds: int = 20, timecode: str | None = None, layout: str = "5.1") -> Beside:
    values: dict[str, object] = {
        "file.wrapper": "wav",
        "file.duration": Fraction(seconds),
        "file.start_timecode": timecode,
        "sound.tracks": 1,
        "sound.codec": "pcm_s24le",
        "sound.layout": layout,
        "sound.channels": 6 if layout == "5.1" else 2,
        "sound.sample_rate": 48000,
    }
    return Beside("mix.wav", Facts().with_values("measured", values))  # type: ignore[arg-type]


def planned(sound: Beside, **choices: str) -> Route:
    return plan_route(PICTURE, SPEC, choices, "film.mov", Item(sound=sound))


def plan_of(route: Route) -> Plan:
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    return route.plan


def test_its_sound_is_that_of_the_film() -> None:
    route = planned(mix())
    plan = plan_of(route)
    assert [one.input for one in plan.streams] == [0, 1]
    assert route.facts.value("sound.layout") == "5.1"
    assert "Sound from 'mix.wav'" in [s.title for s in route.steps]
    assert beside.LAID not in route.choices and not route.cautions


@pytest.mark.parametrize(
    ("theirs", "by", "later"),
    [
        ("10:00:02:10", "timecode", Fraction(12, 5)),
        ("09:59:58:00", "timecode", Fraction(-2)),
        ("10:00:00:00", "timecode", Fraction(0)),
        # Nothing of it would be heard.
        ("11:00:00:00", "start", Fraction(0)),
        ("09:59:40:00", "start", Fraction(0)),
        (None, "start", Fraction(0)),
    ],
)
def test_it_is_laid_by_timecode_where_they_overlap(
    theirs: str | None, by: str, later: Fraction
) -> None:
    sound = mix(timecode=theirs)
    found = beside.lay(PICTURE, sound)
    assert (found.by, found.later) == (by, later)
    facts = beside.joined(PICTURE, sound, found)
    assert facts.value("sound.start_offset") == later
    assert facts.value("sound.length_difference") == later


def test_the_way_it_is_laid_is_chosen_where_it_matters() -> None:
    sound = mix(timecode="10:00:02:00")
    plain, by_start = planned(sound), planned(sound, laid="start")
    assert (plain.choices["laid"], by_start.choices["laid"]) == ("timecode", "start")
    assert [plan_of(r).inputs[1].start for r in (plain, by_start)] == [-2, 0]
    for route, words in ((plain, "2.000 s after the picture"), (by_start, "by their starts")):
        (said,) = (c for c in route.cautions if c.row == "sound.start_offset")
        assert words in said.what and not said.blocks


def test_a_range_of_the_picture_takes_its_own_part_of_the_sound() -> None:
    span = Span(name="walk", first=100, frames=50)
    for theirs, start in (("10:00:02:00", 2), (None, 4)):
        item = Item(span=span, sound=mix(timecode=theirs))
        plan = plan_of(plan_route(PICTURE, SPEC, {}, "film.mov", item))
        assert plan.inputs[1].start == start and plan.seconds == 2


def test_sound_that_ends_early_or_late_is_said() -> None:
    for seconds, figure in ((18, "-2.000 s"), (25, "+5.000 s")):
        said = [c for c in planned(mix(seconds)).cautions if c.row == "sound.length_difference"]
        assert [c.figures for c in said] == [figure]


def test_the_ledger_looks_back_at_the_other_files_sound() -> None:
    item = Item(sound=mix(layout="stereo"))
    assert delivered(master_facts(sound_layout="mono"), item).value("sound.layout") == "stereo"


def test_what_cannot_be_is_refused() -> None:
    mute = Beside("mute.mov", master_facts(sound_tracks=0))
    with pytest.raises(Impossible, match=r"'mute\.mov' has no sound"):
        planned(mute)
    with pytest.raises(BadValue, match="no timecode"):
        planned(mix(), laid="timecode")
    with pytest.raises(BadValue, match="laid by"):
        planned(mix(), laid="ear")


def test_sound_alone_is_delivered_by_itself() -> None:
    rules = [
        {"property": "file.wrapper", "rule": {"is": "wav"}, "source": "1"},
        {"property": "sound.codec", "rule": {"is": "pcm_s24le"}, "source": "2"},
    ]
    alone = Spec.model_validate(SPEC.model_dump(mode="json") | {"requirements": rules})
    route = plan_route(PICTURE, alone, {}, "film.mov", Item(sound=mix()))
    assert route.plan is None and "Deliver 'mix.wav' itself." in route.cautions[-1].way_out
