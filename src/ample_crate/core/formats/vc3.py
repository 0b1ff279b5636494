"""VC-3 (SMPTE ST 2019-1), and its kind that goes with any frame size.

Every frame has the same bytes. Those of the compression ids at 1920x1080, 1440x1080, 1280x720 and
960x720 are from memory, as is how the others come about: macroblocks times a scale, in whole units
of 4096. The conformance test holds both against what the codec library makes.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import NamedTuple

from ..units.values import Size
from .codec import Y22_ALONE, Y24_ALONE, PictureCodec, PictureMaking, Pixels, Profile, of
from .size import FixedPerFrame, Frame


class Row(NamedTuple):
    """One compression id: frame, scan, bits a sample, bytes a frame."""

    size: Size
    interlaced: bool
    depth: int
    bytes: int


HD, NARROW, SMALL = Size(1920, 1080), Size(1440, 1080), Size(1280, 720)
ROWS = (
    Row(HD, False, 8, 188_416),
    Row(HD, False, 8, 606_208),
    Row(HD, False, 8, 917_504),
    Row(HD, False, 10, 917_504),
    Row(HD, True, 8, 606_208),
    Row(HD, True, 8, 917_504),
    Row(HD, True, 10, 917_504),
    Row(NARROW, False, 8, 417_792),
    Row(SMALL, False, 8, 303_104),
    Row(SMALL, False, 8, 458_752),
    Row(SMALL, False, 10, 458_752),
    Row(Size(960, 720), False, 8, 212_992),
)
# Of the kind that goes with any frame: bytes a macroblock.
SCALES = {
    "dnxhr lb": Fraction(5888, 255),
    "dnxhr sq": Fraction(17408, 255),
    "dnxhr hq": Fraction(28672, 255),
    "dnxhr hqx": Fraction(28672, 255),
    "dnxhr 444": Fraction(57344, 255),
}
UNIT = 4096


def sizes(profile: str, frame: Frame) -> Sequence[int]:
    """Give the bytes that a frame may have, least first."""
    if profile in SCALES:
        size = frame.size
        blocks = -(-size.width // 16) * -(-size.height // 16)
        units = int(blocks * SCALES[profile] + UNIT // 2) // UNIT
        return [max(2, units) * UNIT]
    held = (r for r in ROWS if (r.size, r.interlaced) == (frame.size, frame.interlaced))
    return sorted(r.bytes for r in held if r.depth == frame.depth)


def says(profile: str) -> str:
    """Say what a profile holds."""
    if profile in SCALES:
        return "whole frames of any size"
    frames = [f"{r.size}{' in fields' if r.interlaced else ''}" for r in ROWS]
    return ", ".join(dict.fromkeys(frames))


PLAIN, DEEP, WIDE = Pixels("4:2:2", 8), Pixels("4:2:2", 10), Pixels("4:4:4", 10)


def _scaled(name: str, pixels: Pixels, depth: int) -> Profile:
    chromas = Y24_ALONE if pixels.chroma == "4:4:4" else Y22_ALONE
    return Profile(name, chromas, depth, made=(pixels,), fields=False, source="ST 2019-1")


CODECS = (
    PictureCodec(
        "dnxhd",
        "VC-3",
        wrappers=of("mxf", "mov"),
        profiles=(
            Profile("dnxhd", Y22_ALONE | Y24_ALONE, 10, made=(PLAIN, DEEP)),
            _scaled("dnxhr lb", PLAIN, 8),
            _scaled("dnxhr sq", PLAIN, 8),
            _scaled("dnxhr hq", PLAIN, 8),
            _scaled("dnxhr hqx", DEEP, 12),
            _scaled("dnxhr 444", WIDE, 12),
        ),
        intra=True,
        tags=("AVdn", "AVdh"),
        made=PictureMaking("dnxhr hq", of("mxf", "mov"), FixedPerFrame(sizes, says), 40.0),
    ),
)
