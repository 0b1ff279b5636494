"""Specs that contradict themselves: each is found, names its clauses, and its proposed repair makes
it right.
"""

from __future__ import annotations

from typing import Any

import pytest
from contradictory import CASES, FIELDS, H264, MPEG2, spec

from ample_crate.core.errors import BadSpec
from ample_crate.core.specs.contradictions import contradictions, repaired
from ample_crate.core.specs.spec import Spec


@pytest.mark.parametrize(
    ("kind", "requirements", "mended"), CASES, ids=[f"{n} {c[0]}" for n, c in enumerate(CASES)]
)
def test_it_is_found_and_its_repair_mends_it(
    kind: str, requirements: dict[str, Any], mended: str
) -> None:
    wrong = spec(requirements)
    found = [c for c in contradictions(wrong) if c.kind == kind]
    assert found, [c.what for c in contradictions(wrong)]
    one = found[0]
    assert one.what.endswith(".") and one.why and one.repair.says
    assert one.clauses and all("[clause]" in c for c in one.clauses)
    assert set(one.properties) & {r.property for r in wrong.requirements}
    if not mended:
        assert not one.repair.changes
        return
    assert mended in one.repair.changes
    right = Spec.model_validate(
        repaired(wrong.model_dump(by_alias=True, exclude_none=True), one.repair)
    )
    assert [c.what for c in contradictions(right) if c.kind == kind] == []


@pytest.mark.parametrize(
    ("requirements", "why"),
    [
        (
            f"{{{H264}, picture.profile: {{is: main}}, picture.level: {{at_most: 4}}, "
            f"picture.size: {{is: 1080x1080}}}}",
            "level 4 holds 8192 macroblocks",
        ),
        (
            f"{{{H264}, picture.level: {{at_most: 3.1}}, picture.size: {{is: 1280x720}}, "
            f"motion.rate: {{is: 30}}}}",
            "just at the limit: 108000 a second",
        ),
        (
            "{sound.codec: {is: aac}, sound.bit_rate: {is: 48 kb/s}, sound.layout: {is: mono}}",
            "thin but meant: speech in one channel",
        ),
        ("{sound.codec: {is: vorbis}, sound.sample_rate: {is: 22.05 kHz}}", "Vorbis knows it"),
        (
            "{picture.size: {is: 720x576}, picture.pixel_aspect: {is: '64:45'}, "
            "picture.display_aspect: {is: '16:9'}}",
            "over 720 samples",
        ),
        ("{picture.size: {is: 720x486}, motion.rate: {is: 30000/1001}}", "525 lines"),
        ("{motion.rate: {is: 30000/1001}, file.drop_frame: {is: true}}", "where it belongs"),
        ("{picture.codec: {is: hap}, file.size: {at_most: 2 GB}}", "bytes may be capped"),
        (
            "{picture.bit_rate: {at_least: 8 Mb/s}, file.duration: {at_least: 30 s}, file.size: "
            "{at_most: 30 MB}}",
            "30 MB are 8 Mb/s over 30 s",
        ),
        (
            f"{{{H264}, picture.profile: {{is: high}}, picture.level: {{at_most: 4.1}}, "
            f"picture.bit_rate: {{at_most: 62.5 Mb/s}}}}",
            "1250 x 50 000 b/s, the level's own",
        ),
        (
            f"{{{H264}, picture.profile: {{is: high}}, picture.level: {{at_most: 4.1}}, "
            f"picture.peak_bit_rate: {{at_most: 140.625 Mb/s}}}}",
            "and in a second 1250 x 62 500 bits of buffer",
        ),
        (
            f"{{{MPEG2}, picture.profile_level: {{is: '4:2:2@main'}}, picture.bit_rate: {{is: 50 "
            f"Mb/s, tolerance: 4 %}}}}",
            "a tolerance above the level is no wish",
        ),
        (f"{{{H264}, picture.level: {{is: 4.1}}, {FIELDS}}}", "the highest level with fields"),
        (f"{{{H264}, picture.level: {{at_most: 5.1}}, {FIELDS}}}", "a lower level has fields"),
        (
            "{picture.codec: {is: hap}, motion.longest_gop: {at_most: 12}}",
            "one is not more than twelve",
        ),
        (
            "{picture.codec: {is: prores}, picture.chroma: {is: '4:4:4'}, picture.bit_depth: {is: "
            "12}}",
            "4444 has it",
        ),
        (
            "{picture.transfer: {one_of: [PQ, BT.709]}, picture.bit_depth: {is: 8}}",
            "BT.709 in 8 bit is right",
        ),
        (
            "{picture.codec: {is: prores}, picture.profile: {is: '4444'}, picture.tag: {is: "
            "ap4h}, file.wrapper: {is: mov}}",
            "they say the same",
        ),
        (
            "{picture.size: {is: 1920x1080}, picture.active: {is: 1920 x 800 + 0 + 140}}",
            "inside the frame",
        ),
        (
            "{picture.bars: {is: false}, picture.display_aspect: {is: '16:9'}, "
            "picture.active_aspect: {is: '7:4'}}",
            "1.75 in 1.78 is measured as no bars",
        ),
        (
            "{sound.codec: {is: aac}, sound.layout: {is: stereo}, sound.sample_rate: {is: 48 "
            "kHz}, sound.bit_rate: {at_least: 576 kb/s}}",
            "2 x 288 kb/s",
        ),
        ("{file.wrapper: {is: mpeg-es}, sound.tracks: {is: 0}}", "no sound"),
        ("{motion.leader: {at_least: 10 s}, file.duration: {at_most: 10 s}}", "just as long"),
        ("{file.duration: {is: 1001/100 s}, motion.rate: {is: 29.97}}", "300 frames last 10.01 s"),
        (
            "{file.duration: {is: 10 s, tolerance: 1/20 s}, motion.rate: {is: 29.97}}",
            "a frame more or less is allowed",
        ),
        ("{file.wrapper: {is: mp4}, file.name: {matches: '[a-z]+\\.mp4'}}", "the wrapper's ending"),
    ],
)
def test_what_is_right_is_let_be(requirements: str, why: str) -> None:
    assert [c.what for c in contradictions(spec(requirements))] == [], why


