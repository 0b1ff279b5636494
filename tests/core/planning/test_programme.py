"""What of a master is delivered: upright, on one of the trade's clocks, with the tracks that were
chosen.
"""

from fractions import Fraction

import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Fact, Facts, corrections
from ample_crate.core.ledger import ledger
from ample_crate.core.planning import programme
from ample_crate.core.planning.checks import frames_kept
from ample_crate.core.planning.route import plan_route
from ample_crate.core.units.values import Size
from ample_crate.store.library import find
from support import master_facts


def tracks(count: int, silent: tuple[int, ...] = (), channels: int = 1) -> Facts:
    layout = {1: "mono", 2: "stereo"}[channels]
    values: dict[str, object] = {"sound.tracks": count}
    for n in range(1, count + 1):
        key = "" if n == 1 else f"@{n}"
        values |= {
            f"sound.codec{key}": "pcm_s24le",
            f"sound.channels{key}": channels,
            f"sound.layout{key}": layout,
            f"sound.sample_rate{key}": 48000,
            f"sound.loudness{key}": Fraction(-23),
            f"sound.true_peak{key}": Fraction(-200 if n in silent else -6),
        }
    return master_facts().with_values("measured", values)  # type: ignore[arg-type]


def turned(degrees: int) -> Facts:
    return master_facts(picture_rotation=degrees, picture_display_aspect=Fraction(16, 9))


def test_a_clip_that_lies_on_its_side_is_turned_and_its_flag_dropped() -> None:
    spec, master = find("tannery-list"), turned(90)
    route = plan_route(master, spec)
    assert route.plan is not None
    assert route.plan.picture.steps[0].kind == "turn" and route.plan.picture.steps[0].degrees == 90
    # 1080x1920 stands in 1920x1080 with bars at its sides: 608 of 1920 samples.
    scale = next(o for o in route.plan.picture.steps if o.kind == "scale")
    assert (scale.width, scale.height) == (608, 1080)
    seen = programme.of(master)
    assert seen.value("picture.size") == Size(1080, 1920) and seen.fraction(
        "picture.display_aspect"
    ) == Fraction(9, 16)
    assert not seen.contradictions()
    asked = programme.asked_of(spec, seen)
    verdict = {
        n: next(f for f in ledger(facts, asked, seen) if f.property == "picture.rotation").verdict
        for n, facts in {"master": seen, "route": route.facts}.items()
    }
    assert verdict == {"master": "breaks", "route": "meets"}
    assert programme.asked_of(spec, master_facts()) is spec


def test_upside_down_stays_as_wide_and_odd_angles_are_refused() -> None:
    assert programme.of(turned(180)).value("picture.size") == Size(1920, 1080)
    odd = plan_route(turned(45), find("tannery-list"))
    assert odd.plan is None and "45°" in odd.cautions[-1].what


@pytest.mark.parametrize(
    ("average", "nominal", "rate"),
    [
        ("28.21", None, "30"),
        ("29.9", "30000/1001", "30000/1001"),
        ("23.5", None, "24"),
        ("24.6", None, "25"),
        ("31", None, "50"),
        ("30.1", None, "30"),
        ("57", "60", "60"),
        ("72", None, "60"),
        ("28.21", "24", "30"),
    ],
)
def test_an_uneven_clock_stands_for_a_rate_of_the_trade(
    average: str, nominal: str | None, rate: str
) -> None:
    header = Fraction(nominal) if nominal else None
    assert programme.trade_rate(Fraction(average), header) == Fraction(rate)


def test_an_uneven_master_is_put_on_an_even_clock_that_the_spec_allows() -> None:
    uneven = master_facts(motion_rate=Fraction("28.21"), motion_steady=False)
    free = plan_route(uneven, find("pinfold-720p"))
    assert free.plan is not None and free.plan.picture.format.rate == 30
    assert free.plan.inputs[0].clock == "uneven"
    assert any(o.kind == "retime" and o.rate == 30 for o in free.plan.picture.steps)
    assert any("28.210 fps on average" in c.figures for c in free.cautions)
    fixed = plan_route(uneven, find("tannery-list"))
    assert fixed.plan is not None and fixed.plan.picture.format.rate == 25
    even = plan_route(master_facts(motion_rate=Fraction(30)), find("pinfold-720p"))
    assert even.plan is not None and not any(o.kind == "retime" for o in even.plan.picture.steps)


