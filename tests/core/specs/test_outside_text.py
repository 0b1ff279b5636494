"""Every function of the core that takes text from outside ends on any text, with a result that fits
or one clear error.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from ample_crate.core.errors import AmpleError
from ample_crate.core.facts import corrections, search, sequences
from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.planning import programme
from ample_crate.core.specs import expressions, naming, specfile
from ample_crate.core.specs.naming import Pattern
from ample_crate.core.units import timecode, values
from support import master_facts

# Any text, and text of the characters that mean something to one of the readers.
TEXT = st.one_of(
    st.text(max_size=200),
    st.text(
        st.sampled_from("0123456789:;.,/-+eE xX%{}[]()*<>=\"'\\_ \0\n\ud800abGMkmbitBs"),
        max_size=200,
    ),
)
HUGE = "9" * 5000


def _pattern(text: str) -> object:
    made = Pattern(text, {"show": "[A-Z]{3}"}, "A-Z a-z 0-9 _ -", "any", 60)
    return made.fits("show", text)


READERS: dict[str, Callable[[str], Any]] = {
    "safe name": naming.safe_name,
    "slug": naming.slug,
    "stem": naming.stem,
    "in words": expressions.in_words,
    "episode": naming.episode,
    "pattern": _pattern,
    "search": search.read,
    "search words": lambda text: search.words(text, text, master_facts(), [text]),
    "timecode": lambda text: timecode.read(text, Fraction(30000, 1001)),
    "sequences": lambda text: sequences.gather(
        [text, text + "1.png", text + "2.png", text + "9999999999999999999.png"]
    ),
    "tracks": lambda text: programme.tracks(master_facts(sound_tracks=2), text),
    "spec file": lambda text: specfile.parse(text, "odd.yaml"),
    "recipients": lambda text: specfile.parse_recipients(text, "odd.yaml"),
    "fraction": values.fraction,
    "bytes": values.read_bytes,
    "bit count": values.read_bit_count,
    "bit rate": values.read_bit_rate,
    "hertz": values.read_hertz,
    "seconds": values.read_seconds,
    "decibel": values.read_decibel,
    "size": values.read_size,
    "flag": values.read_flag,
    "rate": values.read_rate,
    "count": values.read_count,
    "text": values.read_text,
}


@pytest.mark.parametrize("name", list(READERS))
@settings(max_examples=150)
@given(TEXT)
@example("")
@example("\0")
@example("\ud83d")
@example("x." + "y" * 300)
@example(HUGE)
@example("1e" + HUGE)
@example("1/0")
@example("[" * 3000)
@example("a: &a [*a, *a]\n")
@example("{" * 200 + "title" + "}" * 200)
def test_it_ends_with_a_result_or_one_clear_error(name: str, text: str) -> None:
    try:
        READERS[name](text)
    except AmpleError as error:
        assert error.what and error.way_out
        assert len(error.what) < 2000, "a message does not repeat a page of what was typed"


@pytest.mark.parametrize("key", corrections.CORRECTED)
@settings(max_examples=60)
@given(TEXT)
@example(HUGE)
@example("1e" + HUGE)
def test_a_correction_is_read_or_refused(key: str, text: str) -> None:
    try:
        value = corrections.check(key, text)
    except AmpleError as error:
        assert error.what and error.way_out
    else:
        kind = PROPERTIES[key].kind
        assert kind.show(value) and kind.read(kind.stored(value)) == value
