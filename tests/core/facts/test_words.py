"""What people write is brought to the words by which files are read; what no file is known by is
refused or told.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.facts.properties import PROPERTIES, lookup
from ample_crate.core.facts.words import fold
from ample_crate.core.ledger import ledger
from ample_crate.core.specs import vocabulary
from ample_crate.core.specs.contradictions import contradictions, repaired
from ample_crate.core.specs.rules import Ask, limits
from ample_crate.core.specs.rules import test as rule_of
from ample_crate.core.specs.spec import Spec
from ample_crate.core.specs.specfile import document_of
from ample_crate.media import names, wrappers

WORDS = {key: prop.words for key, prop in PROPERTIES.items() if prop.words is not None}
FILLED = st.sampled_from([(key, word) for key, words in WORDS.items() for word in words.known])


def spec(*rows: tuple[str, dict[str, Any]], **more: Any) -> Spec:
    return Spec.model_validate(
        {
            "id": "a-spec",
            "version": 1,
            "recipient": "skerry",
            "title": "t",
            "requirements": [{"property": p, "rule": r} for p, r in rows],
        }
        | more
    )


@pytest.mark.parametrize(
    ("key", "said", "read"),
    [
        ("picture.codec", "H.264", "h264"),
        ("picture.codec", "mpeg-2", "mpeg2video"),
        ("picture.codec", "H265", "hevc"),
        ("picture.codec", "ProRes", "prores"),
        ("picture.codec", "VC-3", "dnxhd"),
        ("picture.profile", "High", "high"),
        ("picture.profile_level", "422P@ML", "4:2:2@main"),
        ("picture.profile_level", "MP@H-14", "main@high 1440"),
        ("picture.chroma", "420", "4:2:0"),
        ("picture.range", "legal", "limited"),
        ("picture.primaries", "P3 D65", "P3-D65"),
        ("picture.primaries", "DCI-P3", "P3-DCI"),
        ("picture.matrix", "BT.2020 NCL", "BT.2020"),
        ("picture.transfer", "gamma 2.6", "SMPTE ST 428"),
        ("picture.matrix", "Rec. 709", "BT.709"),
        ("picture.matrix", "601", "BT.601"),
        ("picture.transfer", "hlg", "HLG"),
        ("picture.transfer", "SMPTE ST 2084", "PQ"),
        ("picture.rate_mode", "CBR", "constant"),
        ("motion.scan", "Interlaced", "interlaced"),
        ("motion.field_order", "TFF", "upper first"),
        ("motion.field_order", "progressive", "none"),
        ("sound.codec", "AC-3", "ac3"),
        ("sound.codec", "MPEG-1 Layer II", "mp2"),
        ("sound.layout", "Stereo", "stereo"),
        ("sound.layout", "5.1(side)", "5.1"),
        ("sound.layout", "2.0", "stereo"),
        ("file.wrapper", "MP4", "mp4"),
        ("file.wrapper", "mkv", "matroska"),
        ("file.wrapper", "MPEG program stream", "mpeg-ps"),
        ("file.start_timecode", "10:00:00;00", "10:00:00;00"),
        ("picture.active", "1920x800+0+140", "1920 x 800 + 0 + 140"),
        ("picture.clean_aperture", "702×576", "702 x 576"),
        # Nothing is made of a word that is not known: it may be the name of a codec that is read
        # all the same.
        ("picture.codec", "cinepak", "cinepak"),
        ("sound.language", "fin", "fin"),
    ],
)
def test_other_writings_are_read_as_files_are(key: str, said: str, read: str) -> None:
    assert lookup(key).read(said) == read
    ask = Ask.model_validate({"property": key, "rule": {"is": said}})
    assert limits(ask) == (read,) and rule_of(ask)(read) and ask.rule.is_ == read, (
        "and the spec keeps that word"
    )


@pytest.mark.parametrize(
    ("key", "said", "hint"),
    [
        ("motion.scan", "interlacd", "Did you mean 'interlaced'?"),
        ("picture.chroma", "4:2:3", "4:2:0, 4:2:2"),
        ("picture.range", "broad", "limited, full"),
        ("picture.rate_mode", "CBV", "constant, variable"),
        ("sound.codec", "PCM", "pcm_s16le or pcm_s16be or pcm_s24le"),
        ("sound.codec", "PCM 24 bit", "pcm_s24le or pcm_s24be"),
        ("file.start_timecode", "ten o'clock", "hh:mm:ss:ff"),
        ("file.start_timecode", "25:00:00:00", "hh:mm:ss:ff"),
        ("motion.field_order", "", "Nothing is written"),
        ("file.brand", " ", "Nothing is written"),
    ],
)
def test_what_no_file_is_known_by_is_refused(key: str, said: str, hint: str) -> None:
    with pytest.raises(BadValue) as error:
        lookup(key).read(said)
    assert hint in error.value.sentence()
    with pytest.raises(ValidationError):
        Ask.model_validate({"property": key, "rule": {"one_of": [said]}})


@given(FILLED)
def test_every_word_stands_for_itself_and_what_is_shown_for_it(filled: tuple[str, str]) -> None:
    key, word = filled
    prop = lookup(key)
    assert prop.read(word) == word
    shown = prop.kind.show(word)
    if WORDS[key].also.get(fold(shown), ()) == (word,):
        assert (
            prop.read(shown) == prop.read(shown.upper()) == prop.read(f" {shown.lower()} ") == word
        )


def test_the_reader_knows_no_word_that_a_closed_list_leaves_out() -> None:
    """What headers can give, against the lists that refuse anything else."""
    given_by_reader = {
        "picture.matrix": names.MATRIX,
        "picture.primaries": names.PRIMARIES,
        "picture.transfer": names.TRANSFER,
        "picture.range": names.RANGE,
        "motion.field_order": names.FIELD_ORDER,
    }
    for key, table in given_by_reader.items():
        assert set(table.values()) <= set(WORDS[key].known), key
    from ample_crate.media.headers import CHROMA

    assert set(CHROMA.values()) <= set(WORDS["picture.chroma"].known)
    assert set(wrappers.DEMUXERS.values()) <= set(WORDS["file.wrapper"].known)


def test_words_that_are_said_alike_can_be_told_apart_in_an_editor() -> None:
    for prop in PROPERTIES.values():
        labels = [label for _, label in vocabulary.values(prop)]
        assert len(set(labels)) == len(labels), prop.key


def test_a_spec_written_in_peoples_words_judges_as_one_in_files_words() -> None:
    facts = Facts().with_values(
        "declared",
        {
            "file.wrapper": "mp4",
            "picture.codec": "h264",
            "picture.matrix": "BT.709",
            "motion.rate": Fraction(30000, 1001),
        },
    )
    said = spec(
        ("file.wrapper", {"one_of": ["MOV", "MP4"]}),
        ("picture.codec", {"is": "AVC"}),
        ("motion.rate", {"is": 29.97}),
        either=[
            {
                "name": "colour",
                "any": [
                    {"name": "a", "rules": {"picture.matrix": {"is": "rec709"}}},
                    {"name": "b", "rules": {"picture.matrix": {"is": "rec601"}}},
                ],
            }
        ],
        house={"file.wrapper": {"value": "MP4"}},
    )
    assert [
        f.verdict
        for f in ledger(facts.with_values("measured", {"motion.rate": Fraction(30000, 1001)}), said)
        if f.severity == "must"
    ] == ["meets"] * 4
    kept = document_of(said)
    assert (
        kept["requirements"][0]["rule"] == {"one_of": ["mov", "mp4"]}
        and kept["house"]["file.wrapper"]["value"] == "mp4"
    )
    assert kept["either"][0]["any"][1]["rules"]["picture.matrix"] == {"is": "BT.601"}


@pytest.mark.parametrize(
    ("key", "rule", "mended"),
    [
        ("picture.codec", {"is": "h2644"}, {"is": "h264"}),
        ("sound.codec", {"one_of": ["aac", "opsu"]}, {"one_of": ["aac", "opus"]}),
        ("file.wrapper", {"is": "webn"}, {"is": "webm"}),
        ("sound.language", {"is": "en"}, {"is": "eng"}),
        ("sound.language", {"is": "english"}, {"is": "eng"}),
        ("picture.tag", {"is": "avc"}, {"is": "avc1"}),
        ("file.wrapper", {"matches": "MP4|MOV"}, None),
        ("motion.scan", {"matches": "inter"}, None),
        # Figures out by their unit.
        (
            "picture.bit_rate",
            {"is": "50", "tolerance": "4 %"},
            {"is": "50 Mb/s", "tolerance": "4 %"},
        ),
        ("sound.bit_rate", {"at_least": "320"}, {"at_least": "320 kb/s"}),
        ("sound.sample_rate", {"one_of": ["48", "44.1 kHz"]}, {"one_of": ["48 kHz", "44.1 kHz"]}),
        ("picture.level", {"at_most": "41"}, {"at_most": "4.1"}),
        ("motion.rate", {"is": "2500"}, {"is": "25 fps"}),
        ("motion.rate", {"is": 2997}, {"is": "29.97 fps (30000/1001)"}),
        (
            "sound.loudness",
            {"is": 23, "tolerance": "1 LU"},
            {"is": "-23.0 LUFS", "tolerance": "1 LU"},
        ),
        ("sound.true_peak", {"at_most": 1}, {"at_most": "-1.0 dBTP"}),
        ("file.size", {"at_most": "25"}, {"at_most": "25.00 MB"}),
        ("sound.channels", {"is": 48000}, None),
        ("motion.frames", {"at_least": -1}, None),
        ("file.duration", {"is": "-5 s"}, None),
        ("picture.excursion", {"at_most": -1}, None),
    ],
)
def test_what_can_hardly_be_meant_is_told_with_what_was_meant(
    key: str, rule: dict[str, Any], mended: dict[str, Any] | None
) -> None:
    made = spec((key, rule))
    found = [c for c in contradictions(made) if c.kind in {"word", "reason"}]
    assert [c.properties for c in found] == [(key,)] and found[0].clauses
    assert found[0].grade == ("contradiction" if key == "motion.scan" else "doubt")
    if mended is None:
        assert not found[0].repair.changes
        return
    after = repaired(document_of(made), found[0].repair)
    assert after["requirements"][0]["rule"] == mended
    again = Spec.model_validate(after)
    assert [c for c in contradictions(again) if c.kind in {"word", "reason"}] == []


@pytest.mark.parametrize(
    ("key", "rule"),
    [
        ("picture.bit_rate", {"is": "50 Mb/s"}),
        ("picture.bit_rate", {"is": "10 kb/s"}),
        ("sound.sample_rate", {"is": "22.05 kHz"}),
        ("picture.level", {"is": "6.2"}),
        ("motion.rate", {"is": "23.976"}),
        ("sound.loudness", {"is": -23}),
        ("sound.true_peak", {"at_most": 0}),
        ("file.size", {"at_most": "1 kB"}),
        ("sound.start_offset", {"between": ["-20 ms", "20 ms"]}),
        ("sound.length_difference", {"at_least": "-1 s"}),
        ("motion.leader", {"is": "0 s"}),
        ("sound.channels", {"at_least": 0}),
        ("file.wrapper", {"matches": "mp4|mov"}),
        ("picture.tag", {"is": "xd5b"}),
        ("sound.language", {"matches": "[a-z]{2}"}),
    ],
)
def test_what_can_be_meant_is_left_alone(key: str, rule: dict[str, Any]) -> None:
    assert [c for c in contradictions(spec((key, rule))) if c.kind in {"word", "reason"}] == []
