"""AV1: profiles, level limits and codec string.

Sources: the AV1 bitstream and decoding process specification, Annex A.3 (levels); the codec strings
of AV1 in ISO-BMFF. From memory; tests/outside holds the levels by size and frame rate against those
that an independent encoder writes.
"""

from __future__ import annotations

from fractions import Fraction
from typing import NamedTuple

from .codec import QUICKER, PictureCodec, PictureMaking, Profile, StreamHead, of
from .levels import Level, Levels, Load
from .pixels import Y20, Y24, Pixels
from .size import RateControlled


class Row(NamedTuple):
    """One row of A.3: the level's name, samples a picture, sides, samples a second, b/s by tier."""

    name: str
    picture: int
    width: int
    height: int
    second: int
    main: int
    high: int


ANNEX_A_3 = (
    Row("2", 147_456, 2048, 1152, 4_423_680, 1_500_000, 1_500_000),
    Row("2.1", 278_784, 2816, 1584, 8_363_520, 3_000_000, 3_000_000),
    Row("3", 665_856, 4352, 2448, 19_975_680, 6_000_000, 6_000_000),
    Row("3.1", 1_065_024, 5504, 3096, 31_950_720, 10_000_000, 10_000_000),
    Row("4", 2_359_296, 6144, 3456, 70_778_880, 12_000_000, 30_000_000),
    Row("4.1", 2_359_296, 6144, 3456, 141_557_760, 20_000_000, 50_000_000),
    Row("5", 8_912_896, 8192, 4352, 267_386_880, 30_000_000, 100_000_000),
    Row("5.1", 8_912_896, 8192, 4352, 534_773_760, 40_000_000, 160_000_000),
    Row("5.2", 8_912_896, 8192, 4352, 1_069_547_520, 60_000_000, 240_000_000),
    Row("5.3", 8_912_896, 8192, 4352, 1_069_547_520, 60_000_000, 240_000_000),
    Row("6", 35_651_584, 16384, 8704, 1_069_547_520, 60_000_000, 240_000_000),
    Row("6.1", 35_651_584, 16384, 8704, 2_139_095_040, 100_000_000, 480_000_000),
    Row("6.2", 35_651_584, 16384, 8704, 4_278_190_080, 160_000_000, 800_000_000),
    Row("6.3", 35_651_584, 16384, 8704, 4_278_190_080, 160_000_000, 800_000_000),
)


def _level(row: Row) -> Level:
    def holds(load: Load) -> bool:
        size = load.size
        samples = size.width * size.height
        fits = size.width <= row.width and size.height <= row.height
        return fits and samples <= row.picture and samples * load.rate <= row.second

    return Level(
        row.name,
        row.high,
        None,
        f"{row.picture} samples a picture, {row.second} a second, sides of {row.width} x "
        f"{row.height}",
        holds,
        main_tier=row.main,
    )


LEVELS = Levels(
    "the AV1 specification, Annex A.3",
    lambda profile: [*map(_level, ANNEX_A_3)],
    # seq_level_idx counts four levels to a number, from 2.0.
    number=lambda profile, index: f"{2 + index // 4 + index % 4 / 10:g}" if index < 24 else None,
)


def codec_string(head: StreamHead) -> str | None:
    """Give "av01.P.LLT.DD" from an av1C record; None where there is none."""
    configuration = head.configuration
    if len(configuration) < 3 or configuration[0] != 0x81:
        return None
    profile, level = configuration[1] >> 5, configuration[1] & 31
    tier, deep, deeper = configuration[2] >> 7, configuration[2] >> 6 & 1, configuration[2] >> 5 & 1
    depth = 12 if deep and deeper else 10 if deep else 8
    return f"av01.{profile}.{level:02d}{'H' if tier else 'M'}.{depth:02d}"


CODECS = (
    PictureCodec(
        "av1",
        "AV1",
        decoders=("libdav1d",),
        wrappers=of("webm", "matroska", "mp4"),
        profiles=(
            Profile("main", Y20, 10, made=(Pixels("4:2:0", 8), Pixels("4:2:0", 10))),
            Profile("high", Y24, 10),
            Profile("professional", Y24, 12),
        ),
        interlaced=False,
        long_gop=True,
        tags=("av01",),
        strings=("av01",),
        codec_string=codec_string,
        levels=LEVELS,
        made=PictureMaking(
            "main",
            of("mp4", "webm", "matroska"),
            RateControlled(Fraction(1, 2), fills=False, ladder=(4, 12, 20, 28, 36, 44, 52, 60)),
            20.0,
            fields=False,
            mastering=True,
            paces=QUICKER | {"hardware"},
        ),
    ),
)
