"""MPEG-1 and MPEG-2 video: profiles, level limits and headers.

Source: ISO/IEC 13818-2 (ITU-T H.262), of it Tables 8-11 to 8-14 (sampling density, luminance sample
rate, bit rate and VBV buffer, for the main profile and the 4:2:2 profile). Written from memory; the
levels by size are checked in tests/outside against those an independent encoder writes.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import ceil

from ..units.fields import FieldOrder
from ..units.values import Size, show_bit_rate
from .bitstream import Bits, RateBuffer
from .codec import PictureCodec, PictureMaking, Profile, of
from .levels import Level, Levels
from .pixels import Y20, Y22, Pixels
from .size import FixedPerFrame, Frame, RateControlled


@dataclass(frozen=True)
class Row:
    """One profile at one level.

    Attributes:
        name: as profile@level, such as main@main.
        width, height: the largest frame in samples.
        rate: the highest frame rate.
        samples: luma samples a second.
        bit_rate: b/s.
        buffer: VBV buffer in bits.
    """

    name: str
    width: int
    height: int
    rate: int
    samples: int
    bit_rate: int
    buffer: int


TABLES_8_11_TO_8_13: tuple[Row, ...] = (
    Row("main@low", 352, 288, 30, 3_041_280, 4_000_000, 475_136),
    Row("main@main", 720, 576, 30, 10_368_000, 15_000_000, 1_835_008),
    Row("main@high 1440", 1440, 1152, 60, 47_001_600, 60_000_000, 7_340_032),
    Row("main@high", 1920, 1152, 60, 62_668_800, 80_000_000, 9_781_248),
    Row("4:2:2@main", 720, 608, 30, 11_059_200, 50_000_000, 9_437_184),
    Row("4:2:2@high", 1920, 1088, 60, 62_668_800, 300_000_000, 47_185_920),
)
# Table 8-12 allows 4:2:2@main its 608 lines at up to 25 frames a second, and 512 at up to 30.
LINES_OVER_25 = 512


def holds_picture(row: Row, size: Size, rate: Fraction) -> bool:
    """Say whether a level holds a frame size at a rate."""
    fits = size.width <= row.width and size.height <= row.height and rate <= row.rate
    if row.name == "4:2:2@main" and rate > 25 and size.height > LINES_OVER_25:
        return False
    return fits and size.width * size.height * rate <= row.samples


def _level(row: Row) -> Level:
    return Level(
        row.name,
        row.bit_rate,
        row.buffer,
        f"{row.width} x {row.height} at up to {row.rate} fps, {show_bit_rate(row.bit_rate)}",
        lambda load: holds_picture(row, load.size, load.rate),
    )


# The level numbers of main profile and, at the end, of 4:2:2 profile (Tables 8-3 and 8-4).
NUMBERS = {10: "low", 8: "main", 6: "high 1440", 4: "high", 5: "main", 2: "high"}
# The points that ISO/IEC 13818-2 defines, by the short names of the trade (from memory).
POINTS = {
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
LEVELS = Levels(
    "ISO/IEC 13818-2 Tables 8-11 to 8-13",
    lambda profile: [_level(row) for row in TABLES_8_11_TO_8_13],
    named_with_profile=True,
    also=POINTS,
    # The library's writer of MXF has no label for it.
    untold={"mxf": frozenset({"main@low"})},
    number=lambda profile, number: f"{profile}@{NUMBERS[number]}" if number in NUMBERS else None,
)
SLICES = re.compile(rb"\x00\x00\x01[\x01-\xaf]", re.DOTALL)  # Table 6-1
RATE_UNIT = 400  # b/s, of the same header
BUFFER_UNIT = 16 * 1024  # bits; a sequence header gives the buffer in whole units (6.3.3)


class _Stream:
    """Reads coded frames of MPEG-2."""

    def length_size(self, extradata: bytes) -> int:
        return 0

    def slices(self, frame: bytes, length_size: int) -> int:
        return len(SLICES.findall(frame))

    def rate_buffer(self, data: bytes) -> RateBuffer | None:
        """Read the sequence header and its extension: 6.2.2.1 and 6.2.2.3."""
        head = data.find(b"\x00\x00\x01\xb3")
        if head < 0:
            return None
        bits = Bits(data[head + 4 : head + 12])
        bits.skip(12 + 12 + 4 + 4)
        rate = bits.read(18)
        bits.skip(1)
        size = bits.read(10)
        extension = data.find(b"\x00\x00\x01\xb5", head)
        if extension >= 0 and data[extension + 4] >> 4 == 1:
            more = Bits(data[extension + 4 : extension + 10])
            more.skip(4 + 8 + 1 + 2 + 2 + 2)
            rate |= more.read(12) << 18
            more.skip(1)
            size |= more.read(8) << 10
        return RateBuffer(rate * RATE_UNIT, size * BUFFER_UNIT) if rate and size else None


def least_slices(size: Size, interlaced: bool) -> int:
    """Count the slices that a frame has at least: one a row of macroblocks (6.1.2)."""
    if interlaced:
        return 2 * ceil(Fraction(size.height, 32))
    return ceil(Fraction(size.height, 16))


# SMPTE ST 356 and ST 386: bytes of every frame at 30, 40 and 50 Mb/s; those at 50 Mb/s by the
# handbook of the trade, the others in proportion to them (from memory).
LINES_625, LINES_525 = Size(720, 608), Size(720, 512)
NTSC = Fraction(30000, 1001)


def _d10(size: Size, rate: Fraction, first: FieldOrder, wide: Fraction) -> Frame:
    return Frame(size, rate, first, Pixels("4:2:2", 8), wide)


LADDER = (1, 2, 4, 7, 12, 20, 31)
D10 = {
    _d10(LINES_625, Fraction(25), FieldOrder.UPPER, Fraction(64, 45)): (150_000, 200_000, 250_000),
    _d10(LINES_525, NTSC, FieldOrder.LOWER, Fraction(32, 27)): (125_125, 166_833, 208_541),
}


def d10_sizes(profile: str, frame: Frame) -> Sequence[int]:
    """Give the bytes that a frame of D-10 may have."""
    held = (f for f in D10 if frame.fields and f.size == frame.size and f.rate == frame.rate)
    return next((D10[f] for f in held), ())


MPEG2 = PictureCodec(
    "mpeg2video",
    "MPEG-2",
    also=("H.262", "MPEG-2 video"),
    # SMPTE ST 381, ST 386.
    wrappers=of("mpeg-ps", "mpeg-ts", "mxf", "mov", "matroska", "mpeg-es", "avi"),
    profiles=(
        Profile("simple", Y20, 8, reorders=False, source="ISO/IEC 13818-2 Table 8-2"),
        Profile("main", Y20, 8, made=(Pixels("4:2:0", 8),)),
        Profile("4:2:2", Y22, 8, also=("422P",), made=(Pixels("4:2:2", 8),)),
        Profile("high", Y22, 8),
    ),
    long_gop=True,
    tags=("m2v1",),
    levels=LEVELS,
    bitstream=_Stream(),
    sliced=True,
    least_slices=least_slices,
    names_buffer="always",
    buffer_unit=BUFFER_UNIT,
    rate_unit=RATE_UNIT,
    # Table 6-3; square pixels besides.
    shapes=frozenset({Fraction(4, 3), Fraction(16, 9), Fraction(221, 100)}),
    # SMPTE ST 356.
    interval={LINES_625: 32, LINES_525: 32},
    made=PictureMaking(
        "main",
        of(
            "mpeg-ps",
            "mpeg-ts",
            "mov",
            "matroska",
            "mxf",
            "mxf d10",
            "mpeg-es",
            "separate streams",
        ),
        RateControlled(Fraction(2), ladder=LADDER),
        12.0,
        sizes={"mxf d10": FixedPerFrame(d10_sizes, lambda profile: tuple(D10))},
        captions=True,
    ),
)
# Nothing in it says how colours are meant.
MPEG1_UNSTATED = of("picture.range", "picture.matrix", "picture.primaries", "picture.transfer")
MPEG1 = PictureCodec(
    "mpeg1video",
    "MPEG-1",
    also=("MPEG-1 video",),
    wrappers=of("mpeg-ps", "mpeg-ts", "matroska", "avi", "mpeg-es"),
    interlaced=False,
    long_gop=True,
    bitstream=_Stream(),
    names_buffer="always",
    buffer_unit=BUFFER_UNIT,
    rate_unit=RATE_UNIT,
    made=PictureMaking(
        "",
        of("mpeg-ps"),
        RateControlled(Fraction(5, 2), ladder=LADDER),
        12.0,
        fields=False,
        layouts=(Pixels("4:2:0", 8),),
        unstated=lambda profile, wrapper: MPEG1_UNSTATED,
    ),
)
CODECS = (MPEG2, MPEG1)