def test_the_square_that_does_not_fit_says_its_figures() -> None:
    # ITU-T H.264 Table A-1: 1080x1080 is 68 x 68 = 4624 macroblocks; level 3.1 holds 3600.
    (one,) = contradictions(
        spec(
            f"{{{H264}, picture.profile: {{is: main}}, picture.level: {{at_most: 3.1}}, "
            f"picture.size: {{is: 1080x1080}}}}"
        )
    )
    assert "4624 macroblocks" in one.why and "3600 macroblocks" in one.why
    assert one.repair.changes == {"picture.level": {"at_most": 3.2}}


def test_704_samples_make_other_pixels() -> None:
    rows = (
        "{picture.size: {is: 720x576}, picture.pixel_aspect: {is: '16:11'}, "
        "picture.display_aspect: {is: '16:9'}}"
    )
    assert [c.kind for c in contradictions(spec(rows))] == ["shape"]
    assert contradictions(spec(rows, coding={"active_width": 704})) == []


def test_alternatives_are_each_held_to_it() -> None:
    either = [
        {
            "name": "coding",
            "source": "clause",
            "any": [
                {"name": "good", "rules": {"picture.codec": {"is": "h264"}}},
                {"name": "bad", "rules": {"picture.codec": {"is": "prores"}}},
            ],
        }
    ]
    wrong = spec("{file.wrapper: {is: mp4}}", either=either)
    (one,) = contradictions(wrong)
    assert one.kind == "wrapper" and any("coding: bad" in c for c in one.clauses)


def test_conditions_are_held_to_it_where_they_can_hold() -> None:
    rows = [
        {"property": "sound.codec", "rule": {"one_of": ["aac", "mp2"]}},
        {
            "property": "sound.layout",
            "rule": {"is": "5.1"},
            "when": {"property": "sound.codec", "rule": {"is": "mp2"}},
        },
    ]
    base = {"id": "mine", "version": 1, "recipient": "someone", "title": "Mine"}
    assert [c.kind for c in contradictions(Spec.model_validate(base | {"requirements": rows}))] == [
        "channels"
    ]
    rows[0]["rule"] = {"is": "aac"}
    assert [
        (c.kind, c.grade)
        for c in contradictions(Spec.model_validate(base | {"requirements": rows}))
    ] == [("never asked", "doubt")]


def test_two_clauses_that_exclude_each_other() -> None:
    def two(key: str, one: dict[str, Any], other: dict[str, Any]) -> list[str]:
        rows = [{"property": key, "rule": one}, {"property": key, "rule": other}]
        return [
            c.kind
            for c in contradictions(
                Spec.model_validate(
                    {
                        "id": "mine",
                        "version": 1,
                        "recipient": "someone",
                        "title": "Mine",
                        "requirements": rows,
                    }
                )
            )
        ]

    assert two("picture.bit_rate", {"at_least": "6 Mb/s"}, {"at_most": "5 Mb/s"}) == ["exclude"]
    assert two("picture.size", {"at_least": "1920x1080"}, {"at_most": "1280x720"}) == ["exclude"]
    assert two("motion.rate", {"is": 25}, {"one_of": [24, 30]}) == ["exclude"]
    assert two("sound.language", {"present": False}, {"is": "eng"}) == ["exclude"]
    assert two("motion.rate", {"same_as": "master"}, {"at_most": 60}) == []
    assert two("picture.bit_rate", {"at_least": "5 Mb/s"}, {"at_most": "5 Mb/s"}) == []


