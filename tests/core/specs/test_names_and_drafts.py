"""Names by pattern; specs from accepted files; comparing; media types; YAML that means what it
says.
"""

from __future__ import annotations

from fractions import Fraction

import pytest
import re2
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.errors import BadSpec, BadValue
from ample_crate.core.facts import Facts, media_type
from ample_crate.core.formats import PICTURE
from ample_crate.core.formats.codec import StreamHead
from ample_crate.core.ledger import ledger, overall
from ample_crate.core.planning.resolve import Resolver
from ample_crate.core.specs import naming
from ample_crate.core.specs.contradictions import contradictions
from ample_crate.core.specs.differences import NOT_BINDING, differences
from ample_crate.core.specs.drafting import proposals
from ample_crate.core.specs.spec import Spec
from ample_crate.core.specs.specfile import dump, parse
from ample_crate.core.units.values import Size
from ample_crate.store import library
from exemplars import FIELDS, exemplars
from support import master_facts

SPECS = {s.id: s for s in library.specs()}


def made(
    text: str,
    case: str = "any",
    characters: str = "A-Z a-z 0-9 _ - .",
    longest: int = 200,
    free: dict[str, str] | None = None,
) -> naming.Pattern:
    return naming.Pattern(text, free or {}, characters, case, longest)


def test_optional_parts_are_left_out_where_nothing_is_known() -> None:
    pattern = made("{production}[_e{episode}]_{version}", "lower", "a-z 0-9 _")
    known = {"production": "Lichen Hours", "version": "2"}
    assert pattern.name(known, ".mp4") == "lichen_hours_2.mp4"
    assert pattern.name(known | {"episode": "3"}, ".mp4") == "lichen_hours_e3_2.mp4"
    with pytest.raises(BadValue, match="needs a production"):
        pattern.name({"version": "2"}, ".mp4")


@pytest.mark.parametrize(
    ("name", "number"),
    [
        ("lichen_hours_ep03_cut.mxf", "03"),
        ("Lichen S01E07.mov", "07"),
        ("trailer.mov", ""),
        ("episode.mov", ""),
        ("rain_e5.mp4", "5"),
    ],
)
def test_the_episode_is_read_from_the_masters_name(name: str, number: str) -> None:
    assert naming.episode(name) == number


def test_free_fields_have_a_rule_of_their_own() -> None:
    pattern = made("{spot}_{size}", free={"spot": "[A-Z]{3}[0-9]{4}"})
    assert pattern.name({"spot": "QUI0042", "size": "720x576"}, ".mpg") == "QUI0042_720x576.mpg"
    with pytest.raises(BadValue, match="does not fit the rule of the field 'spot'"):
        pattern.name({"spot": "42", "size": "720x576"}, ".mpg")


def test_the_number_of_an_image_comes_last_after_a_mark() -> None:
    pattern = made("{master}_{frame}")
    assert pattern.name({"master": "reel 2", "frame": "0001001"}, ".dpx") == "reel_2_0001001.dpx"
    for whole in ("reel_2_[0001001-0001024].dpx", "reel_2_0001001.dpx"):
        assert re2.fullmatch(pattern.expression(), whole)
    for odd in ("{frame}_{master}", "{master}{frame}", "{master}[_{frame}]", "{master}_v{frame}"):
        with pytest.raises(BadValue, match="where it cannot stand"):
            made(odd)
    with pytest.raises(BadValue, match="no number of an image"):
        pattern.fits("frame", "first")
    assert naming.folder_of("reel_2_") == "reel_2" and naming.folder_of("") == "images"


def test_a_long_master_is_cut_and_a_long_rest_is_refused() -> None:
    assert (
        made("{master}_r{revision}", longest=16).name(
            {"master": "a_very_long_name_indeed", "revision": "1"}, ".mp4"
        )
        == "a_very_lo_r1.mp4"
    )
    with pytest.raises(BadValue, match="characters long"):
        made("{production}", longest=10).name({"production": "lichen hours"}, ".mp4")


@pytest.mark.parametrize(
    ("text", "characters", "says"),
    [
        ("{master", "a-z", "do not close"),
        ("[{master}", "a-z", "do not close"),
        ("{chapter}", "a-z", "not known"),
        ("{master} x", "a-z", "' '"),
        ("{master}", "a-z /", "cannot stand"),
        ("{master}", "abc", "no range"),
        ("", "a-z", "empty"),
    ],
)
def test_bad_patterns_are_refused(text: str, characters: str, says: str) -> None:
    with pytest.raises(BadValue, match=says):
        made(text, characters=characters)


