"""Codecs of whole frames without profiles that specs name: Motion JPEG, FFV1 (RFC 9043), DV (IEC
61834, SMPTE ST 314).
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from ..units.fields import FieldOrder
from ..units.values import Size
from .codec import PictureCodec, PictureMaking, Profile, of
from .pixels import Y24, Pixels
from .size import ByContent, FixedPerFrame, Frame, Lossless


def _dv(size: Size, rate: Fraction, pixels: Pixels, aspect: Fraction) -> Frame:
    return Frame(size, rate, FieldOrder.LOWER, pixels, aspect)


LINES_625, LINES_525 = Size(720, 576), Size(720, 480)
PAL, NTSC = Fraction(25), Fraction(30000, 1001)
WIDE_625, WIDE_525 = Fraction(64, 45), Fraction(32, 27)
# Bytes of a frame: ten (525 lines) or twelve (625) sequences of 150 blocks of 80 bytes, and twice
# as many at 50 Mb/s (IEC 61834-2, SMPTE ST 314; from memory).
DV = {
    _dv(LINES_625, PAL, Pixels("4:2:0", 8), WIDE_625): 144_000,
    _dv(LINES_525, NTSC, Pixels("4:1:1", 8), WIDE_525): 120_000,
    _dv(LINES_625, PAL, Pixels("4:2:2", 8), WIDE_625): 288_000,
    _dv(LINES_525, NTSC, Pixels("4:2:2", 8), WIDE_525): 240_000,
}


def dv_sizes(profile: str, frame: Frame) -> Sequence[int]:
    """Give the bytes that every frame has; its stream knows pixels of 4:3 and 16:9 alone."""
    held = (f for f in DV if frame._replace(aspect=f.aspect) == f)
    return tuple(DV[f] for f in held)


def jpeg_unstated(profile: str, wrapper: str) -> frozenset[str]:
    """Give what nobody states: JFIF (ITU-T T.871) fixes matrix and range alone."""
    told = wrapper in {"mov", "matroska"}
    return of() if told else of("picture.primaries", "picture.transfer")


def dv_unstated(profile: str, wrapper: str) -> frozenset[str]:
    """Give what nobody states."""
    return of("picture.range")


CODECS = (
    PictureCodec(
        "mjpeg",
        "Motion JPEG",
        also=("MJPG", "JPEG"),
        wrappers=of("mov", "avi", "matroska", "mp4", "still image", "image sequence"),
        profiles=(
            Profile(
                "baseline",
                Y24,
                8,
                made=(Pixels("4:2:2", 8), Pixels("4:2:0", 8)),
                fields=False,
            ),
        ),
        rated=False,
        intra=True,
        extension=".jpg",
        made=PictureMaking(
            "baseline",
            of("mov", "avi", "matroska", "still image", "image sequence"),
            # At the quality taken here a drawn film has 0.3 bits a luma sample, noise 9.4 (tried);
            # 1.25 are taken for pictures of a camera (common practice).
            ByContent({"baseline": ((1 << 30, 320),)}, least=20, overshoot=Fraction(7)),
            60.0,
            fields=False,
            frames_alone=True,
            full_range=True,
            matrix="BT.601",
            unstated=jpeg_unstated,
        ),
    ),
    PictureCodec(
        "ffv1",
        "FFV1",
        wrappers=of("matroska", "avi", "mov"),
        alpha=True,
        rated=False,
        intra=True,
        made=PictureMaking(
            "",
            of("matroska"),
            Lossless(),
            30.0,
            frames_alone=True,
            layouts=(
                Pixels("4:2:2", 10),
                Pixels("4:2:2", 8),
                Pixels("4:2:0", 8),
                Pixels("4:4:4", 10),
                Pixels("4:4:4", 10, alpha=True),
            ),
        ),
    ),
    PictureCodec(
        "dvvideo",
        "DV",
        wrappers=of("dv", "avi", "mov", "mxf"),
        rated=False,
        intra=True,
        made=PictureMaking(
            "",
            of("mov"),
            FixedPerFrame(dv_sizes, lambda profile: tuple(DV)),
            60.0,
            frames_alone=True,
            layouts=tuple(dict.fromkeys(frame.pixels for frame in DV)),
            unstated=dv_unstated,
        ),
    ),
)
