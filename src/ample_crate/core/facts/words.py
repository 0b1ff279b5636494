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


@dataclass(frozen=True)
class Words:
    """The words of one property.

    Attributes:
        known: as files are read.
        also: other writings of them, folded; several words where a writing does not say which.
        closed: whether nothing else can be read of a file.
        form: what any other word must look like, where only its form is known.
    """

    known: tuple[str, ...]
    also: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    closed: bool = False
    form: tuple[re.Pattern[str], str] | None = None

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


def _words(
    known: Iterable[str],
    also: Mapping[str, Iterable[str]] | None = None,
    closed: bool = False,
    form: tuple[re.Pattern[str], str] | None = None,
) -> Words:
    """Make words of those known, their spoken names, and other writings by word."""
    known = tuple(dict.fromkeys(known))
    writings: dict[str, list[str]] = {}
    for word in known:
        for writing in (word, formats.label(word), *(also or {}).get(word, ())):
            held = writings.setdefault(fold(writing), [])
            if word not in held:
                held.append(word)
    return Words(
        known, {writing: tuple(words) for writing, words in writings.items()}, closed, form
    )


def _standards(*names: str) -> dict[str, tuple[str, ...]]:
    """Give the ways in which ITU-R recommendations are written: BT.709, Rec. 709, 709."""
    return {n: (f"rec{n[3:]}", n[3:], f"itu-r {n}") for n in names}


def _rows(rows: Iterable[PictureCodec | SoundCodec | Wrapper]) -> Words:
    """Make words of the rows of a registry, by their labels."""
    listed = sorted(rows, key=lambda row: row.label.casefold())
    return _words((row.key for row in listed), {row.key: row.also for row in listed})