@given(
    st.text(min_size=1, max_size=60),
    st.sampled_from(["any", "lower", "upper"]),
    st.sampled_from(["a-z A-Z 0-9 _", "A-Z a-z 0-9 - .", "a-z A-Z 0-9 _ -"]),
)
def test_every_name_made_fits_its_own_pattern(master: str, case: str, characters: str) -> None:
    joint = "_" if "_" in characters else "-"
    pattern = made(f"{{master}}[{joint}{{episode}}]{joint}{{revision}}", case, characters)
    try:
        name = pattern.name({"master": master, "revision": "3"}, ".mp4")
    except BadValue:
        return
    assert re2.fullmatch(pattern.expression(), name) and "/" not in name


@pytest.mark.parametrize("id", sorted(SPECS))
def test_shipped_patterns_make_names_that_fit_and_others_do_not(id: str) -> None:
    pattern = SPECS[id].delivery.pattern()
    name = pattern.name(FIELDS, ".mp4")
    assert re2.fullmatch(pattern.expression(), name)
    assert not re2.fullmatch(pattern.expression(), name + "/x") and not re2.fullmatch(
        pattern.expression(), "é" + name
    )


@pytest.mark.parametrize("id", sorted(SPECS))
def test_a_spec_written_from_a_file_it_accepts_accepts_that_file(id: str) -> None:
    for one in exemplars(SPECS[id]):
        usual = [p for p in proposals(one.facts, "a file they accepted") if p.usual]
        rows = [p.requirement.model_dump(by_alias=True, exclude_none=True) for p in usual]
        drafted = Spec.model_validate(
            {
                "id": "drafted",
                "version": 1,
                "recipient": "someone",
                "title": "Drafted",
                "requirements": rows,
            }
        )
        found = ledger(one.facts, drafted, one.master)
        assert overall(found) == "meets", [f for f in found if f.verdict != "meets"]
        assert [
            c for c in contradictions(drafted) if c.grade == "contradiction" and c.kind != "cap"
        ] == []
        assert all(p.because.endswith(".") and p.shown for p in usual)


def test_tracks_that_differ_are_drafted_one_by_one() -> None:
    two = master_facts().with_values(
        "measured",
        {
            "sound.tracks": 2,
            "sound.layout": "5.1",
            "sound.layout@2": "stereo",
            "sound.codec@2": "pcm_s24le",
        },
    )
    keys = [p.requirement.property for p in proposals(two, "x")]
    assert (
        "sound.layout@1" in keys
        and "sound.layout@2" in keys
        and "sound.codec" in keys
        and "sound.codec@2" not in keys
    )


def test_a_compared_spec_says_what_changed() -> None:
    old = SPECS["tannery-list"]
    document = old.model_dump(by_alias=True, exclude_none=True)
    rows = [r for r in document["requirements"] if r["property"] != "motion.longest_gop"]
    for row in rows:
        if row["property"] == "motion.rate":
            row["rule"] = {"is": "50"}
    rows.append({"property": "picture.transfer", "rule": {"is": "BT.709"}, "severity": "should"})
    new = Spec.model_validate(
        document | {"version": 2, "requirements": rows, "coding": {"passes": 2}}
    )
    said = [
        d.said() for d in differences(old, new) if d.change != "same" and d.group != NOT_BINDING
    ]
    assert said == [
        "Frame rate: 25 fps becomes 50 fps.",
        "No longer asked: longest GOP at most 50 (should).",
        "New: transfer BT.709 (should).",
        "Passes: 1 becomes 2.",
    ]
    assert all(d.change == "same" for d in differences(old, old))


def test_numbers_to_base_sixty_are_read_as_they_stand() -> None:
    text = (
        "id: mine\nversion: 1\nrecipient: a\ntitle: T\nrequirements:\n  - {property: "
        "file.start_timecode, rule: {is: 10:00:00:00}}\n"
    )
    text += (
        "  - {property: picture.display_aspect, rule: {is: 16:9}}\n  - {property: "
        "picture.level, rule: {is: 4.1}}\nvalid_from: 2026-11-23\n"
    )
    spec = parse(text, "x.yaml")
    assert (
        spec.requirements[0].rule.is_ == "10:00:00:00"
        and spec.requirements[1].rule.is_ == "16:9"
        and spec.valid_from == "2026-11-23"
    )
    assert parse(dump(spec), "x.yaml") == spec


def test_yaml_that_runs_code_or_grows_is_refused() -> None:
    with pytest.raises(BadSpec):
        parse("!!python/object/apply:os.system ['true']", "x.yaml")
    # References to references: ten lines that stand for 9 to the tenth words, in every place where
    # a spec has text.
    bomb = "id: grows\nversion: 1\nrecipient: &a [x, x, x, x, x, x, x, x, x]\n"
    for before, name, key in zip(
        "abcdefghi",
        "bcdefghij",
        (
            "title",
            "summary",
            "source",
            "status",
            "valid_from",
            "coding",
            "delivery",
            "house",
            "either",
        ),
        strict=True,
    ):
        bomb += f"{key}: &{name} [{', '.join([f'*{before}'] * 9)}]\n"
    with pytest.raises(BadSpec, match="line 4: '\\*a' refers to another part of the file"):
        parse(bomb, "x.yaml")
    for text, says in (
        ("[" * 5000, "nested deeper"),
        (f"id: {'9' * 5000}", "digits"),
        ("x" * 600_000, "600000 characters"),
        (f"title: [{'y, ' * 9000}y]", "…"),
    ):
        with pytest.raises(BadSpec) as error:
            parse(text, "x.yaml")
        assert says in error.value.what and len(error.value.what) < 1000