def test_several_tracks_with_programme_ask_which_goes_out() -> None:
    spec, master = find("pinfold-720p"), tracks(4)
    route = plan_route(master, spec)
    assert route.plan is None
    said = next(c for c in route.cautions if c.blocks)
    assert "4 of the master's 4 sound tracks" in said.what and "1+2" in said.way_out
    for choice, taken in {"3": [3], "1+2": [1, 2], "3+4": [3, 4]}.items():
        chosen = plan_route(master, spec, {"tracks": choice})
        assert (
            chosen.plan is not None
            and chosen.plan.sounds
            and list(chosen.plan.sounds[0].tracks) == taken
        )
    pair = plan_route(master, spec, {"tracks": "1+2"})
    assert pair.plan is not None and pair.plan.sounds
    assert pair.plan.sounds[0].steps[1].gains == ((1, 0), (0, 1)) and "left out: 3, 4" in str(
        pair.cautions
    )
    assert pair.choices["tracks"] == "1+2"


@pytest.mark.parametrize("choice", ["5", "2+3", "1+2+3", "0", "one", "1+1"])
def test_tracks_that_are_not_there_to_choose_are_refused(choice: str) -> None:
    with pytest.raises(BadValue, match="no tracks of this master"):
        plan_route(tracks(4), find("pinfold-720p"), {"tracks": choice})


def test_a_silent_track_asks_nothing_and_the_one_that_sounds_is_taken() -> None:
    route = plan_route(tracks(2, silent=(1,)), find("pinfold-720p"))
    assert route.plan is not None and route.plan.sounds and route.plan.sounds[0].tracks == (2,)
    assert any(s.title == "Track 2 of 2" for s in route.steps)
    mute = plan_route(tracks(2, silent=(1, 2)), find("pinfold-720p"))
    assert mute.plan is not None and mute.plan.sounds and mute.plan.sounds[0].tracks == (1,)


def test_tracks_of_two_channels_are_not_joined() -> None:
    assert [value for value, _ in programme.options(tracks(2, channels=2))] == ["1", "2"]
    assert [value for value, _ in programme.options(tracks(6))][6:] == [
        "1+2",
        "3+4",
        "5+6",
        "1+2+3+4+5+6",
    ]


def test_facts_of_the_chosen_track_stand_for_the_masters() -> None:
    master = tracks(2).with_values(
        "measured", {"sound.sample_rate@2": 44100, "sound.language@2": "gla"}
    )
    taken = programme.of(master, choices={"tracks": "2"})
    assert taken.value("sound.sample_rate") == 44100 and taken.value("sound.language") == "gla"
    assert taken.value("sound.tracks") == 2
    joined = programme.of(master, choices={"tracks": "1+2"})
    assert joined.value("sound.layout") == "stereo" and joined.value("sound.channels") == 2


def test_channels_that_nobody_names_are_asked_for() -> None:
    odd = master_facts(sound_channels=5, sound_layout="5 channels")
    route = plan_route(odd, find("pinfold-720p"))
    assert route.plan is None and "which loudspeakers the 5 channels" in route.cautions[-1].what


def test_sound_alone_is_not_asked_to_stand_upright() -> None:
    lying = master_facts(picture_rotation=90)
    alone = Facts({"sound.tracks": Fact(measured=1)})
    rows = ledger(alone, programme.asked_of(find("brackwater-sound"), lying), lying)
    upright = next(f for f in rows if f.property == "picture.rotation")
    assert upright.verdict == "meets" and not upright.applies


def test_frames_that_are_to_stay_are_not_put_on_another_clock() -> None:
    uneven = master_facts(
        motion_steady=False, motion_frames=50, motion_rate=Fraction(2625, 100), file_duration=2
    )
    route = plan_route(uneven, find("brackwater-scan"))
    said = next(c for c in route.cautions if c.row == "motion.frames" and c.blocks)
    assert route.plan is None and "correct its rate" in said.way_out
    corrected = corrections.apply(uneven, {"motion.rate": "25/1"})
    kept = plan_route(corrected, find("brackwater-scan"))
    assert kept.plan is not None and kept.plan.frames == 50


def test_a_still_is_not_made_where_its_rate_cannot_be_held() -> None:
    image = master_facts(file_wrapper="still image", motion_rate=None, motion_frames=1)
    choices = {"file.duration": "4", "name.lesson": "l04"}
    route = plan_route(image, find("pinfold-webm"), choices)
    said = next(c for c in route.cautions if c.blocks)
    assert route.plan is None and "another codec" in said.way_out
    filled = plan_route(image, find("harbour-course"), {"file.duration": "4", "name.lesson": "l04"})
    assert filled.plan is not None


@pytest.mark.parametrize(("copied", "way_out"), [(True, "encoded"), (False, "master")])
def test_the_way_out_of_other_frames_is_of_how_they_are_made(copied: bool, way_out: str) -> None:
    spec, made = find("brackwater-scan"), Facts().with_values("predicted", {"motion.frames": 62})
    (said,) = frames_kept(spec, made, master_facts(motion_frames=50), copied).cautions
    assert said.blocks and way_out in said.way_out