def test_names_of_images_that_are_asked_need_a_number() -> None:
    images = "{file.wrapper: {is: image sequence}}"
    asked = {"name": "{master}", "asked": "must"}
    (one,) = contradictions(spec(images, delivery=asked))
    assert one.kind == "name number" and "{master}_{frame}" in one.repair.says
    for right in ({"name": "{master}"}, asked | {"name": "{master}_{frame}"}):
        assert contradictions(spec(images, delivery=right)) == []
    assert contradictions(spec("{file.wrapper: {is: mov}}", delivery=asked)) == []


@pytest.mark.parametrize(
    ("delivery", "kind", "grade"),
    [
        ({"name": "{recipient}_{date}"}, "name clash", "contradiction"),
        ({"name": "{production}[_e{episode}]"}, "name clash", "doubt"),
        ({"name": "{master}_with_very_much_text", "longest": 16}, "name length", "contradiction"),
        ({"name": "{master}", "fields": {"slug": {"matches": "[a-z]+"}}}, "name field", "doubt"),
        (
            {"name": "{master}", "sidecars": [{"kind": "html snippet", "form": "html"}]},
            "snippet",
            "doubt",
        ),
    ],
)
def test_names_and_what_goes_beside(delivery: dict[str, Any], kind: str, grade: str) -> None:
    found = contradictions(spec("{file.wrapper: {is: mxf}}", delivery=delivery))
    assert [(c.kind, c.grade) for c in found] == [(kind, grade)]


def test_a_rate_buffer_larger_than_its_level() -> None:
    rows = (
        f"{{{MPEG2}, picture.profile_level: {{is: main@main}}, picture.size: "
        f"{{is: 720x576}}, motion.rate: {{is: 25}}}}"
    )
    # ISO/IEC 13818-2 Table 8-14: the VBV buffer of main profile at main level is 1 835 008 bits.
    assert contradictions(spec(rows, coding={"buffer_bits": 1_835_008})) == []
    assert [c.kind for c in contradictions(spec(rows, coding={"buffer_bits": 1_835_009}))] == [
        "level buffer"
    ]


def test_a_repair_reaches_into_alternatives_and_never_empties_a_spec() -> None:
    either = [
        {
            "name": "coding",
            "any": [
                {"name": "a", "rules": {"picture.bit_rate": {"is": "9 Mb/s"}}},
                {"name": "b", "rules": {"picture.codec": {"is": "h264"}}},
            ],
        }
    ]
    made = repaired(
        {"requirements": [{"property": "file.wrapper", "rule": {"is": "mp4"}}], "either": either},
        {"picture.bit_rate": {"at_most": "5 Mb/s"}},
    )
    assert made["either"][0]["any"][0]["rules"]["picture.bit_rate"] == {"at_most": "5 Mb/s"}
    assert repaired(made, {"picture.bit_rate": None})["either"] == []
    with pytest.raises(BadSpec, match="without requirements"):
        repaired(
            {"requirements": [{"property": "file.wrapper", "rule": {"is": "mp4"}}]},
            {"file.wrapper": None},
        )


def test_a_house_choice_that_no_alternative_allows_is_told_of() -> None:
    ways = [
        {"name": "thin", "rules": {"picture.bit_rate": {"at_most": "3 Mb/s"}}},
        {"name": "fat", "rules": {"picture.bit_rate": {"at_least": "20 Mb/s"}}},
    ]
    more: dict[str, Any] = {"either": [{"name": "weight", "source": "clause", "any": ways}]}
    assert (
        contradictions(
            spec(
                "{file.wrapper: {is: mp4}}",
                house={"picture.bit_rate": {"value": "25 Mb/s"}},
                **more,
            )
        )
        == []
    )
    (one,) = contradictions(
        spec(
            "{file.wrapper: {is: mp4}}",
            house_sets={"rain": {"choices": {"picture.bit_rate": {"value": "10 Mb/s"}}}},
            **more,
        )
    )
    assert one.kind == "house choice" and "10 Mb/s (rain)" in one.what and len(one.clauses) == 2


def test_ways_that_were_not_looked_at_are_told_of() -> None:
    def choices(count: int) -> list[dict[str, Any]]:
        keys = [
            "motion.longest_gop",
            "motion.b_frames",
            "picture.spatial",
            "picture.temporal",
            "motion.repeats",
            "picture.flashes",
            "picture.red_flashes",
        ]
        return [
            {"name": key, "any": [{"name": n, "rules": {key: {"at_most": n}}} for n in ("1", "2")]}
            for key in keys[:count]
        ]

    assert contradictions(spec("{file.wrapper: {is: mp4}}", either=choices(6))) == []
    (one,) = contradictions(spec("{file.wrapper: {is: mp4}}", either=choices(7)))
    assert one.kind == "too many ways" and "128 ways" in one.what


def test_a_profile_without_a_tag_of_its_own_is_told_to_leave_the_tag_out() -> None:
    asked = spec(
        "{picture.codec: {is: prores}, picture.profile: {is: raw}, picture.tag: {is: apcn}}"
    )
    (found,) = [c for c in contradictions(asked) if c.kind == "tag codec"]
    assert found.repair.says == "Leave the tag out."
    assert found.repair.changes == {"picture.tag": None}
