"""H.264: its profiles, level limits, codec string and headers.

Sources: ITU-T H.264 Annex A, of it Table A-1 (MaxMBPS, MaxFS, MaxDpbMbs, MaxBR, MaxCPB) and the
cpbBrVclFactor of Table A-2; Annex E; ISO/IEC 14496-15. The numbers were written from memory and are
checked in tests/outside against the level that an independent bit-stream filter derives.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from ..units.fields import FieldOrder
from ..units.values import Size, show_bit_rate
from .bitstream import START, Bits, RateBuffer, units
from .codec import QUICKER, PictureCodec, PictureMaking, Profile, StreamHead, of
from .levels import Level, Levels, Load
from .pixels import Y20, Y22, Y24, Pixels
from .size import FixedPerFrame, Frame, RateControlled


@dataclass(frozen=True)
class Row:
    """One row of Table A-1.

    Attributes:
        number: level_idc / 10; level 1b is left out, as no recipient asks for it.
        max_mbps: macroblocks a second.
        max_fs: macroblocks a frame.
        max_dpb_mbs: macroblocks in the decoded picture buffer.
        max_br: bit rate in units of 1000 b/s for baseline and main.
        max_cpb: coded picture buffer in units of 1000 bits for baseline and main.
    """

    number: Fraction
    max_mbps: int
    max_fs: int
    max_dpb_mbs: int
    max_br: int
    max_cpb: int


TABLE_A_1: tuple[Row, ...] = tuple(
    Row(Fraction(name), *rest)
    for name, *rest in (
        ("1", 1485, 99, 396, 64, 175),
        ("1.1", 3000, 396, 900, 192, 500),
        ("1.2", 6000, 396, 2376, 384, 1000),
        ("1.3", 11880, 396, 2376, 768, 2000),
        ("2", 11880, 396, 2376, 2000, 2000),
        ("2.1", 19800, 792, 4752, 4000, 4000),
        ("2.2", 20250, 1620, 8100, 4000, 4000),
        ("3", 40500, 1620, 8100, 10000, 10000),
        ("3.1", 108000, 3600, 18000, 14000, 14000),
        ("3.2", 216000, 5120, 20480, 20000, 20000),
        ("4", 245760, 8192, 32768, 20000, 25000),
        ("4.1", 245760, 8192, 32768, 50000, 62500),
        ("4.2", 522240, 8704, 34816, 50000, 62500),
        ("5", 589824, 22080, 110400, 135000, 135000),
        ("5.1", 983040, 36864, 184320, 240000, 240000),
        ("5.2", 2073600, 36864, 184320, 240000, 240000),
        ("6", 4177920, 139264, 696320, 240000, 240000),
        ("6.1", 8355840, 139264, 696320, 480000, 480000),
        ("6.2", 16711680, 139264, 696320, 800000, 800000),
    )
)

# Table A-2, cpbBrVclFactor: bits a unit of MaxBR.
BR_FACTOR = {
    "baseline": 1000,
    "main": 1000,
    "high": 1250,
    "high 10": 3000,
    "high 4:2:2": 4000,
    "high 10 intra": 3000,
    "high 4:2:2 intra": 4000,
    "high 4:4:4 predictive": 4000,
}


def macroblocks(size: Size, interlaced: bool = False) -> int:
    """Count the 16x16 macroblocks of a frame; interlaced ones come in pairs of rows (32 lines)."""
    rows = 2 * (-(-size.height // 32)) if interlaced else -(-size.height // 16)
    return -(-size.width // 16) * rows


FIELDS = (Fraction("2.1"), Fraction("4.1"))
"""Lowest and highest level at which fields may be coded: elsewhere frame_mbs_only_flag is 1
(Table A-4, from memory).
"""


def _level(row: Row, profile: str) -> Level:
    factor = BR_FACTOR.get(profile, 1000)

    def holds(load: Load) -> bool:
        blocks = macroblocks(load.size, load.interlaced)
        wide = -(-load.size.width // 16)
        # A.3.1: neither side may exceed the square root of 8 * MaxFS macroblocks.
        side = max(wide, blocks // wide)
        return (
            blocks <= row.max_fs
            and side * side <= 8 * row.max_fs
            and blocks * load.rate <= row.max_mbps
            and blocks * load.kept <= row.max_dpb_mbs
        )

    return Level(
        f"{float(row.number):g}",
        row.max_br * factor,
        row.max_cpb * factor,
        f"{row.max_fs} macroblocks a frame, {row.max_mbps} a second, "
        f"{show_bit_rate(row.max_br * factor)} in {profile}",
        holds,
        fields=FIELDS[0] <= row.number <= FIELDS[1],
    )


def _said(load: Load) -> str:
    blocks, rate = macroblocks(load.size, load.interlaced), load.rate
    return (
        f"{load.size} is {blocks} macroblocks, {float(blocks * rate):.0f} "
        f"a second at {float(rate):g} fps"
    )


LEVELS = Levels(
    "ITU-T H.264 Table A-1",
    lambda profile: [_level(row, profile or "high") for row in TABLE_A_1],
    by_profile=True,
    said=_said,
    fields_source="ITU-T H.264 Table A-4",
    number=lambda profile, number: f"{number / 10:g}",
)


def codec_string(head: StreamHead) -> str | None:
    """Give "avc1.PPCCLL" from an avcC record or an Annex B stream's head; None without either."""
    configuration = head.configuration
    if configuration[:1] == b"\x01" and len(configuration) >= 4:
        return f"avc1.{configuration[1:4].hex().upper()}"
    at = configuration.find(b"\x00\x00\x01")
    while 0 <= at < len(configuration) - 6:
        if configuration[at + 3] & 0x1F == 7:
            return f"avc1.{configuration[at + 4 : at + 7].hex().upper()}"
        at = configuration.find(b"\x00\x00\x01", at + 3)
    return None


