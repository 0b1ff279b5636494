"""H.265 (HEVC): its profiles, level limits, codec string and headers.

Sources: ITU-T H.265 Annex A, of it Table A.8 (MaxLumaPs, MaxCPB, by tier), Table A.9 (MaxLumaSr,
MaxBR) and the CpbBrVclFactor of Table A.10; ISO/IEC 14496-15 Annex E. Written from memory;
tests/outside checks them against the level that an independent encoder writes.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..units.values import Size, show_bit_rate
from .bitstream import START, RateBuffer, units
from .codec import QUICKER, PictureCodec, PictureMaking, Profile, StreamHead, of
from .levels import Level, Levels
from .pixels import Y20, Y22, Y24, Pixels
from .size import RateControlled


@dataclass(frozen=True)
class Row:
    """One row of Tables A.8 and A.9.

    Attributes:
        number: general_level_idc / 30.
        max_luma_ps: luma samples a picture.
        max_luma_sr: luma samples a second.
        max_br: bit rate of the main tier in units of 1000 b/s for the main profiles.
        max_br_high: that of the high tier; None where the level has none.
        max_cpb: coded picture buffer of the main tier in units of 1000 bits.
    """

    number: Fraction
    max_luma_ps: int
    max_luma_sr: int
    max_br: int
    max_br_high: int | None
    max_cpb: int


TABLES_A_8_A_9: tuple[Row, ...] = tuple(
    Row(Fraction(name), *rest)
    for name, *rest in (
        ("1", 36_864, 552_960, 128, None, 350),
        ("2", 122_880, 3_686_400, 1_500, None, 1_500),
        ("2.1", 245_760, 7_372_800, 3_000, None, 3_000),
        ("3", 552_960, 16_588_800, 6_000, None, 6_000),
        ("3.1", 983_040, 33_177_600, 10_000, None, 10_000),
        ("4", 2_228_224, 66_846_720, 12_000, 30_000, 12_000),
        ("4.1", 2_228_224, 133_693_440, 20_000, 50_000, 20_000),
        ("5", 8_912_896, 267_386_880, 25_000, 100_000, 25_000),
        ("5.1", 8_912_896, 534_773_760, 40_000, 160_000, 40_000),
        ("5.2", 8_912_896, 1_069_547_520, 60_000, 240_000, 60_000),
        ("6", 35_651_584, 1_069_547_520, 60_000, 240_000, 60_000),
        ("6.1", 35_651_584, 2_139_095_040, 120_000, 480_000, 120_000),
        ("6.2", 35_651_584, 4_278_190_080, 240_000, 800_000, 240_000),
    )
)
# Table A.10, CpbBrVclFactor.
BR_FACTOR = {
    "main": 1000,
    "main 10": 1000,
    "main 12": 1500,
    "main 4:2:2 10": 1667,
    "main 4:4:4": 2000,
    "main 4:4:4 10": 2500,
}


def holds_picture(row: Row, size: Size, rate: Fraction) -> bool:
    """Say whether a level's picture size and sample rate hold a picture; sizes count in coding
    blocks of 8.
    """
    width, height = -(-size.width // 8) * 8, -(-size.height // 8) * 8
    samples = width * height
    # A.4.1: neither side may exceed the square root of 8 * MaxLumaPs.
    return (
        samples <= row.max_luma_ps
        and max(width, height) ** 2 <= 8 * row.max_luma_ps
        and samples * rate <= row.max_luma_sr
    )


def max_bit_rate(row: Row, profile: str, high_tier: bool = False) -> int:
    """Give a level's greatest b/s; the high tier's where it has one and that is asked."""
    most = row.max_br_high if high_tier and row.max_br_high is not None else row.max_br
    return most * BR_FACTOR.get(profile, 1000)


def _level(row: Row, profile: str) -> Level:
    # MaxCPB is MaxBR in bits, but at level 1 (Tables A.8, A.9).
    most = max_bit_rate(row, profile, high_tier=True)
    return Level(
        f"{float(row.number):g}",
        most,
        most,
        f"{row.max_luma_ps} samples a picture, {row.max_luma_sr} a second, "
        f"{show_bit_rate(max_bit_rate(row, profile))} in the main tier",
        lambda load: holds_picture(row, load.size, load.rate),
        main_tier=max_bit_rate(row, profile),
    )


LEVELS = Levels(
    "ITU-T H.265 Tables A.8 and A.9",
    lambda profile: [_level(row, profile or "main") for row in TABLES_A_8_A_9],
    number=lambda profile, number: f"{number / 30:g}",
)


def codec_string(head: StreamHead, tag: str = "hvc1") -> str | None:
    """Give "hvc1.…" from an hvcC record or a sequence parameter set; None where there is none."""
    told = _profile_tier_level(head.configuration)
    if len(told) < 12:
        return None
    space = ["", "A", "B", "C"][told[0] >> 6]
    flags = int(f"{int.from_bytes(told[1:5], 'big'):032b}"[::-1], 2)
    constraints = told[5:11].rstrip(b"\x00")
    parts = [
        f"{space}{told[0] & 31}",
        f"{flags:X}",
        f"{'H' if told[0] & 32 else 'L'}{told[11]}",
        *(f"{b:X}" for b in constraints),
    ]
    return f"{tag}.{'.'.join(parts)}"


SEQUENCE_SET = 33  # Table 7-1


def _profile_tier_level(configuration: bytes) -> bytes:
    """Give the twelve bytes that a record and a parameter set have alike: ITU-T H.265 7.3.3."""
    if configuration[:1] == b"\x01":
        return configuration[1:13]
    heads = (configuration[s.end() : s.end() + 24] for s in START.finditer(configuration))
    sets = (u for u in heads if u and u[0] >> 1 & 63 == SEQUENCE_SET)
    return next((u.replace(b"\x00\x00\x03", b"\x00\x00")[3:15] for u in sets), b"")


LAST_SLICE = 31  # Table 7-1: coded slices are 0 to 31


class _Stream:
    """Reads coded frames of H.265."""

    def length_size(self, extradata: bytes) -> int:
        boxed = extradata[:1] == b"\x01" and len(extradata) > 22
        return (extradata[21] & 3) + 1 if boxed else 0

    def slices(self, frame: bytes, length_size: int) -> int:
        return sum(unit[0] >> 1 & 63 <= LAST_SLICE for unit in units(frame, length_size))

    def rate_buffer(self, data: bytes) -> RateBuffer | None:
        return None


def exactly(profile: str, pixels: Pixels) -> str:
    """Name the profile of the range extensions, which the library calls all alike, that samples so
    laid out need.
    """
    if profile != "rext":
        return profile
    if pixels.depth <= 10 and pixels.chroma in {"4:2:2", "4:4:4"}:
        return f"main {pixels.chroma} 10"
    return "main 12" if pixels == Pixels("4:2:0", 12) else profile


PLAIN, DEEP, WIDE = Pixels("4:2:0", 8), Pixels("4:2:0", 10), Pixels("4:2:2", 10)
PLACES = of("mp4", "mov", "matroska", "mpeg-ts", "hevc-es", "separate streams")
CODECS = (
    PictureCodec(
        "hevc",
        "HEVC",
        also=("H.265",),
        wrappers=PLACES,
        # 4:2:2 and above are range extensions.
        profiles=(
            Profile("main", Y20, 8, made=(PLAIN,)),
            Profile("main 10", Y20, 10, made=(DEEP,)),
            Profile("rext", Y24, 16),
            Profile("main 12", Y20, 12),
            Profile("main 4:2:2 10", Y22, 10, made=(WIDE,)),
            Profile("main 4:4:4 10", Y24, 10),
        ),
        long_gop=True,
        tags=("hvc1", "hev1"),
        strings=("hvc1", "hev1"),
        codec_string=codec_string,
        levels=LEVELS,
        bitstream=_Stream(),
        sliced=True,
        exactly=exactly,
        alpha_unmade="It can be a layer of its own (ITU-T H.265, Annex F), which the encoder here "
        "lists and refuses to open.",
        # Half the bits of H.264 for the same picture (common practice). Each field would be a
        # picture of its own, which hardly a player weaves.
        made=PictureMaking(
            "main",
            PLACES,
            RateControlled(Fraction(1, 2), two_passes=True),
            8.0,
            fields=False,
            mastering=True,
            captions=True,
            paces=QUICKER | {"hardware"},
        ),
    ),
)
