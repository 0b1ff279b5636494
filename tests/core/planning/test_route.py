"""What the planner decides, and what it says about it."""

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Fact, Facts
from ample_crate.core.ledger import ledger, overall
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.steps import LinesAbove, Scale
from ample_crate.core.specs.spec import Spec
from ample_crate.core.specs.specfile import parse
from ample_crate.core.units.values import Size
from ample_crate.store.library import find
from support import master_facts

FIELDS = {"motion_scan": "interlaced", "motion_field_order": "upper first"}


def kinds(route: Route) -> list[str]:
    assert route.plan is not None
    return [o.kind for o in route.plan.picture.steps]


@pytest.mark.parametrize("id", ["skerry-sd625", "pinfold-720p", "tannery-list"])
@pytest.mark.parametrize(
    "master", [{}, FIELDS, {"motion_rate": Fraction(50), "motion_frames": 1000}]
)
def test_every_route_is_predicted_to_meet_what_can_be_known_before(
    id: str, master: dict[str, object]
) -> None:
    facts = master_facts(**master)
    route = plan_route(facts, find(id))
    found = ledger(route.facts, find(id), facts)
    assert route.plan is not None
    assert [f for f in found if f.verdict == "breaks"] == []
    assert overall(found) in {"meets", "advice"}


def test_fields_are_made_to_frames_before_they_are_scaled() -> None:
    made = kinds(plan_route(master_facts(**FIELDS), find("skerry-sd625")))
    assert made == ["deinterlace", "scale", "samples", "colour", "interlace"]


def test_whole_frames_carried_as_fields_are_not_deinterlaced() -> None:
    made = kinds(
        plan_route(master_facts(**FIELDS, motion_lines="whole frames"), find("pinfold-720p"))
    )
    assert made == ["scale", "samples"]


def test_fifty_frames_become_fifty_fields_without_a_deinterlace() -> None:
    made = kinds(plan_route(master_facts(motion_rate=Fraction(50)), find("skerry-sd625")))
    assert made == ["scale", "samples", "colour", "interlace"]


def test_film_motion_stays_whole_in_fields_and_is_said() -> None:
    route = plan_route(master_facts(), find("skerry-sd625"))
    assert kinds(route) == ["scale", "samples", "colour", "segment"]
    assert any("motion stays that of film" in c.what for c in route.cautions)


def test_fields_for_a_platform_lose_half_the_motion_and_it_is_said() -> None:
    route = plan_route(master_facts(**FIELDS), find("pinfold-720p"))
    assert route.facts.value("motion.rate") == 25
    assert any("Half of the master's motion" in c.what for c in route.cautions)


def test_the_cap_gives_the_rate() -> None:
    long = master_facts(motion_frames=25 * 120, file_duration=Fraction(120))
    route = plan_route(long, find("pinfold-720p"))
    assert route.plan is not None
    rate = route.plan.picture.encoding.bit_rate
    assert 28_500_000 < route.size <= 30_000_000
    # By hand: 30 MB * 8 / 120 s is 2 Mb/s for everything; sound takes 192 kb/s.
    assert 1_700_000 < rate < 1_808_000


def test_a_cap_that_nothing_fits_blocks_with_figures() -> None:
    route = plan_route(
        master_facts(motion_frames=25 * 7200, file_duration=Fraction(7200)), find("pinfold-720p")
    )
    assert route.plan is None
    assert "30.00 MB" in route.cautions[-1].what and route.cautions[-1].blocks


def test_a_ceiling_holds_over_any_second() -> None:
    route = plan_route(master_facts(), find("tannery-list"))
    assert route.plan is not None
    assert route.plan.picture.encoding.max_rate + route.plan.picture.encoding.buffer <= 18_000_000


def test_an_impossible_level_blocks() -> None:
    text = (
        "id: square\nversion: 1\nrecipient: x\ntitle: Square\nrequirements:\n"
        "  - {property: picture.codec, rule: {is: h264}}\n  - {property: picture.size, rule: {is: "
        "1080x1080}}\n"
        "  - {property: picture.level, rule: {at_most: 3.1}}\n"
    )
    route = plan_route(master_facts(), parse(text, "square.yaml"))
    caution = next(c for c in route.cautions if c.row == "picture.level")
    assert caution.blocks and route.plan is None
    # ITU-T H.264 Table A-1: 1080x1080 is 68 x 68 = 4,624 macroblocks, level 3.1 holds 3,600.
    assert "4624" in caution.figures and "3600" in caution.figures


