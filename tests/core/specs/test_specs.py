"""Specs as data: reading, refusing, and the three that ship."""

import pytest

from ample_crate.core.errors import BadSpec, BadValue
from ample_crate.core.specs.spec import check_choice
from ample_crate.core.specs.specfile import parse
from ample_crate.store import library

GOOD = """
id: small
version: 1
recipient: someone
title: Small
requirements:
  - property: picture.size
    rule: {is: 1280x720}
  - property: sound.bit_rate
    rule: {between: [96 kb/s, 330 kb/s]}
"""


@pytest.mark.parametrize(
    ("old", "new", "line", "says"),
    [
        ("title: Small", "title: Small\ncolour: red", 6, "'colour' is not known"),
        ("picture.size", "picture.sise", 7, "Did you mean picture.size"),
        ("{is: 1280x720}", "{is: 1280 by 720}", 7, "not a picture size"),
        ("{is: 1280x720}", "{equals: 1280x720}", 8, "'equals' is not known"),
        ("{is: 1280x720}", "{is: 1280x720, one_of: [1x1]}", 8, "exactly one of"),
        (
            "picture.size\n    rule: {is: 1280x720}",
            "picture.codec\n    rule: {at_most: h264}",
            7,
            "means nothing",
        ),
        ("{is: 1280x720}", "{matches: '[0-9]+'}", 7, "it is no text"),
        (
            "picture.size\n    rule: {is: 1280x720}",
            "picture.codec\n    rule: {matches: '(?=x)'}",
            7,
            "no regular expression",
        ),
        ("[96 kb/s, 330 kb/s]", "[330 kb/s, 96 kb/s]", 9, "backwards"),
        ("96 kb/s", "96 MB", 9, "not one for a bit rate"),
        ("version: 1", "version: 0", 3, "minimum"),
        ("  - property: picture.size", "  - property: picture.size\n   rule:", 8, ""),
    ],
)
def test_bad_specs_name_line_and_cause(old: str, new: str, line: int, says: str) -> None:
    with pytest.raises(BadSpec) as error:
        parse(GOOD.replace(old, new), "mine.yaml")
    message = error.value.what
    assert "mine.yaml" in message and error.value.way_out
    assert f"line {line}" in message, message
    assert says in message + error.value.way_out


def test_sentences_read_as_a_person_would_say_them() -> None:
    said = {r.property: r.sentence() for r in library.find("skerry-sd625").requirements}
    assert said["motion.intra_only"] == "Every frame must decode by itself."
    assert said["motion.field_order"] == "The field order must be upper first."
    assert said["sound.start_offset"] == "Sound and picture must start within 40 ms of each other."
    assert said["sound.loudness"] == "The sound's loudness should be -23.0 LUFS ± 1 LU."


def test_a_text_that_is_no_table_is_refused() -> None:
    with pytest.raises(BadSpec, match="not a spec"):
        parse("just words", "x.yaml")


def test_a_requirement_asked_twice_is_refused() -> None:
    twice = GOOD + "  - property: picture.size\n    rule: {is: 640x360}\n"
    with pytest.raises(BadSpec, match="asked for twice"):
        parse(twice, "x.yaml")


def test_choices_stay_in_the_room() -> None:
    spec = parse(GOOD, "x.yaml")
    assert check_choice(spec, "sound.bit_rate", "128 kb/s") == 128_000
    with pytest.raises(BadValue, match="outside what the spec allows"):
        check_choice(spec, "sound.bit_rate", "32 kb/s")


def test_a_house_choice_outside_the_room_is_refused() -> None:
    with pytest.raises(BadSpec, match="outside what the spec allows"):
        parse(GOOD + "house:\n  sound.bit_rate: {value: 500 kb/s}\n", "x.yaml")
