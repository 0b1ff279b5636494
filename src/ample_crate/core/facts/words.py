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

from ..errors import BadValue
from ..formats import carriage
from ..formats.codecs import SPOKEN

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
        found = difflib.get_close_matches(fold(word), writings, n=1)
        return writings[found[0]] if found else None


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
        for writing in (word, SPOKEN.get(word, word), *(also or {}).get(word, ())):
            held = writings.setdefault(fold(writing), [])
            if word not in held:
                held.append(word)
    return Words(
        known, {writing: tuple(words) for writing, words in writings.items()}, closed, form
    )


def _standards(*names: str) -> dict[str, tuple[str, ...]]:
    """Give the ways in which ITU-R recommendations are written: BT.709, Rec. 709, 709."""
    return {n: (f"rec{n[3:]}", n[3:], f"itu-r {n}") for n in names}


# The points that ISO/IEC 13818-2 defines, by the short names of the trade: MP@ML, 422P@HL (from
# memory).
_MPEG2 = {
    "main@low": ("MP@LL",),
    "main@main": ("MP@ML",),
    "main@high 1440": ("MP@H-14", "MP@H1440"),
    "main@high": ("MP@HL",),
    "4:2:2@main": ("422P@ML", "422@ML"),
    "4:2:2@high": ("422P@HL", "422@HL"),
    "simple@main": ("SP@ML",),
    "high@main": ("HP@ML",),
    "high@high 1440": ("HP@H-14", "HP@H1440"),
    "high@high": ("HP@HL",),
}
_PCM = ("pcm_s16le", "pcm_s24le", "pcm_s32le", "pcm_f32le", "pcm_s16be", "pcm_s24be")
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
    "picture.codec": _words(
        (
            *carriage.PICTURE,
            "mpeg1video",
            "mpeg4",
            "exr",
            "wmv2",
            "rawvideo",
            "v210",
            "r210",
            "jpeg2000",
            "qtrle",
            "huffyuv",
            "theora",
            "vc1",
            "bmp",
            "gif",
        ),
        {
            "h264": ("AVC", "MPEG-4 AVC", "MPEG-4 part 10"),
            "hevc": ("H.265",),
            "mpeg2video": ("H.262", "MPEG-2 video"),
            "mpeg1video": ("MPEG-1 video",),
            "mjpeg": ("MJPG", "JPEG"),
            "vc1": ("VC-1",),
            "jpeg2000": ("JPEG 2000", "J2K"),
            "exr": ("EXR",),
        },
    ),
    "picture.profile": _words(
        (p for c in carriage.PICTURE.values() for p in c.profiles),
        {
            "high 4:2:2": ("Hi422",),
            "high 10": ("Hi10",),
            "4:2:2": ("422P",),
            "baseline": ("constrained baseline",),
        },
    ),
    "picture.profile_level": _words(_MPEG2, _MPEG2),
    "picture.tag": _words(
        (
            "avc1",
            "hvc1",
            "hev1",
            "apcn",
            "apch",
            "ap4h",
            "Hap1",
            "Hap5",
            "HapY",
            "apco",
            "apcs",
            "ap4x",
            "mp4v",
            "m2v1",
        ),
        form=(FOUR, "It is four characters."),
    ),
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
    "sound.codec": _words(
        (
            *carriage.SOUND,
            "alac",
            "wmav2",
            "dts",
            "truehd",
            "mp1",
            "pcm_u8",
            "pcm_s32be",
            "pcm_f32be",
            "pcm_bluray",
            "pcm_dvd",
            "s302m",
        ),
        {
            "aac": ("AAC-LC", "MPEG-4 AAC"),
            "mp2": ("MPEG-1 layer II", "MPEG layer 2", "layer 2", "MPEG-1 audio layer 2"),
            "mp3": ("layer 3", "MPEG-1 layer III"),
            "eac3": ("E-AC-3", "EC-3"),
            "s302m": ("ST 302", "SMPTE 302M"),
            **{name: ("PCM", "LPCM", "linear PCM", "uncompressed") for name in _PCM},
        },
    ),
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
    "file.wrapper": _words(
        (
            "mp4",
            "mov",
            "mxf",
            "mpeg-ps",
            "mpeg-ts",
            "matroska",
            "webm",
            "avi",
            "mpeg-es",
            "h264-es",
            "hevc-es",
            "mpeg4-es",
            "still image",
            "image sequence",
            "wav",
            "aiff",
            "flac",
            "mp3",
            "ogg",
            "ac3",
            "adts",
            "flv",
            "asf",
            "gxf",
            "dv",
            "realmedia",
        ),
        {
            "mov": ("QT",),
            "matroska": ("MKV",),
            "asf": ("WMV",),
            "wav": ("WAVE", "BWF", "RF64"),
            "aiff": ("AIF",),
            "still image": ("still",),
            "mpeg-ps": ("program stream", "MPEG-2 program stream", "PS", "VOB", "MPG"),
            "mpeg-ts": ("transport stream", "MPEG-2 transport stream", "TS", "M2TS"),
            "mpeg-es": ("MPEG elementary stream", "M2V"),
            "image sequence": ("sequence",),
        },
    ),
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
