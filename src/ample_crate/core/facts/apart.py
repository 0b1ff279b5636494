"""Facts of a picture and of sound that lie in files of their own, as facts of one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import Any

from .. import formats
from .facts import NOTHING, PROVENANCES, Fact, Facts
from .properties import split_track, track_key

SEPARATE = next(row.key for row in formats.WRAPPERS.values() if row.parts)
LENGTH = "file.duration"
ADDED = ("file.size", "file.bit_rate")  # over all files
_VOICES = (*PROVENANCES, "second")


def joined(every: Sequence[Facts]) -> Facts:
    """Join the facts of files that belong together: the picture's first, then one of sound for each
    track.

    They have no clock in common: all begin with their first frame, and how much longer a track is
    than the picture is the difference of their lengths.
    """
    picture, *others = every
    table = dict(picture)
    for track, one in enumerate(others, 1):
        for key, fact in one.items():
            base, number = split_track(key)
            if base.startswith("sound.") and base != "sound.tracks":
                table[track_key(base, track + number - 1)] = fact
        lengths = [picture.fact(LENGTH), one.fact(LENGTH)]
        table[track_key("sound.start_offset", track)] = _said(lengths, lambda _: Fraction(0))
        table[track_key("sound.length_difference", track)] = _said(lengths, _difference)
    table["sound.tracks"] = _said([one.fact("sound.tracks") for one in every], sum)
    for key in ADDED:
        table[key] = _said([one.fact(key) for one in every], sum)
    table["file.wrapper"] = _said([picture.fact("file.wrapper")], lambda _: SEPARATE)
    return Facts({key: fact for key, fact in table.items() if fact != NOTHING})


def _difference(lengths: list[Any]) -> Fraction:
    return Fraction(lengths[1]) - Fraction(lengths[0])


def _said(facts: Sequence[Fact], of: Callable[[list[Any]], Any]) -> Fact:
    """Work out of several facts what each source says that knows all of them."""
    said = {voice: [getattr(fact, voice) for fact in facts] for voice in _VOICES}
    known = {voice: of(v) for voice, v in said.items() if all(one is not None for one in v)}
    return Fact(**known)