SEQUENCE_SET, SLICES = 7, {1, 5}  # Table 7-1
# Profiles whose sequence parameter set says more of the chroma: 7.3.2.1.1.
CHROMA_PROFILES = {100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135}


class _Stream:
    """Reads coded frames of H.264."""

    def length_size(self, extradata: bytes) -> int:
        boxed = extradata[:1] == b"\x01" and len(extradata) > 6
        return (extradata[4] & 3) + 1 if boxed else 0

    def slices(self, frame: bytes, length_size: int) -> int:
        return sum(unit[0] & 31 in SLICES for unit in units(frame, length_size))

    def rate_buffer(self, data: bytes) -> RateBuffer | None:
        return next((found for one in _sets(data) if (found := _reference_decoder(one))), None)


def fields_untold(data: bytes) -> bool:
    """Say whether the head of a stream leaves open whether its frames are fields: it lets them be,
    and has no place that says how each is shown (7.4.2.1.1, E.2.1).
    """
    try:
        return any(_fields_untold(one) for one in _sets(data))
    except IndexError:
        return False


def _fields_untold(unit: bytes) -> bool:
    bits = Bits(unit[1:].replace(b"\x00\x00\x03", b"\x00\x00"))
    if _skip_sequence_set(bits):
        return False
    if not bits.read(1):  # vui_parameters_present_flag
        return True
    _skip_usability(bits)
    models = 0
    for _ in range(2):  # of NALs, and of the VCL
        if bits.read(1):
            _skip_model(bits)
            models += 1
    bits.skip(models > 0)
    return not bits.read(1)  # pic_struct_present_flag


def _skip_model(bits: Bits) -> None:
    """Pass over a hypothetical reference decoder: E.1.2."""
    count = bits.golomb() + 1
    bits.skip(8)
    for _ in range(count):
        bits.skip_golomb(2)
        bits.skip(1)
    bits.skip(20)


def _sets(data: bytes) -> list[bytes]:
    return _boxed_sets(data) if data[:1] == b"\x01" else _plain_sets(data)


def _boxed_sets(extradata: bytes) -> list[bytes]:
    """Give the sequence parameter sets of an AVC decoder configuration record (ISO/IEC 14496-15,
    5.3.3.1).
    """
    sets, at = [], 6
    for _ in range(extradata[5] & 31 if len(extradata) > 5 else 0):
        size = int.from_bytes(extradata[at : at + 2])
        sets.append(extradata[at + 2 : at + 2 + size])
        at += 2 + size
    return sets


def _plain_sets(data: bytes) -> list[bytes]:
    starts = [found.end() for found in START.finditer(data)]
    return [
        data[a : b - 3]
        for a, b in pairwise([*starts, len(data) + 3])
        if a < len(data) and data[a] & 31 == SEQUENCE_SET
    ]


def _reference_decoder(unit: bytes) -> RateBuffer | None:
    """Read the hypothetical reference decoder's first figures: E.1.1, E.1.2 and E.2.2."""
    bits = Bits(unit[1:].replace(b"\x00\x00\x03", b"\x00\x00"))
    _skip_sequence_set(bits)
    if not bits.read(1):  # vui_parameters_present_flag
        return None
    _skip_usability(bits)
    if not bits.read(1) and not bits.read(1):  # neither a NAL's nor a VCL's model
        return None
    bits.golomb()
    rate_scale, size_scale = bits.read(4), bits.read(4)
    rate, size = bits.golomb() + 1, bits.golomb() + 1
    return RateBuffer(rate << (6 + rate_scale), size << (4 + size_scale))


def _skip_sequence_set(bits: Bits) -> bool:
    """Pass over a sequence parameter set up to its usability information: 7.3.2.1.1. Say whether
    its frames are never fields.
    """
    profile = bits.read(8)
    bits.skip(16)
    bits.golomb()
    if profile in CHROMA_PROFILES:
        _skip_chroma(bits)
    bits.golomb()
    order = bits.golomb()
    if order == 0:
        bits.golomb()
    elif order == 1:
        bits.skip(1)
        bits.skip_golomb(2)
        bits.skip_golomb(bits.golomb())
    bits.golomb()
    bits.skip(1)
    bits.skip_golomb(2)
    whole = bool(bits.read(1))  # frame_mbs_only_flag
    bits.skip(not whole)
    bits.skip(1)
    if bits.read(1):  # cropping
        bits.skip_golomb(4)
    return whole


