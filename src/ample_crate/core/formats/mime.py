"""Media types with the codecs parameter of RFC 6381, and the HTML snippet that plays a file.

Sources: RFC 6381 section 3.3 and ISO/IEC 14496-15 Annex E (avc1, hvc1); the VP9 and AV1 strings are
those of their ISO-BMFF bindings. Written from memory; tests/browser hands those that Chromium plays
to it.
"""

from __future__ import annotations

from fractions import Fraction
from html import escape

from ..facts import Facts
from ..units.values import Size

TYPES = {"mp4": "video/mp4", "webm": "video/webm", "mov": "video/quicktime"}
SOUND = {
    "aac": "mp4a.40.2",
    "mp3": "mp4a.6B",
    "opus": "opus",
    "vorbis": "vorbis",
    "ac3": "ac-3",
    "eac3": "ec-3",
    "flac": "flac",
}
# VP9 levels by luma samples a second and a picture (VP9 bit-stream overview, Annex A; from memory).
VP9_LEVELS = (
    (10, 829_440, 36_864),
    (11, 2_764_800, 73_728),
    (20, 4_608_000, 122_880),
    (21, 9_216_000, 245_760),
    (30, 20_736_000, 552_960),
    (31, 36_864_000, 983_040),
    (40, 83_558_400, 2_228_224),
    (41, 160_432_128, 2_228_224),
    (50, 311_951_360, 8_912_896),
    (51, 588_251_136, 8_912_896),
    (52, 1_176_502_272, 8_912_896),
    (60, 1_176_502_272, 35_651_584),
    (61, 2_353_004_544, 35_651_584),
    (62, 4_706_009_088, 35_651_584),
)


def avc(configuration: bytes) -> str | None:
    """Give "avc1.PPCCLL" from an avcC record or an Annex B stream's head; None where neither is
    there.
    """
    if configuration[:1] == b"\x01" and len(configuration) >= 4:
        return f"avc1.{configuration[1:4].hex().upper()}"
    at = configuration.find(b"\x00\x00\x01")
    while 0 <= at < len(configuration) - 6:
        if configuration[at + 3] & 0x1F == 7:
            return f"avc1.{configuration[at + 4 : at + 7].hex().upper()}"
        at = configuration.find(b"\x00\x00\x01", at + 3)
    return None


def hevc(configuration: bytes, tag: str = "hvc1") -> str | None:
    """Give "hvc1.…" from an hvcC record; None where there is none."""
    if configuration[:1] != b"\x01" or len(configuration) < 13:
        return None
    head = configuration[1]
    space = ["", "A", "B", "C"][head >> 6]
    flags = int(f"{int.from_bytes(configuration[2:6], 'big'):032b}"[::-1], 2)
    constraints = configuration[6:12].rstrip(b"\x00")
    parts = [
        f"{space}{head & 31}",
        f"{flags:X}",
        f"{'H' if head & 32 else 'L'}{configuration[12]}",
        *(f"{b:X}" for b in constraints),
    ]
    return f"{tag}.{'.'.join(parts)}"


def av1(configuration: bytes) -> str | None:
    """Give "av01.P.LLT.DD" from an av1C record; None where there is none."""
    if len(configuration) < 3 or configuration[0] != 0x81:
        return None
    profile, level = configuration[1] >> 5, configuration[1] & 31
    tier, deep, deeper = configuration[2] >> 7, configuration[2] >> 6 & 1, configuration[2] >> 5 & 1
    depth = 12 if deep and deeper else 10 if deep else 8
    return f"av01.{profile}.{level:02d}{'H' if tier else 'M'}.{depth:02d}"


def vp9(profile: int, size: Size, rate: Fraction, depth: int) -> str:
    """Give "vp09.PP.LL.DD"; the level is the lowest that holds the picture."""
    samples = size.width * size.height
    level = next(
        (n for n, second, picture in VP9_LEVELS if samples <= picture and samples * rate <= second),
        62,
    )
    return f"vp09.{profile:02d}.{level}.{depth:02d}"


def media_type(facts: Facts) -> str | None:
    """Give the media type with its codecs, `video/mp4; codecs="avc1.640028, mp4a.40.2"`; None where
    a browser has no name for it.
    """
    kind = TYPES.get(str(facts.value("file.wrapper")))
    picture, sound = facts.value("picture.codec_string"), SOUND.get(str(facts.value("sound.codec")))
    if kind is None or picture is None:
        return None
    codecs = [picture, *([sound] if sound and facts.value("sound.tracks") else [])]
    return f'{kind}; codecs="{", ".join(codecs)}"'


def plays_in_a_browser(facts: Facts) -> bool:
    """Say whether a browser can play a file as it is."""
    return (
        facts.value("picture.codec") == "h264"
        and facts.value("file.wrapper") in {"mp4", "mov"}
        and facts.value("picture.chroma") == "4:2:0"
        and facts.value("picture.bit_depth") == 8
        and facts.value("motion.scan") == "progressive"
    )


def snippet(name: str, facts: Facts, title: str = "") -> str:
    """Give the lines of HTML that play a file from the page's own folder: its type, its size as
    shown, its title.
    """
    size, shape = facts.value("picture.size"), facts.fraction("picture.display_aspect")
    height = size.height if size else 0
    width = round(height * shape) if shape else size.width if size else 0
    kind = media_type(facts)
    typed = f" type='{escape(kind, quote=False)}'" if kind else ""
    label = f' title="{escape(title)}"' if title else ""
    return (
        f'<video controls preload="metadata" width="{width}" height="{height}"{label}>\n'
        f'  <source src="{escape(name)}"{typed}>\n'
        f'  <p>Your browser does not play this film. <a href="{escape(name)}">Fetch the '
        f"file</a>.</p>\n"
        "</video>\n"
    )
