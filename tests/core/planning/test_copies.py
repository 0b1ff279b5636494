"""Which streams of a master go over as they are coded, and what stands in the way."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.choices import require_effect
from ample_crate.core.planning.plan import Plan, Route
from ample_crate.core.planning.request import Cut, Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from support import master_facts

MB = 10**6
WHOLE = Item()


def long_gop(**more: object) -> Facts:
    """A master as a camera or a platform hands it over."""
    usual: dict[str, object] = {
        "picture_codec": "h264",
        "picture_profile": "high",
        "picture_chroma": "4:2:0",
        "picture_bit_depth": 8,
        "picture_bit_rate": 8 * MB,
        "motion_longest_gop": 50,
        "motion_intra_only": False,
        "motion_b_frames": 2,
        "sound_codec": "aac",
        "sound_bit_rate": 128_000,
        "file_wrapper": "mov",
    }
    return master_facts(**(usual | more))


def spec(*rows: tuple[str, dict[str, Any]], **more: Any) -> Spec:
    usual = [("picture.codec", {"is": "h264"}), ("file.wrapper", {"is": "mp4"})]
    asked = [{"property": key, "rule": rule} for key, rule in [*usual, *rows]]
    kept = {"id": "copies", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**kept, "requirements": asked, **more})


def planned(master: Facts, asked: Spec, item: Item = WHOLE, **choices: Any) -> Route:
    named = {key.replace("_", ".", 1): value for key, value in choices.items()}
    return plan_route(master, asked, named, "film.mov", item)


def kinds(route: Route) -> list[str]:
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    return [stream.kind for stream in route.plan.streams]


def plan_of(route: Route) -> Plan:
    assert route.plan is not None
    return route.plan


def test_what_meets_goes_over_as_it_is_coded() -> None:
    route = planned(long_gop(), spec())
    assert kinds(route) == ["copied picture", "copied sound"]
    assert (route.choices["picture"], route.choices["sound"]) == ("copied", "copied")
    assert route.facts.value("picture.bit_rate") == 8 * MB
    assert route.facts.value("motion.longest_gop") == 50
    plan = plan_of(route)
    assert plan.work == 0 and plan.passes == 1 and plan.rated is None and plan.frames == 500
    assert route.size == pytest.approx((8 * MB + 128_000) * 20 / 8, rel=0.01)
    assert route.least is not None and route.most is not None
    assert route.least <= route.size <= route.most
    assert Plan.model_validate_json(plan.model_dump_json()) == plan


def test_only_what_is_wrong_is_encoded() -> None:
    quiet = spec(("sound.codec", {"is": "ac3"}), ("sound.bit_rate", {"is": "192 kb/s"}))
    assert kinds(planned(long_gop(), quiet)) == ["copied picture", "sound"]
    small = spec(("picture.size", {"is": "1280x720"}))
    assert kinds(planned(long_gop(), small)) == ["picture", "copied sound"]


WRONG = [
    ("a rule that is broken", {}, ("picture.bit_rate", {"at_most": "6 Mb/s"})),
    ("a rule that is not proven", {"motion_longest_gop": None}, ("motion.longest_gop", {"is": 50})),
    ("fields for frames", {"motion_scan": "interlaced"}, ("motion.scan", {"is": "progressive"})),
    ("full range", {"picture_range": "full"}, None),
    ("a turn", {"picture_rotation": 90}, None),
    ("an uneven clock", {"motion_steady": False}, None),
    ("no rate known", {"picture_bit_rate": None}, None),
    ("a codec with no place there", {"picture_codec": "mpeg2video"}, None),
    ("a cap", {}, ("file.size", {"at_most": "15 MB"})),
]  # fmt: skip


@pytest.mark.parametrize(("why", "master", "row"), WRONG, ids=[w[0] for w in WRONG])
def test_what_does_not_meet_is_encoded(why: str, master: dict[str, Any], row: Any) -> None:
    route = planned(long_gop(**master), spec(*([row] if row else [])))
    assert kinds(route)[0] == "picture"
    assert route.choices.get("picture", "encoded") == "encoded"


def test_why_a_picture_that_meets_is_encoded_all_the_same_is_said() -> None:
    route = planned(long_gop(picture_range="full"), spec())
    said = next(s for s in route.steps if s.title == "Picture encoded anew")
    assert "full range" in said.reason
    judged = planned(long_gop(), spec(("picture.bit_rate", {"at_most": "6 Mb/s"})))
    assert not any("anew" in s.title for s in judged.steps), "the ledger says it"


def test_a_person_may_have_it_encoded_or_copied() -> None:
    encoded = planned(long_gop(), spec(), picture="encoded", sound="encoded")
    assert kinds(encoded) == ["picture", "sound"]
    low = spec(("picture.bit_rate", {"at_most": "6 Mb/s"}))
    copied = planned(long_gop(), low, picture="copied")
    assert kinds(copied)[0] == "copied picture"
    assert any("as chosen" in c.what and not c.blocks for c in copied.cautions)
    assert copied.steps[0].reason.startswith("As chosen"), "it does not meet"
    assert planned(long_gop(), spec()).steps[0].reason.startswith("It meets")
    with pytest.raises(BadValue, match="no way to make"):
        planned(long_gop(), spec(), picture="invented")


def test_what_cannot_be_copied_says_so_with_a_way_out() -> None:
    for master, word in [
        ({"motion_steady": False}, "equally long"),
        ({"picture_codec": "mpeg2video"}, "not put into MP4"),
    ]:
        route = planned(long_gop(**master), spec(), picture="copied")
        (said,) = [c for c in route.cautions if c.blocks]
        assert word in said.why and said.way_out == "Have the picture encoded."
        assert route.plan is None


def test_a_value_that_is_chosen_has_it_encoded() -> None:
    asked = spec(("picture.bit_rate", {"between": ["1 Mb/s", "9 Mb/s"]}))
    free = planned(long_gop(), asked)
    assert kinds(free)[0] == "copied picture" and "picture.bit_rate" in free.choices
    require_effect(free, "picture.bit_rate", "5 Mb/s")
    chosen = planned(long_gop(), asked, picture_bit_rate="5 Mb/s")
    assert kinds(chosen)[0] == "picture" and plan_of(chosen).rated is not None
    same = planned(long_gop(), asked, picture_bit_rate="8 Mb/s")
    assert kinds(same)[0] == "copied picture", "it is what the master has"
    house = {"picture.profile": {"value": "main"}}
    either = ("picture.profile", {"one_of": ["main", "high"]})
    assert kinds(planned(long_gop(), spec(either, house=house)))[0] == "picture"
    rate = {"picture.bit_rate": {"value": "5 Mb/s"}}
    preferred = planned(long_gop(), spec(("picture.bit_rate", {"at_most": "9 Mb/s"}), house=rate))
    assert kinds(preferred)[0] == "copied picture", "that says how it is encoded, not that it is"


def test_a_correction_is_not_lost_in_a_copy() -> None:
    master = long_gop().with_values("assumed", {"motion.field_order": "upper first"})
    assert kinds(planned(master, spec()))[0] == "picture"


def test_a_range_of_whole_pictures_is_copied_to_the_frame() -> None:
    span = Span(name="a", first=100, frames=50)
    route = planned(long_gop(motion_intra_only=True, motion_longest_gop=1), spec(), Item(span))
    assert kinds(route) == ["copied picture", "sound"], "sound is cut to the sample"
    plan = plan_of(route)
    assert (plan.inputs[0].first, plan.frames, plan.seconds) == (100, 50, 2)
    assert route.facts.value("motion.frames") == 50


def test_a_range_between_key_frames_is_encoded_unless_a_person_takes_more() -> None:
    span = Span(name="a", first=110, frames=50)
    assert kinds(planned(long_gop(), spec(), Item(span)))[0] == "picture"
    stopped = planned(long_gop(), spec(), Item(span), picture="copied")
    assert any(c.blocks and "key frames" in c.why for c in stopped.cautions)
    item = Item(span, cut=Cut(100, 75))
    assert kinds(planned(long_gop(), spec(), item))[0] == "picture"
    route = planned(long_gop(), spec(), item, picture="copied")
    said = next(c for c in route.cautions if "begins at frame 100" in c.what)
    assert "10 before the range, and ends 15 after" in said.what and not said.blocks
    plan = plan_of(route)
    assert (plan.inputs[0].first, plan.frames) == (100, 75)
    assert route.facts.value("file.duration") == Fraction(3)
    at_keys = planned(long_gop(), spec(), Item(span, cut=Cut(110, 50)))
    assert kinds(at_keys)[0] == "copied picture"


def test_tracks_go_over_one_by_one() -> None:
    several: dict[str, object] = {"sound_tracks": 2, "file_wrapper": "mov"}
    for key in ("codec", "layout", "channels", "sample_rate", "bit_rate"):
        several[f"sound_{key}@2"] = long_gop().value(f"sound.{key}")
    master = long_gop(**several)
    both = planned(master, spec(("sound.tracks", {"is": 2})))
    assert kinds(both) == ["copied picture", "copied sound", "copied sound"]
    second = planned(master, spec(("sound.tracks", {"is": 1})), tracks="2")
    (sound,) = plan_of(second).sounds
    assert sound.kind == "copied sound" and sound.track == 2
    assert any("Of 2 sound tracks" in c.what for c in second.cautions)
    asked = planned(master, spec(("sound.tracks", {"is": 1})))
    assert any(c.blocks and "which one goes out" in c.what for c in asked.cautions)


def test_sound_that_does_not_begin_with_the_picture_is_laid_to_it() -> None:
    late = planned(long_gop(sound_length_difference=Fraction(1)), spec())
    assert kinds(late) == ["copied picture", "sound"]
    plain = planned(long_gop(sound_codec="pcm_s24le", sound_bit_rate=None), spec())
    assert kinds(plain) == ["copied picture", "sound"], "hardly a player takes it in MP4"