def test_choices_change_the_route_and_stay_in_the_room() -> None:
    spec = find("tannery-list")
    route = plan_route(
        master_facts(), spec, {"picture.bit_rate": "6 Mb/s", "sound.codec": "pcm_s16le"}
    )
    assert route.plan is not None and route.plan.sounds
    assert (
        route.plan.picture.encoding.bit_rate == 6_000_000
        and route.plan.sounds[0].encoding.codec == "pcm_s16le"
    )
    with pytest.raises(BadValue):
        plan_route(master_facts(), spec, {"sound.codec": "mp3"})


def test_framing_is_a_choice() -> None:
    square = master_facts(picture_size=Size(1080, 1080))
    spec = find("tannery-list")
    assert "pad" in kinds(plan_route(square, spec))
    assert "crop" in kinds(plan_route(square, spec, {"framing": "crop"}))
    assert kinds(plan_route(square, spec, {"framing": "stretch"})) == [
        "scale",
        "samples",
        "pixel aspect",
    ]


def test_surround_is_folded_and_said() -> None:
    route = plan_route(master_facts(sound_layout="5.1", sound_channels=6), find("tannery-list"))
    assert (
        route.plan is not None
        and route.plan.sounds
        and [s.kind for s in route.plan.sounds[0].steps] == ["resample", "mix", "limit", "fit"]
        and route.plan.sounds[0].format.channels == 2
    )
    assert any("Surround becomes stereo" in c.what for c in route.cautions)


def test_a_master_without_sound_gets_silence_and_it_is_said() -> None:
    facts = master_facts(sound_tracks=0)
    route = plan_route(facts, find("skerry-sd625"))
    assert route.plan is not None and route.plan.sounds and route.plan.sounds[0].tracks == ()
    assert any("silence" in c.what for c in route.cautions)


def test_sound_that_is_to_be_as_the_masters_is_not_made_for_a_silent_one() -> None:
    seen = {key: fact for key, fact in master_facts().items() if not key.startswith("sound.")}
    silent = Facts(seen).with_values("measured", {"sound.tracks": 0})
    route = plan_route(silent, find("brackwater-cut"))
    assert route.plan is not None and not route.plan.sounds
    findings = ledger(route.facts, find("brackwater-cut"), silent)
    assert [f.property for f in findings if f.verdict == "unproven"] == []
    sounding = ledger(route.facts, find("brackwater-cut"), master_facts())
    assert {f.property for f in sounding if f.verdict == "breaks"} >= {"sound.layout"}


def test_colours_that_are_not_converted_here_are_told_of() -> None:
    wide = plan_route(master_facts(picture_primaries="P3-D65"), find("pinfold-720p"))
    assert wide.plan is not None and any(
        c.row == "picture.primaries" and "P3-D65" in c.what and not c.blocks for c in wide.cautions
    )
    odd = plan_route(master_facts(picture_matrix="ICtCp"), find("pinfold-720p"))
    assert odd.plan is None and any(
        c.row == "picture.matrix" and "ICtCp" in c.what and c.blocks for c in odd.cautions
    )
    assert not any(
        c.row in {"picture.primaries", "picture.matrix"}
        for c in plan_route(master_facts(picture_primaries="BT.709"), find("pinfold-720p")).cautions
    )


def test_hdr_of_other_primaries_is_refused_with_its_reason() -> None:
    route = plan_route(master_facts(picture_transfer="PQ"), find("tannery-list"))
    assert route.plan is None and any("HDR" in c.what for c in route.cautions)


def test_enlarging_alpha_and_bulk_are_said() -> None:
    facts = master_facts(picture_size=Size(640, 360), picture_alpha=True)
    said = " ".join(c.what for c in plan_route(facts, find("tannery-list")).cautions)
    assert "enlarged" in said and "transparency is laid over black" in said