def _skip_chroma(bits: Bits) -> None:
    chroma = bits.golomb()
    bits.skip(chroma == 3)
    bits.skip_golomb(2)
    bits.skip(1)
    if not bits.read(1):
        return
    for number in range(12 if chroma == 3 else 8):
        if bits.read(1):
            _skip_scaling(bits, 16 if number < 6 else 64)


def _skip_scaling(bits: Bits, count: int) -> None:
    last = following = 8
    for _ in range(count):
        if following:
            coded = bits.golomb()
            delta = (coded + 1) // 2 if coded & 1 else -(coded // 2)
            following = (last + delta) % 256
        last = following or last


def _skip_usability(bits: Bits) -> None:
    """Pass over the usability information up to the reference decoder's: E.1.1."""
    if bits.read(1) and bits.read(8) == 255:
        bits.skip(32)
    if bits.read(1):
        bits.skip(1)
    if bits.read(1):
        bits.skip(4)
        if bits.read(1):
            bits.skip(24)
    if bits.read(1):
        bits.skip_golomb(2)
    if bits.read(1):
        bits.skip(65)


PLAIN, DEEP, WIDE = Pixels("4:2:0", 8), Pixels("4:2:0", 10), Pixels("4:2:2", 10)
STUDIO = of("mxf", "mov")
FULL, NARROW = Size(1920, 1080), Size(1440, 1080)
RATES = (Fraction(25), Fraction(30000, 1001), Fraction(24000, 1001))
# Bytes of a frame by class (SMPTE RP 2027 has the classes; the bytes are those that x264 makes).
INTRA: dict[str, tuple[Size, Fraction, Pixels, Mapping[int, int]]] = {
    "high 10 intra": (NARROW, Fraction(4, 3), DEEP, {25: 281_088, 30: 232_960, 24: 232_960}),
    "high 4:2:2 intra": (FULL, Fraction(1), WIDE, {25: 568_832, 30: 472_576, 24: 472_576}),
}


def intra_frames(profile: str) -> Sequence[Frame]:
    """List the frames that a profile holds here; film at 24 has no fields."""
    size, aspect, pixels, _ = INTRA[profile]
    whole = [Frame(size, rate, None, pixels, aspect) for rate in RATES]
    return whole + [frame._replace(fields=FieldOrder.UPPER) for frame in whole[:2]]


def intra_sizes(profile: str, frame: Frame) -> Sequence[int]:
    """Give the bytes that a frame has; none of one that the profile does not hold."""
    if frame not in intra_frames(profile):
        return ()
    return (INTRA[profile][3][round(frame.rate or 0)],)


NO_FIELDS = "ITU-T H.264 A.2.1"
H264 = PictureCodec(
    "h264",
    "H.264",
    also=("AVC", "MPEG-4 AVC", "MPEG-4 part 10"),
    # ISO/IEC 14496-15, 13818-1, SMPTE ST 381-3.
    wrappers=of("mp4", "mov", "matroska", "mpeg-ts", "mpeg-ps", "mxf", "avi", "h264-es"),
    profiles=(
        Profile(
            "baseline",
            Y20,
            8,
            also=("constrained baseline",),
            made=(PLAIN,),
            fields=False,
            reorders=False,
            source=NO_FIELDS,
        ),
        Profile("main", Y20, 8, made=(PLAIN,)),
        Profile("extended", Y20, 8),
        Profile("high", Y20, 8, made=(PLAIN,)),
        Profile("high 10", Y20, 10, also=("Hi10",), made=(DEEP,)),
        Profile("high 4:2:2", Y22, 10, also=("Hi422",), made=(WIDE,)),
        Profile("high 10 intra", Y20, 10, made=(DEEP,), into=STUDIO),
        Profile("high 4:2:2 intra", Y22, 10, made=(WIDE,), into=STUDIO),
        Profile("high 4:4:4 predictive", Y24, 14),
    ),
    long_gop=True,
    tags=("avc1", "avc3"),
    strings=("avc1", "avc3"),
    codec_string=codec_string,
    levels=LEVELS,
    bitstream=_Stream(),
    fields_untold=fields_untold,
    sliced=True,
    names_buffer="asked",
    browser=frozenset({PLAIN}),
    made=PictureMaking(
        "high",
        of("mp4", "mov", "matroska", "mpeg-ts", "h264-es", "separate streams"),
        RateControlled(two_passes=True),
        45.0,
        sizes={profile: FixedPerFrame(intra_sizes, intra_frames) for profile in INTRA},
        captions=True,
        paces=QUICKER | {"hardware"},
    ),
)
CODECS = (H264,)
