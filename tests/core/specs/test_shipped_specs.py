"""Each shipped spec: facts that meet it on every way through it, and for each requirement a change
that breaks that one alone.
"""

from fractions import Fraction

import pytest

from ample_crate.core.facts import Fact, Facts
from ample_crate.core.ledger import ledger, overall
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.contradictions import contradictions
from ample_crate.core.specs.spec import Spec
from ample_crate.core.specs.specfile import dump, parse
from ample_crate.core.specs.wording import asked
from ample_crate.core.units.values import Size, show_bit_rate
from ample_crate.store import library
from exemplars import Exemplar, exemplars, spoiled
from support import master_facts

SPECS = {s.id: s for s in library.specs()}
RECIPIENTS = {r.key: r for r in library.recipients()}
# SMPTE ST 356: bytes of every frame of D-10 at 50 Mb/s, by the lines of the frame.
D10_FRAME_BYTES = {608: 250_000, 512: 208_541}
# DVD-Video and BD-ROM: capacity in bytes; all streams of a DVD together and the picture of a
# Blu-ray in b/s (common practice sheets; from memory).
DISC_BYTES = {"DVD": 4_700_000_000, "Blu-ray": 25_000_000_000}
DVD_TOTAL, BD_PICTURE = 10_080_000, 40_000_000
# Properties on which the standing of others hangs: without tracks there is no sound to ask about.
TIED = {"sound.tracks": "sound."}


def without(facts: Facts, key: str) -> Facts:
    return Facts({k: f for k, f in facts.items() if k != key})


def changed(facts: Facts, key: str, value: object) -> Facts:
    key = key.removesuffix("@1")
    if value is None:
        return without(facts, key)
    return Facts({**facts, key: Fact(measured=value)})  # type: ignore[arg-type]


def test_every_kind_of_recipient_is_served_and_each_row_of_the_targets_has_its_spec() -> None:
    assert len(SPECS) >= 20
    assert {RECIPIENTS[s.recipient].kind for s in SPECS.values()} == {
        "broadcaster",
        "disc",
        "venue",
        "platform",
        "collaborator",
    }
    wanted = {
        "mpeg2video",
        "prores",
        "h264",
        "hevc",
        "vp8",
        "vp9",
        "hap",
        "dnxhd",
        "dpx",
    }
    named = {
        str(v)
        for s in SPECS.values()
        for r in s.everything()
        if r.property == "picture.codec"
        for v in (r.rule.one_of or [r.rule.is_])
    }
    assert wanted <= named


@pytest.mark.parametrize("id", sorted(SPECS))
def test_it_is_free_of_contradictions_and_doubts(id: str) -> None:
    assert contradictions(SPECS[id]) == []


@pytest.mark.parametrize("id", sorted(SPECS))
def test_it_says_where_each_figure_comes_from(id: str) -> None:
    for one in SPECS[id].everything():
        assert one.source, f"{id} {one.property} names no source"
        assert (
            asked(one) and one.sentence().rstrip("0123456789 ").endswith((".", "figures", ")"))
        ) or one.note


@pytest.mark.parametrize("id", sorted(SPECS))
def test_it_is_written_and_read_back_the_same(id: str) -> None:
    for form in ("yaml", "json"):
        assert parse(dump(SPECS[id], form), f"{id}.{form}") == SPECS[id]  # type: ignore[arg-type]


def broken(one: Exemplar, id: str, facts: Facts, crate: Facts) -> list[str]:
    spec = SPECS[id]
    return [
        f.property
        for f in ledger(facts, spec, one.master) + ledger(crate, spec, of="crate")
        if f.verdict != "meets"
    ]


@pytest.mark.parametrize("id", sorted(SPECS))
def test_facts_made_from_it_meet_it_on_every_way(id: str) -> None:
    ways = list(exemplars(SPECS[id]))
    assert ways
    for one in ways:
        assert broken(one, id, one.facts, one.crate) == []
        found = ledger(one.facts, SPECS[id], one.master)
        assert overall(found) == "meets"
        assert all(f.why and f.asked for f in found)


@pytest.mark.parametrize("id", sorted(SPECS))
def test_each_requirement_breaks_alone(id: str) -> None:
    spec = SPECS[id]
    tried = set()
    for one in exemplars(spec):
        for requirement in one.requirements:
            key = requirement.property
            if (
                key.startswith("sound.")
                and one.facts.value("sound.tracks") == 0
                and key != "sound.tracks"
            ):
                continue
            of_crate = key.startswith("delivery.")
            at = one.crate if of_crate else one.facts
            bad = changed(at, key, spoiled(requirement, at.value(key.removesuffix("@1"))))
            found = broken(one, id, one.facts if of_crate else bad, bad if of_crate else one.crate)
            tried.add((key, requirement.rule.operator))
            assert found, f"{key} {asked(requirement)} was not missed"
            # Another alternative may then fit best: its own properties are told of, and nothing
            # else.
            either = (
                {k for e in spec.either for a in e.any for k in a.rules}
                if requirement.part
                else set()
            )
            hanging = {
                r.property
                for r in spec.requirements
                if r.when is not None
                and r.when.property.removesuffix("@1") == key.removesuffix("@1")
            }
            allowed = {key, key.removesuffix("@1")} | either | hanging
            odd = [f for f in found if f not in allowed and not f.startswith(TIED.get(key, "?"))]
            assert odd == [], f"{key} {asked(requirement)} took {odd} with it"
    assert {(r.property, r.rule.operator) for r in spec.requirements} <= tried | {
        ("file.name", "matches")
    }


