"""Every operator on every kind of value, at its limit on both sides; alternatives, conditions,
tracks, whole crates.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.facts import Fact, Facts
from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.ledger import ledger, needed, overall, taken, whole_crate
from ample_crate.core.specs.rules import RANGES, Ask, bounds, nearest
from ample_crate.core.specs.rules import test as passing
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size

BASE = {"id": "mine", "version": 1, "recipient": "someone", "title": "Mine"}


def asking(*rows: dict[str, Any], **more: Any) -> Spec:
    return Spec.model_validate(BASE | {"requirements": list(rows)} | more)


def facts(**values: Any) -> Facts:
    return Facts().with_values("measured", {k.replace("_", ".", 1): v for k, v in values.items()})


def verdicts(found: Facts, spec: Spec, **more: Any) -> list[str]:
    return [f.verdict for f in ledger(found, spec, **more)]


# One property of each ordered kind, a limit in the trade's units, the limit and the smallest step
# in base units.
ORDERED: list[tuple[str, str, Any, Any]] = [
    ("motion.longest_gop", "12", 12, 1),
    ("picture.bit_depth", "10", 10, 1),
    ("picture.display_aspect", "16:9", Fraction(16, 9), Fraction(1, 10**6)),
    ("motion.rate", "30000/1001", Fraction(30000, 1001), Fraction(1, 10**6)),
    ("file.duration", "1/25 s", Fraction(1, 25), Fraction(1, 48000)),
    ("file.size", "30 MiB", 30 * 2**20, 1),
    ("picture.bit_rate", "2 MB/s", 16_000_000, 1),
    ("picture.vbv", "1.835008 Mbit", 1_835_008, 1),
    ("sound.sample_rate", "22.05 kHz", 22_050, 1),
    ("picture.level", "4.1", Fraction(41, 10), Fraction(1, 10)),
    ("picture.excursion", "1", Fraction(1), Fraction(1, 100)),
    ("picture.spatial", "40", Fraction(40), Fraction(1, 100)),
    ("picture.rotation", "90", 90, 1),
    ("sound.loudness_range", "20 LU", Fraction(20), Fraction(1, 10)),
    ("sound.loudness", "-23 LUFS", Fraction(-23), Fraction(1, 10)),
    ("sound.true_peak", "-1 dBTP", Fraction(-1), Fraction(1, 10)),
]


def test_every_ordered_kind_has_its_row() -> None:
    assert {PROPERTIES[k].kind.name for k, *_ in ORDERED} == {
        p.kind.name for p in PROPERTIES.values() if p.kind.ordered
    }


@pytest.mark.parametrize(
    ("key", "limit", "value", "step"), ORDERED, ids=[row[0] for row in ORDERED]
)
def test_ordered_kinds_at_the_limit(key: str, limit: str, value: Any, step: Any) -> None:
    def judge(rule: dict[str, Any], *found: Any) -> list[str]:
        spec = asking({"property": key, "rule": rule})
        return [ledger(Facts({key: Fact(measured=v)}), spec)[0].verdict for v in found]

    assert judge({"is": limit}, value - step, value, value + step) == ["breaks", "meets", "breaks"]
    assert judge({"at_least": limit}, value - step, value, value + step) == [
        "breaks",
        "meets",
        "meets",
    ]
    assert judge({"at_most": limit}, value - step, value, value + step) == [
        "meets",
        "meets",
        "breaks",
    ]
    assert judge({"between": [limit, limit]}, value - step, value, value + step) == [
        "breaks",
        "meets",
        "breaks",
    ]
    assert judge({"one_of": [limit]}, value - step, value, value + step) == [
        "breaks",
        "meets",
        "breaks",
    ]
    share = "5 %" if value else "0 %"
    edge = value + abs(Fraction(value)) / 20
    assert judge({"is": limit, "tolerance": share}, edge, edge + step) == ["meets", "breaks"]
    assert judge({"one_of": [limit], "tolerance": share}, edge, edge + step) == ["meets", "breaks"]


@pytest.mark.parametrize(
    ("key", "rule", "meets", "breaks"),
    [
        ("picture.codec", {"is": "h264"}, "h264", "hevc"),
        ("picture.codec", {"one_of": ["h264", "hevc"]}, "hevc", "vp9"),
        ("motion.scan", {"is": "interlaced"}, "interlaced", "progressive"),
        ("picture.alpha", {"is": True}, True, False),
        ("picture.alpha", {"is": "no"}, False, True),
        ("picture.size", {"is": "720x576"}, Size(720, 576), Size(720, 574)),
        ("picture.size", {"one_of": ["720x576", "720x608"]}, Size(720, 608), Size(720, 512)),
        ("picture.size", {"at_most": "1920x1080"}, Size(1080, 1080), Size(1080, 1920)),
        ("picture.size", {"at_least": "640x360"}, Size(640, 360), Size(1920, 358)),
        ("picture.size", {"between": ["640x360", "1280x720"]}, Size(1280, 720), Size(1280, 722)),
        ("file.start_timecode", {"matches": "10:00:00[:;]00"}, "10:00:00;00", "10:00:00:01"),
        ("file.name", {"matches": "[a-z]{3}[0-9]{2}"}, "abc01", "abc012"),
    ],
)
def test_other_kinds_on_both_sides(key: str, rule: dict[str, Any], meets: Any, breaks: Any) -> None:
    spec = asking({"property": key, "rule": rule})
    assert [ledger(Facts({key: Fact(measured=v)}), spec)[0].verdict for v in (meets, breaks)] == [
        "meets",
        "breaks",
    ]


def test_a_pattern_fits_the_whole_text_and_cannot_be_made_to_hang() -> None:
    spec = asking(
        {"property": "file.name", "rule": {"matches": "(a+)+b", "words": "many a and one b"}}
    )
    assert verdicts(Facts({"file.name": Fact(measured="a" * 5000)}), spec) == ["breaks"]
    assert verdicts(Facts({"file.name": Fact(measured="xaab")}), spec) == ["breaks"]
    assert spec.requirements[0].sentence() == "The file name must be many a and one b."


NUMBERS = st.fractions(min_value=-1000, max_value=1000, max_denominator=1001)


@given(NUMBERS, NUMBERS, NUMBERS, st.sampled_from(sorted(RANGES | {"is"})), st.booleans())
def test_the_test_of_a_rule_is_its_bounds(
    value: Fraction, one: Fraction, other: Fraction, operator: str, tolerant: bool
) -> None:
    low, high = sorted((one, other))
    operand: Any = [str(low), str(high)] if operator == "between" else str(low)
    rule = {operator: operand} | ({"tolerance": "7 %"} if tolerant else {})
    ask = Ask.model_validate({"property": "sound.loudness", "rule": rule})
    found = bounds(ask)
    assert found is not None
    inside = (found[0] is None or value >= found[0]) and (found[1] is None or value <= found[1])
    assert passing(ask)(value) is inside
    assert passing(ask)(nearest(ask, value)), (
        "the nearest value that a rule allows is allowed by it"
    )


@given(NUMBERS, NUMBERS, st.fractions(min_value=0, max_value=100, max_denominator=100))
def test_a_wider_range_or_tolerance_or_one_more_alternative_never_breaks_what_met(
    value: Fraction, limit: Fraction, wider: Fraction
) -> None:
    def met(*rules: dict[str, Any], **more: Any) -> bool:
        rows = [{"property": "sound.loudness", "rule": r} for r in rules] or [
            {"property": "file.wrapper", "rule": {"present": False}}
        ]
        return overall(ledger(facts(sound_loudness=value), asking(*rows, **more))) == "meets"

    low, high = str(limit), str(limit + wider)
    if met({"between": [low, high]}):
        assert (
            met({"between": [str(limit - wider), str(limit + 2 * wider)]})
            and met({"at_least": low})
            and met({"at_most": high})
        )
    if met({"is": low}):
        assert met({"is": low, "tolerance": f"{wider} LU"}) and met({"one_of": [low, high]})
    one = {"name": "one", "rules": {"sound.loudness": {"is": low}}}
    other = {"name": "other", "rules": {"sound.loudness": {"at_least": high}}}
    third = {"name": "third", "rules": {"sound.loudness": {"at_most": "-500"}}}
    if met(either=[{"name": "x", "any": [one, other]}]):
        assert met(either=[{"name": "x", "any": [third, one, other]}])


@given(NUMBERS, NUMBERS, st.sampled_from(["is", "at_least", "at_most"]), st.booleans())
def test_severity_turns_breaks_into_advice_and_nothing_else(
    value: Fraction, limit: Fraction, operator: str, conditional: bool
) -> None:
    when = {"when": {"property": "file.wrapper", "rule": {"is": "mp4"}}} if conditional else {}
    rows = [
        {"property": "sound.loudness", "rule": {operator: str(limit)}, "severity": s} | when
        for s in ("must", "should")
    ]
    seen = [
        verdicts(facts(sound_loudness=value, file_wrapper="mp4"), asking(row))[0] for row in rows
    ]
    assert seen in (["meets", "meets"], ["breaks", "advice"])


FORMATS = {
    "name": "picture format",
    "source": "2.1",
    "any": [
        {
            "name": "1080i25",
            "rules": {
                "motion.rate": {"is": 25},
                "motion.scan": {"is": "interlaced"},
                "motion.field_order": {"is": "upper first"},
            },
        },
        {
            "name": "1080p50",
            "rules": {"motion.rate": {"is": 50}, "motion.scan": {"is": "progressive"}},
        },
    ],
}
SIZE = {"property": "picture.size", "rule": {"is": "1920x1080"}}


def test_one_alternative_is_enough_and_the_nearest_is_told_of() -> None:
    spec = asking(SIZE, either=[FORMATS])
    fields = facts(
        picture_size=Size(1920, 1080),
        motion_rate=Fraction(25),
        motion_scan="interlaced",
        motion_field_order="upper first",
    )
    frames = facts(
        picture_size=Size(1920, 1080), motion_rate=Fraction(50), motion_scan="progressive"
    )
    assert overall(ledger(fields, spec)) == overall(ledger(frames, spec)) == "meets"
    assert taken(fields, spec) == {"picture format": "1080i25"} and taken(frames, spec) == {
        "picture format": "1080p50"
    }
    wrong = ledger(fields.with_values("measured", {"motion.field_order": "lower first"}), spec)
    assert [(f.property, f.part) for f in wrong if f.verdict == "breaks"] == [
        ("motion.field_order", "picture format: 1080i25")
    ]
    mixed = ledger(
        facts(picture_size=Size(1920, 1080), motion_rate=Fraction(25), motion_scan="progressive"),
        spec,
    )
    assert overall(mixed) == "breaks"


def test_a_condition_asks_only_where_it_holds() -> None:
    row = {
        "property": "sound.layout@2",
        "rule": {"is": "stereo"},
        "when": {"property": "sound.layout@1", "rule": {"is": "5.1"}},
    }
    spec = asking(row)
    surround = {"sound.tracks": 2, "sound.layout": "5.1", "sound.layout@2": "stereo"}
    assert verdicts(Facts().with_values("measured", surround), spec) == ["meets"]
    assert verdicts(
        Facts().with_values("measured", surround | {"sound.layout@2": "mono"}), spec
    ) == ["breaks"]
    (plain,) = ledger(facts(sound_tracks=1, sound_layout="stereo"), spec)
    assert (
        plain.verdict == "meets"
        and not plain.applies
        and "Not asked of this file" in plain.why
        and "here it is stereo" in plain.why
    )
    (unknown,) = ledger(Facts(), spec)
    assert unknown.verdict == "unproven" and "hangs on the layout" in unknown.why
    assert (
        spec.requirements[0]
        .sentence()
        .startswith("Where the layout is 5.1: of sound track 2: the layout must be stereo")
    )


def test_a_named_track_is_judged_alone_and_an_unnamed_rule_on_all() -> None:
    two = Facts().with_values(
        "measured", {"sound.tracks": 2, "sound.enabled": True, "sound.enabled@2": False}
    )
    assert verdicts(two, asking({"property": "sound.enabled@1", "rule": {"is": True}})) == ["meets"]
    assert verdicts(two, asking({"property": "sound.enabled", "rule": {"is": True}})) == ["breaks"]


def test_silence_meets_where_the_spec_allows_it() -> None:
    codec = {"property": "sound.codec", "rule": {"is": "aac"}}
    silent = facts(sound_tracks=0)
    assert verdicts(silent, asking(codec)) == ["breaks"]
    assert verdicts(
        silent, asking({"property": "sound.tracks", "rule": {"one_of": [0, 1]}}, codec)
    ) == ["meets", "meets"]
    inside = {
        "name": "streams",
        "any": [
            {"name": "both", "rules": {"sound.tracks": {"is": 1}}},
            {"name": "picture", "rules": {"sound.tracks": {"is": 0}}},
        ],
    }
    assert set(verdicts(silent, asking(codec, either=[inside]))) == {"meets"}


def test_a_crate_is_judged_by_the_same_ledger() -> None:
    spec = asking(
        SIZE,
        {"property": "delivery.total", "rule": {"at_most": "4.7 GB"}},
        {"property": "delivery.week", "rule": {"at_most": "500 MB"}},
        {"property": "delivery.items", "rule": {"is": 2}},
        {"property": "delivery.length", "rule": {"at_most": "1 min"}},
    )
    items = [
        facts(file_size=200_000_000, file_duration=Fraction(20)),
        facts(file_size=200_000_000, file_duration=Fraction(41)),
    ]
    found = {f.property: f for f in ledger(whole_crate(items, 100_000_000), spec, of="crate")}
    assert set(found) == {"delivery.total", "delivery.week", "delivery.items", "delivery.length"}
    assert (
        found["delivery.week"].verdict == "meets"
        and "just at the limit" in found["delivery.week"].why
    )
    assert found["delivery.length"].verdict == "breaks" and "1:01" in found["delivery.length"].why
    over = {f.property: f for f in ledger(whole_crate(items, 100_000_001), spec, of="crate")}
    assert over["delivery.week"].verdict == "breaks"
    unknown = {
        f.property: f.verdict
        for f in ledger(whole_crate([*items, Facts()], None), spec, of="crate")
    }
    assert unknown == {
        "delivery.total": "unproven",
        "delivery.week": "unproven",
        "delivery.items": "breaks",
        "delivery.length": "unproven",
    }
    assert [f.property for f in ledger(items[0], spec)] == ["picture.size"]


def test_how_near_the_limit_is_said_in_figures() -> None:
    spec = asking({"property": "file.size", "rule": {"at_most": "30 MB"}})
    assert "100.00 kB, 0.33 % inside the limit" in ledger(facts(file_size=29_900_000), spec)[0].why
    assert "890.00 kB, 3 % beyond the limit" in ledger(facts(file_size=30_890_000), spec)[0].why
    assert "limit" not in ledger(facts(file_size=20_000_000), spec)[0].why
    assert "just at the limit" in ledger(facts(file_size=30_000_000), spec)[0].why


def test_what_a_spec_needs_measured_is_known() -> None:
    spec = asking(SIZE, {"property": "sound.layout@2", "rule": {"is": "stereo"}}, either=[FORMATS])
    assert needed([spec]) == {
        "picture.size",
        "sound.layout",
        "motion.rate",
        "motion.scan",
        "motion.field_order",
    }


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"either": [FORMATS, FORMATS]}, "same name"),
        (
            {"house_sets": {"rain": {"choices": {"picture.size": {"value": "1280x720"}}}}},
            "outside what the spec allows",
        ),
        ({"delivery": {"name": "{title}"}}, "field that is not known"),
        ({"delivery": {"name": "{master", "characters": "a-z"}}, "do not close"),
        (
            {"delivery": {"name": "{master}", "sidecars": [{"kind": "captions", "form": "md5"}]}},
            "captions come as",
        ),
        ({"valid_from": "2026-13-01"}, "pattern"),
    ],
)
def test_what_a_spec_may_not_say(more: dict[str, Any], says: str) -> None:
    with pytest.raises(ValueError, match=says):
        asking(SIZE, **more)