def test_rates_are_not_proposed_where_they_follow_from_the_size() -> None:
    rates = {
        "picture.bit_rate": 1_000_000_000,
        "picture.peak_bit_rate": 1_000_000_000,
        "picture.rate_mode": "constant",
    }
    for codec, proposed in (("dpx", set()), ("h264", set(rates))):
        facts = Facts().with_values("measured", {"picture.codec": codec, **rates})
        assert {p.requirement.property for p in proposals(facts, "x")} & set(rates) == proposed, (
            codec
        )


def test_house_sets_and_alternatives_are_taken_by_name() -> None:
    spec = SPECS["fellside-1080p"]
    assert Resolver(spec, master_facts(), {}).get("picture.bit_rate") == 4_400_000
    assert (
        Resolver(spec, master_facts(), {"house": "rain and grass"}).get("picture.bit_rate")
        == 5_000_000
    )
    assert (
        Resolver(
            spec, master_facts(), {"house": "rain and grass", "picture.bit_rate": "4.2 Mb/s"}
        ).get("picture.bit_rate")
        == 4_200_000
    )
    with pytest.raises(BadValue, match="no house choices named"):
        Resolver(spec, master_facts(), {"house": "snow"})
    frames = SPECS["skerry-sd525"]
    assert Resolver(frames, master_facts(), {}).get("picture.size") == Size(720, 480)
    assert Resolver(frames, master_facts(), {"either.frame": "with the vertical interval"}).get(
        "picture.size"
    ) == Size(720, 512)
    with pytest.raises(BadValue, match="no frame of this spec"):
        Resolver(frames, master_facts(), {"either.frame": "other"})


def test_conditions_and_more_rules_settle_together() -> None:
    spec = SPECS["owlery-hd"]
    large, small = master_facts(), master_facts(picture_size=Size(1280, 720))
    assert Resolver(spec, large, {}).get("picture.bit_rate", 5_000_000) == 17_000_000
    assert Resolver(spec, small, {}).get("picture.bit_rate", 5_000_000) == 6_000_000
    assert Resolver(spec, master_facts(motion_rate=Fraction(100)), {}).get("motion.rate") == 60


def test_codecs_as_rfc_6381_names_them() -> None:
    def string(codec: str, configuration: bytes) -> str | None:
        head = StreamHead(configuration, "profile 0", Size(1280, 720), Fraction(25), 8)
        named = PICTURE[codec].codec_string
        return named(head) if named is not None else None

    assert string("h264", bytes.fromhex("0164002800")) == "avc1.640028"
    assert string("h264", bytes.fromhex("0000000167640028ac")) == "avc1.640028"
    assert string("h264", b"") is None
    assert string("h264", b"\x00\x00\x01\x09\x10") is None
    # ISO/IEC 14496-15 E.3 gives hvc1.A1.80.L93.B0 and hev1.1.6.L93.B0 as examples of the form.
    record = bytes([1, 0x01, 0x60, 0, 0, 0, 0xB0, 0, 0, 0, 0, 0, 93])
    assert string("hevc", record) == "hvc1.1.6.L93.B0"
    assert string("av1", bytes([0x81, 0x08, 0x40, 0])) == "av01.0.08M.10"
    assert string("vp9", b"") == "vp09.00.31.08"
    facts = Facts().with_values(
        "declared",
        {
            "file.wrapper": "mp4",
            "picture.codec_string": "avc1.640028",
            "sound.codec": "aac",
            "sound.tracks": 1,
        },
    )
    assert media_type.media_type(facts) == 'video/mp4; codecs="avc1.640028, mp4a.40.2"'
    assert media_type.media_type(Facts()) is None


def test_the_snippet_is_safe_whatever_the_name() -> None:
    facts = Facts().with_values(
        "declared",
        {
            "file.wrapper": "webm",
            "picture.codec_string": "vp8",
            "picture.size": Size(1280, 720),
            "picture.display_aspect": Fraction(16, 9),
        },
    )
    text = media_type.snippet('a"><script>.webm', facts, 'Lichen "Hours"')
    assert (
        "<script>" not in text
        and 'width="1280" height="720"' in text
        and "type='video/webm; codecs=\"vp8\"'" in text
    )
