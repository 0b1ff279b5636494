"""VP8 and VP9: profiles, level limits and codec strings.

Sources: RFC 6386; the VP9 bit-stream overview, Annex A (levels), and the codec strings of VP9 in
ISO-BMFF. From memory.
"""

from __future__ import annotations

from fractions import Fraction
from typing import NamedTuple

from .codec import QUICKER, PictureCodec, PictureMaking, Profile, StreamHead, of
from .levels import Level, Levels, Load
from .pixels import Y20, Y24, Pixels
from .size import RateControlled


class Row(NamedTuple):
    """One row of Annex A: the level's name, luma samples a second and a picture, b/s."""

    name: str
    second: int
    picture: int
    bit_rate: int


ANNEX_A = (
    Row("1", 829_440, 36_864, 200_000),
    Row("1.1", 2_764_800, 73_728, 800_000),
    Row("2", 4_608_000, 122_880, 1_800_000),
    Row("2.1", 9_216_000, 245_760, 3_600_000),
    Row("3", 20_736_000, 552_960, 7_200_000),
    Row("3.1", 36_864_000, 983_040, 12_000_000),
    Row("4", 83_558_400, 2_228_224, 18_000_000),
    Row("4.1", 160_432_128, 2_228_224, 30_000_000),
    Row("5", 311_951_360, 8_912_896, 60_000_000),
    Row("5.1", 588_251_136, 8_912_896, 120_000_000),
    Row("5.2", 1_176_502_272, 8_912_896, 180_000_000),
    Row("6", 1_176_502_272, 35_651_584, 180_000_000),
    Row("6.1", 2_353_004_544, 35_651_584, 240_000_000),
    Row("6.2", 4_706_009_088, 35_651_584, 480_000_000),
)


def _level(row: Row) -> Level:
    def holds(load: Load) -> bool:
        samples = load.size.width * load.size.height
        return samples <= row.picture and samples * load.rate <= row.second

    return Level(
        row.name,
        row.bit_rate,
        None,
        f"{row.picture} samples a picture, {row.second} a second",
        holds,
    )


LEVELS = Levels("the VP9 bit-stream overview, Annex A", lambda profile: [*map(_level, ANNEX_A)])


def codec_string(head: StreamHead) -> str:
    """Give "vp09.PP.LL.DD"; the level is the lowest that holds the picture."""
    found = LEVELS.lowest(Load(head.size, head.rate))
    level = int((found.number if found else LEVELS.table("")[-1].number) * 10)
    number = head.profile.rsplit(" ", 1)[-1]
    profile = int(number) if number.isdigit() else 0
    return f"vp09.{profile:02d}.{level}.{head.depth:02d}"


PLAIN, CLEAR = Pixels("4:2:0", 8), Pixels("4:2:0", 8, alpha=True)
FINE = Pixels("4:4:4", 8)
# Of drawn rain in fog at 1080p, against what it takes by itself (measured here).
FINER = tuple(
    (quantiser, Fraction(growth))
    for quantiser, growth in ((8, "1.8"), (6, "2.1"), (5, "2.45"), (4, "2.9"), (3, "3.6"))
) + ((2, Fraction("4.2")), (1, Fraction("5.3")))
CODECS = (
    PictureCodec(
        "vp8",
        "VP8",
        wrappers=of("webm", "matroska"),
        alpha=True,
        interlaced=False,
        long_gop=True,
        tags=("vp08",),
        strings=("vp8", "vp08"),
        codec_string=lambda head: "vp8",
        alpha_decoder="libvpx",
        made=PictureMaking(
            "",
            of("webm", "matroska"),
            RateControlled(Fraction(1), fills=False, ladder=(4, 8, 14, 22, 32, 44, 58)),
            20.0,
            fields=False,
            layouts=(PLAIN, CLEAR),
            paces=QUICKER,
        ),
    ),
    PictureCodec(
        "vp9",
        "VP9",
        wrappers=of("webm", "matroska", "mp4"),
        profiles=(
            Profile("profile 0", Y20, 8, made=(PLAIN, CLEAR)),
            Profile("profile 1", Y24, 8, made=(FINE,)),
            Profile("profile 2", Y20, 12),
            Profile("profile 3", Y24, 12),
        ),
        alpha=True,
        interlaced=False,
        long_gop=True,
        tags=("vp09",),
        strings=("vp09",),
        codec_string=codec_string,
        levels=LEVELS,
        alpha_decoder="libvpx-vp9",
        made=PictureMaking(
            "profile 0",
            of("webm", "matroska"),
            RateControlled(
                Fraction(3, 5), fills=False, finer=FINER, ladder=(4, 12, 20, 28, 36, 44, 52, 60)
            ),
            10.0,
            fields=False,
            paces=QUICKER,
        ),
    ),
)