def test_a_contradiction_in_the_master_is_a_caution() -> None:
    facts = master_facts(**FIELDS)
    table = dict(facts) | {
        "motion.field_order": Fact(declared="lower first", measured="upper first")
    }
    route = plan_route(type(facts)(table), find("skerry-sd625"))
    assert any("disagree on the field order" in c.what for c in route.cautions)


def test_sound_rates_that_a_codec_does_not_have_are_refused() -> None:
    text = (
        "id: odd\nversion: 1\nrecipient: x\ntitle: Odd\nrequirements:\n"
        "  - {property: sound.codec, rule: {is: mp2}}\n  - {property: sound.sample_rate, rule: "
        "{is: 384 kHz}}\n"
        "  - {property: file.wrapper, rule: {is: mov}}\n"
    )
    route = plan_route(master_facts(), parse(text, "odd.yaml"))
    assert route.plan is None and "Was a bit rate meant?" in route.cautions[-1].way_out


def test_a_route_survives_json() -> None:
    route = plan_route(master_facts(**FIELDS), find("skerry-sd625"))
    assert Route.model_validate(route.model_dump(mode="json")) == route


def test_lines_above_the_picture_are_never_made_by_scaling_into_them() -> None:
    spec = find("skerry-sd525")
    usual = plan_route(master_facts(motion_rate=Fraction(30000, 1001)), spec)
    assert usual.plan is not None and usual.plan.picture.format.height == 480
    lines = plan_route(master_facts(), spec, {"either.frame": "with the vertical interval"})
    assert lines.plan is not None
    made = lines.plan.picture
    scaled = next(s for s in made.steps if isinstance(s, Scale))
    assert scaled.height == 480 and made.steps[-1] == LinesAbove(lines=32)
    assert made.format.size == Size(720, 512) and made.format.above == 32
    assert lines.facts.value("picture.interval_lines") == 32
    assert lines.facts.value("picture.display_aspect") == Fraction(16, 9)


def test_a_spec_for_sound_alone_leaves_the_picture_out() -> None:
    route = plan_route(master_facts(), find("brackwater-sound"))
    assert route.plan is not None and route.plan.picture is None
    assert route.facts.value("sound.codec") == "pcm_s16be"


def test_a_master_without_sound_gets_what_the_spec_says_where_it_leaves_both() -> None:
    silent = master_facts(sound_tracks=0, picture_size=Size(1280, 720))
    square = plan_route(silent, find("wickerwork-square"))
    assert square.plan is not None and square.plan.sounds == []
    document = find("wickerwork-square").model_dump(by_alias=True, exclude_none=True)
    document["coding"]["without_sound"] = "silent track"
    tracked = plan_route(silent, Spec.model_validate(document))
    assert tracked.plan is not None and tracked.plan.sounds and tracked.plan.sounds[0].tracks == ()


def test_what_is_asked_of_the_first_track_is_what_is_made() -> None:
    document = find("pinfold-720p").model_dump(by_alias=True, exclude_none=True)
    document["requirements"] = [
        r | {"property": "sound.layout@1", "rule": {"is": "mono"}}
        if r["property"] == "sound.layout"
        else r
        for r in document["requirements"]
    ]
    route = plan_route(master_facts(), Spec.model_validate(document))
    assert (
        route.plan is not None
        and route.plan.sounds
        and route.plan.sounds[0].format.layout == "mono"
    )


def test_the_first_track_is_chosen_in_its_room_and_others_are_not_offered() -> None:
    document = find("pinfold-720p").model_dump(by_alias=True, exclude_none=True)
    rows = [r for r in document["requirements"] if r["property"] != "sound.layout"]
    rows += [
        {"property": f"sound.layout@{n}", "rule": {"one_of": ["stereo", "mono"]}} for n in (1, 2)
    ]
    spec = Spec.model_validate(document | {"requirements": rows})
    route = plan_route(master_facts(), spec, {"sound.layout@1": "mono"})
    assert (
        route.plan is not None
        and route.plan.sounds
        and route.plan.sounds[0].format.layout == "mono"
    )
    assert route.choices["sound.layout@1"] == "mono" and "sound.layout@2" not in route.choices
    assert plan_route(master_facts(), spec).choices["sound.layout@1"] == "stereo"


