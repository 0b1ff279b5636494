"""The words by which files are read, and the other ways in which people write them.

A spec says "MP4", "Rec. 709" or "CBR"; files are read as mp4, BT.709 and constant. What is written
is brought to the word by which files are read before anything is judged. Where nothing else can be
read of a file, another word is refused: no file could ever meet it.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from .. import formats
from ..errors import BadValue
from ..formats.codec import PictureCodec, SoundCodec
from ..formats.wrapper import Wrapper

TIMECODE = re.compile(r"(?:[01]\d|2[0-3]):[0-5]\d:[0-5]\d[:;]\d{2,3}")
FOUR = re.compile(r"[ -~]{4}")
APERTURE = re.compile(r"\d+(?:\.\d+)? x \d+(?:\.\d+)?")
ACTIVE = re.compile(r"\d+ x \d+ \+ \d+ \+ \d+")
LANGUAGE = re.compile(r"[a-z]{3}")
# Captions by ANSI/CTA-608-E and 708-E.
IN_PICTURE = "CEA-608/708 in the picture stream"


@dataclass(frozen=True)
class Words:
    """The words of one property.

    Attributes:
        known: as files are read.
        also: other writings of them, folded; several words where a writing does not say which.
        closed: whether nothing else can be read of a file.
        form: what any other word must look like, where only its form is known; and that in words.
        strict: whether what does not look like that is refused.
        spaced: whether signs stand between figures, with spaces about them.
    """

    known: tuple[str, ...]
    also: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    closed: bool = False
    form: tuple[re.Pattern[str], str] | None = None
    strict: bool = False
    spaced: bool = False

    def fits(self, word: str) -> bool:
        """Say whether files could be read by a word, as far as it is known here."""
        return word in self.known or (
            self.form is not None and self.form[0].fullmatch(word) is not None
        )

    def near(self, word: str) -> str | None:
        """Give the known word that was most likely meant, or None."""
        writings = {fold(w): w for w in self.known} | {a: ws[0] for a, ws in self.also.items()}
        folded = fold(word)
        found = difflib.get_close_matches(folded, writings, n=9)
        if not found:
            return None
        # Of those that are equally near, the one that is listed first.
        alike = difflib.SequenceMatcher(None, b=folded)
        best, ratio = "", 0.0
        for writing in sorted(found, key=[*writings].index):
            alike.set_seq1(writing)
            if alike.ratio() > ratio:
                best, ratio = writing, alike.ratio()
        return writings[best]


def fold(text: str) -> str:
    """Bring a writing to what it has in common with its like: small letters and figures alone."""
    return re.sub(r"[^a-z0-9]", "", text.casefold())


def words(
    known: Iterable[str],
    also: Mapping[str, Iterable[str]] | None = None,
    closed: bool = False,
    form: tuple[re.Pattern[str], str] | None = None,
    strict: bool = False,
    spaced: bool = False,
) -> Words:
    """Make words of those known, their spoken names, and other writings by word."""
    known = tuple(dict.fromkeys(known))
    writings: dict[str, list[str]] = {}
    for word in known:
        for writing in (word, formats.label(word), *(also or {}).get(word, ())):
            held = writings.setdefault(fold(writing), [])
            if word not in held:
                held.append(word)
    folded = {writing: tuple(held) for writing, held in writings.items()}
    return Words(known, folded, closed, form, strict, spaced)


def standards(*names: str) -> dict[str, tuple[str, ...]]:
    """Give the ways in which ITU-R recommendations are written: BT.709, Rec. 709, 709."""
    return {n: (f"rec{n[3:]}", n[3:], f"itu-r {n}") for n in names}


def of_rows(rows: Iterable[PictureCodec | SoundCodec | Wrapper]) -> Words:
    """Make words of the rows of a registry, by their labels."""
    listed = sorted(rows, key=lambda row: row.label.casefold())
    return words((row.key for row in listed), {row.key: row.also for row in listed})


POINTS = {n: a for c in formats.PICTURE.values() if c.levels for n, a in c.levels.also.items()}
PROFILES = [p for codec in formats.PICTURE.values() for p in codec.profiles]
# Layouts as the library names those that files carry; "5.1(side)" is read as 5.1.
LAYOUTS = (
    "mono",
    "stereo",
    "2.1",
    "3.0",
    "3.0(back)",
    "4.0",
    "quad",
    "quad(side)",
    "3.1",
    "5.0",
    "5.0(side)",
    "4.1",
    "5.1",
    "6.0",
    "6.1",
    "7.0",
    "7.1",
    "7.1(wide)",
    "octagonal",
)


def written(words: Words | None, label: str, text: str) -> str:
    """Bring what was written of a property to the word by which files are read.

    Args:
        words: of the property; None where it has none.
        label: its name, for the message.
        text: as it was written.

    Raises:
        BadValue: nothing that is read of a file could be that, or it may be one of several.
    """
    text = text.strip()
    if words is not None and words.spaced:
        spaced = re.sub(r"(?<=\d) *([x×+]) *(?=\d)", r" \1 ", text)
        text = " ".join(spaced.replace("×", "x").split())
    if not text:
        raise BadValue(f"Nothing is written for '{label}'.", "Write the word that is asked for.")
    if words is None or text in words.known:
        return text
    meant = words.also.get(fold(text), ()) if fold(text) else ()
    if len(meant) == 1:
        return meant[0]
    if meant:
        raise BadValue(
            f"'{text}' does not say which {label} is meant.",
            f"Write {' or '.join(meant)}; or several of them as one of.",
        )
    if words.closed:
        near = words.near(text)
        hint = f"Did you mean '{near}'? " if near else ""
        raise BadValue(
            f"'{text}' is none of the words for '{label}'.",
            f"{hint}It can be {', '.join(words.known)}.",
        )
    if words.strict and words.form is not None and not words.fits(text):
        raise BadValue(f"'{text}' is no {label}.", words.form[1])
    return text
