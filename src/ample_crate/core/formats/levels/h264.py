"""Level limits of H.264: which level holds a picture, and at what bit rate.

Source: ITU-T H.264 Table A-1 (MaxMBPS, MaxFS, MaxDpbMbs, MaxBR, MaxCPB) and the
cpbBrVclFactor of Table A-2. The numbers were written from memory and are checked in
tests/outside against the level that an independent bit-stream filter derives.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ...units.values import Size


@dataclass(frozen=True)
class Level:
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


TABLE_A_1: tuple[Level, ...] = tuple(
    Level(Fraction(name), *rest)
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
    """Count the 16x16 macroblocks of a frame; interlaced frames come in pairs of rows (32
    lines).
    """
    rows = 2 * (-(-size.height // 32)) if interlaced else -(-size.height // 16)
    return -(-size.width // 16) * rows


FIELDS = (Fraction("2.1"), Fraction("4.1"))
"""Lowest and highest level at which fields may be coded: elsewhere frame_mbs_only_flag is 1
(Table A-4, from memory).
"""


def codes_fields(level: Level) -> bool:
    """Say whether fields may be coded at a level."""
    return FIELDS[0] <= level.number <= FIELDS[1]


def by_number(number: Fraction) -> Level | None:
    """Find a level by its number, or None."""
    return next((level for level in TABLE_A_1 if level.number == number), None)


def holds_picture(
    level: Level, size: Size, rate: Fraction, interlaced: bool = False, frames_kept: int = 1
) -> bool:
    """Say whether the level's frame size, macroblock rate and picture buffer hold the picture."""
    blocks = macroblocks(size, interlaced)
    wide = -(-size.width // 16)
    # A.3.1: neither side may exceed the square root of 8 * MaxFS macroblocks.
    side = max(wide, blocks // wide)
    return (
        blocks <= level.max_fs
        and side * side <= 8 * level.max_fs
        and blocks * rate <= level.max_mbps
        and blocks * frames_kept <= level.max_dpb_mbs
    )


def max_bit_rate(level: Level, profile: str) -> int:
    """Give the level's greatest bit rate in b/s for a profile."""
    return level.max_br * BR_FACTOR.get(profile, 1000)


def max_buffer(level: Level, profile: str) -> int:
    """Give the level's greatest coded picture buffer in bits for a profile."""
    return level.max_cpb * BR_FACTOR.get(profile, 1000)


def lowest(
    size: Size,
    rate: Fraction,
    bit_rate: int,
    profile: str,
    interlaced: bool = False,
    frames_kept: int = 1,
) -> Level | None:
    """Find the lowest level that holds the picture at the bit rate, or None where none does."""
    return next(
        (
            level
            for level in TABLE_A_1
            if holds_picture(level, size, rate, interlaced, frames_kept)
            and (codes_fields(level) or not interlaced)
            and bit_rate <= max_bit_rate(level, profile)
        ),
        None,
    )