def test_sound_that_has_no_place_in_the_wrapper_is_changed_and_said() -> None:
    route = plan_route(master_facts(), find("ostler-bd"))
    assert (
        route.plan is not None
        and route.plan.sounds
        and route.plan.sounds[0].encoding.codec == "ac3"
    )
    assert any(
        "PCM 24 bit does not go into MPEG transport stream" in c.what for c in route.cautions
    )


def test_whole_frames_at_25_go_to_the_disc_as_fields_and_not_as_24() -> None:
    route = plan_route(master_facts(), find("ostler-bd"))
    assert (
        route.choices["either.picture format"] == "1080i25"
        and route.plan is not None
        and route.plan.picture.format.rate == 25
    )


def test_two_passes_are_planned_only_where_they_can_be_made() -> None:
    disc, film = (
        plan_route(master_facts(), find("ostler-dvd-625")),
        plan_route(
            master_facts(),
            find("fellside-1080p"),
            None,
            "a_e1.mov",
            Item(given={"production": "x"}),
        ),
    )
    assert disc.plan is not None and disc.plan.picture.encoding.passes == 1
    assert film.plan is not None and film.plan.picture.encoding.passes == 2


def test_how_constant_a_rate_is_settles_the_buffer() -> None:
    """What may stray in a second is what the buffer holds back; intra-only frames of one size are
    even by themselves.
    """
    route = plan_route(master_facts(), find("wickerwork-square"))
    assert (
        route.plan is not None
        and route.plan.picture.encoding.constant
        and route.plan.picture.encoding.buffer == 2_000_000
    )
    assert (
        route.facts.value("picture.rate_mode") is None
        and route.facts.value("picture.peak_bit_rate") == 10_000_000
    )
    even = plan_route(master_facts(**FIELDS), find("skerry-sd625"))
    assert (
        even.facts.value("picture.rate_mode") == "constant"
        and even.facts.value("picture.peak_bit_rate") == 50_000_000
    )
    tight = find("wickerwork-square").model_dump(by_alias=True, exclude_none=True)
    for row in tight["requirements"]:
        if row["property"] == "picture.rate_deviation":
            row["rule"] = {"at_most": 1}
    # Less than one frame's share cannot be: 10 Mb/s at 23.976 fps.
    tightest = plan_route(master_facts(), Spec.model_validate(tight))
    assert tightest.plan is not None and tightest.plan.picture.encoding.buffer == 333_667


@pytest.mark.parametrize(
    ("key", "rule", "says"),
    [
        ("motion.rate", {"is": 0}, "frame rate of 0"),
        ("picture.pixel_aspect", {"is": "0:1"}, "pixel aspect of 0"),
        ("picture.display_aspect", {"is": "0:1"}, "display aspect of 0"),
        ("motion.longest_gop", {"is": 0}, ""),
        ("motion.b_frames", {"is": -3}, ""),
        ("picture.pixel_aspect", {"present": True}, ""),
        ("picture.display_aspect", {"same_as": "crate"}, ""),
    ],
)
def test_what_cannot_be_is_answered(key: str, rule: dict[str, Any], says: str) -> None:
    """A spec may ask for what no picture has, and a master may not say what others say."""
    rows = [
        {"property": "file.wrapper", "rule": {"is": "mp4"}},
        {"property": "picture.size", "rule": {"is": "1280x720"}},
        {"property": key, "rule": rule},
    ]
    spec = Spec.model_validate(
        {"id": "odd", "version": 1, "recipient": "someone", "title": "t", "requirements": rows}
    )
    silent = Facts().with_values(
        "measured",
        {
            k: v
            for k, v in ((k, master_facts().value(k)) for k in master_facts())
            if "aspect" not in k
        },
    )
    route = plan_route(silent, spec, {}, "film.mov")
    assert (route.plan is None) is bool(says) and (not says or says in route.cautions[-1].what)