@pytest.mark.parametrize("id", sorted(SPECS))
def test_nothing_known_is_unproven_and_never_met(id: str) -> None:
    for finding in ledger(Facts(), SPECS[id]):
        assert finding.verdict == "unproven" or finding.test.operator == "present"


MASTERS = {
    "frames": master_facts(),
    "fast frames": master_facts(motion_rate=Fraction(50), motion_frames=1000),
    "fields": master_facts(motion_scan="interlaced", motion_field_order="upper first"),
    "film": master_facts(motion_rate=Fraction(24000, 1001), motion_frames=480),
    "small": master_facts(picture_size=Size(1280, 720)),
    "surround": master_facts(sound_layout="5.1", sound_channels=6),
    "silent": master_facts(sound_tracks=0),
    "clear": master_facts(
        picture_profile="4444", picture_chroma="4:4:4", picture_bit_depth=12, picture_alpha=True
    ),
    "large": master_facts(picture_size=Size(3840, 2160)),
    "tape": master_facts(
        picture_size=Size(720, 576),
        picture_pixel_aspect=Fraction(64, 45),
        picture_matrix="BT.601",
        motion_scan="interlaced",
        motion_field_order="lower first",
    ),
    "tape of 525 lines": master_facts(
        picture_size=Size(720, 480),
        picture_pixel_aspect=Fraction(32, 27),
        picture_matrix="BT.601",
        motion_rate=Fraction(30000, 1001),
        motion_frames=600,
        motion_scan="interlaced",
        motion_field_order="lower first",
    ),
}
GIVEN = {"production": "Lichen Hours", "date": "20261123"}
NAMES = {"name.spot": "QUI0042", "name.slug": "lanterns", "name.lesson": "l04"}
# What a route cannot mend: a spot's length is that of the cut.
OF_THE_MASTER = {"file.duration", "motion.leader"}


@pytest.mark.parametrize("master", MASTERS)
@pytest.mark.parametrize("id", sorted(SPECS))
def test_a_route_that_can_be_run_is_never_predicted_to_break_its_spec(id: str, master: str) -> None:
    spec = SPECS[id]
    choices = {k: v for k, v in NAMES.items() if k.removeprefix("name.") in spec.delivery.fields}
    route = plan_route(MASTERS[master], spec, choices, "lichen_hours_e03.mov", Item(given=GIVEN))
    if route.plan is None:
        assert any(c.blocks and c.what and c.way_out for c in route.cautions)
        return
    # Of two things that no file of this master can be together, the route asks which one counts.
    told = {c.row for c in route.cautions if "cannot meet together" in c.what}
    bad = [
        f
        for f in ledger(route.facts, spec, MASTERS[master])
        if f.verdict == "breaks" and f.property not in OF_THE_MASTER | told
    ]
    assert bad == []


def test_every_spec_that_ships_can_be_made_of_a_film() -> None:
    made = set()
    for id, spec in SPECS.items():
        choices = {
            k: v for k, v in NAMES.items() if k.removeprefix("name.") in spec.delivery.fields
        }
        if (
            plan_route(
                MASTERS["frames"], spec, choices, "lichen_hours_e03.mov", Item(given=GIVEN)
            ).plan
            is not None
        ):
            made.add(id)
    assert made == set(SPECS)


def test_a_spec_that_cannot_be_made_here_says_so() -> None:
    document = SPECS["tannery-list"].model_dump(mode="json")
    document["requirements"][0]["rule"] = {"is": "jpeg2000"}
    route = plan_route(master_facts(), Spec.model_validate(document), None, "fog.mov")
    assert route.plan is None and any("cannot be made here" in c.what for c in route.cautions)


def test_disc_capacity_by_hand() -> None:
    # A DVD of 4.7 x 10^9 bytes holds 4.7e9 * 8 / 10.08e6 = 3730 s at its full rate; Blu-ray 25e9 *
    # 8 / 40e6 = 5000 s at 40 Mb/s.
    assert DISC_BYTES["DVD"] * 8 // DVD_TOTAL == 3730
    assert DISC_BYTES["Blu-ray"] * 8 // BD_PICTURE == 5000
    cap = {r.property: r for r in SPECS["ostler-dvd-625"].requirements}["delivery.total"]
    assert asked(cap) == "at most 4.70 GB"
    # 58 minutes at the house's 6.5 Mb/s and 448 kb/s of sound: 3.02 x 10^9 bytes, under the disc's.
    assert round(58 * 60 * (6_500_000 + 448_000) / 8 / 1e9, 2) == 3.02
    # D-10: 250 000 bytes a frame at 25 frames are 50 Mb/s; 208 541 at 30000/1001 are 49.9998 Mb/s.
    assert show_bit_rate(D10_FRAME_BYTES[608] * 8 * 25) == "50 Mb/s"
    assert D10_FRAME_BYTES[512] * 8 * 30000 // 1001 == 49_999_840