_POINTS = {n: a for c in formats.PICTURE.values() if c.levels for n, a in c.levels.also.items()}
_PROFILES = [p for codec in formats.PICTURE.values() for p in codec.profiles]
# Layouts as the library names those that files carry; "5.1(side)" is read as 5.1.
_LAYOUTS = (
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

WORDS: dict[str, Words] = {
    "picture.codec": _rows(formats.PICTURE.values()),
    "picture.profile": _words((p.name for p in _PROFILES), {p.name: p.also for p in _PROFILES}),
    "picture.profile_level": _words(_POINTS, _POINTS),
    "picture.tag": _words(formats.TAGS, form=(FOUR, "It is four characters.")),
    "picture.chroma": _words(("4:2:0", "4:2:2", "4:4:4", "4:1:1", "4:1:0", "R'G'B'"), closed=True),
    "picture.alpha_mode": _words(
        ("straight", "premultiplied"),
        {"straight": ("unassociated",), "premultiplied": ("associated",)},
        closed=True,
    ),
    "picture.alpha_use": _words(("used", "wholly opaque", "wholly clear", "constant"), closed=True),
    "picture.range": _words(
        ("limited", "full"),
        {"limited": ("legal", "video", "narrow", "16-235", "tv"), "full": ("0-255", "pc")},
        closed=True,
    ),
    # The points of ISO/IEC 23091-2 that the trade uses.
    "picture.matrix": _words(
        (
            "BT.601",
            "BT.709",
            "BT.2020",
            "RGB",
            "SMPTE 240M",
            "YCgCo",
            "BT.2020 constant luminance",
            "ICtCp",
        ),
        _standards("BT.709")
        | {
            "BT.601": ("rec601", "601", "itu-r bt.601", "SMPTE 170M", "BT.470BG"),
            "SMPTE 240M": ("240M",),
            "BT.2020": (
                "rec2020",
                "2020",
                "itu-r bt.2020",
                "BT.2020 NCL",
                "BT.2020 non-constant luminance",
            ),
            "BT.2020 constant luminance": ("BT.2020 CL",),
        },
        closed=True,
    ),
    "picture.primaries": _words(
        ("BT.601", "BT.709", "BT.2020", "P3-D65", "P3-DCI", "XYZ", "SMPTE 240M"),
        _standards("BT.601", "BT.709", "BT.2020")
        | {
            "P3-D65": ("P3", "P3 D65", "DCI-P3 D65", "SMPTE EG 432-1"),
            "P3-DCI": ("P3", "DCI-P3", "SMPTE RP 431-2"),
            "XYZ": ("CIE XYZ", "SMPTE ST 428-1"),
            "SMPTE 240M": ("240M",),
        },
        closed=True,
    ),
    "picture.transfer": _words(
        (
            "BT.709",
            "BT.601",
            "BT.2020",
            "PQ",
            "HLG",
            "log",
            "linear",
            "sRGB",
            "BT.470BG",
            "gamma 2.2",
            "SMPTE 240M",
            "SMPTE ST 428",
        ),
        _standards("BT.601", "BT.709", "BT.2020")
        | {
            "PQ": ("ST 2084", "SMPTE ST 2084", "SMPTE 2084"),
            "HLG": ("ARIB STD-B67", "hybrid log-gamma"),
            "log": ("logarithmic",),
            "SMPTE ST 428": ("ST 428", "gamma 2.6"),
        },
        closed=True,
    ),
    "picture.rate_mode": _words(
        ("constant", "variable"),
        {"constant": ("CBR", "constant bit rate"), "variable": ("VBR", "variable bit rate")},
        closed=True,
    ),
    "motion.scan": _words(
        ("progressive", "interlaced"),
        {"progressive": ("prog", "p"), "interlaced": ("interlace", "i")},
        closed=True,
    ),
    "motion.field_order": _words(
        ("upper first", "lower first", "none"),
        {
            "none": ("progressive", "no fields"),
            "upper first": ("upper", "upper field first", "TFF", "top first", "top field first"),
            "lower first": (
                "lower",
                "lower field first",
                "BFF",
                "bottom first",
                "bottom field first",
            ),
        },
        closed=True,
    ),
    "motion.lines": _words(("upper first", "lower first", "whole frames"), closed=True),
    "sound.codec": _rows(formats.SOUND.values()),
    "sound.layout": _words(
        _LAYOUTS,
        {
            "mono": ("1.0", "1 channel"),
            "stereo": ("2.0", "L R", "2 channels"),
            "5.1": ("5.1(side)", "5.1 surround"),
            "7.1": ("7.1 surround",),
        },
    ),
    "sound.language": _words(
        ("eng", "fra", "deu", "spa", "nld", "swe", "nor", "und"),
        form=(LANGUAGE, "Files carry three letters, ISO 639-2."),
    ),
    "file.wrapper": _rows(formats.WRAPPERS.values()),
    "picture.active": Words(
        (), form=(ACTIVE, "Write width x height + left + top, such as 1920 x 800 + 0 + 140.")
    ),
    "picture.clean_aperture": Words(
        (), form=(APERTURE, "Write width x height, such as 702 x 576.")
    ),
    # Not to be folded: what stands before the frames tells drop-frame counting from the other.
    "file.start_timecode": Words(
        ("00:00:00:00", "01:00:00:00", "10:00:00:00"),
        form=(TIMECODE, "Write hh:mm:ss:ff, or hh:mm:ss;ff with drop-frame."),
    ),
}


def written(key: str, label: str, text: str) -> str:
    """Bring what was written of a property to the word by which files are read.

    Args:
        key: of the property, without a track's number.
        label: its name, for the message.
        text: as it was written.

    Raises:
        BadValue: nothing that is read of a file could be that, or it may be one of several.
    """
    words = WORDS.get(key)
    text = text.strip()
    if key in {"picture.active", "picture.clean_aperture"}:
        text = " ".join(
            re.sub(r"(?<=\d) *([x×+]) *(?=\d)", r" \1 ", text).replace("×", "x").split()
        )
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
    if key == "file.start_timecode" and not words.fits(text):
        raise BadValue(
            f"'{text}' is no timecode.", "Write hh:mm:ss:ff, or hh:mm:ss;ff with drop-frame."
        )
    return text
