"""Level limits of H.265: which level holds a picture, and at what bit rate.

Source: ITU-T H.265 Table A.8 (MaxLumaPs, MaxCPB, by tier) and Table A.9 (MaxLumaSr, MaxBR), with
the CpbBrVclFactor of Table A.10. Written from memory; tests/outside checks them against the level
that an independent encoder writes.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ...units.values import Size


@dataclass(frozen=True)
class Level:
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


TABLES_A_8_A_9: tuple[Level, ...] = tuple(
    Level(Fraction(name), *rest)
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


def holds_picture(level: Level, size: Size, rate: Fraction) -> bool:
    """Say whether the level's picture size and sample rate hold the picture; sizes count in coding
    blocks of 8.
    """
    width, height = -(-size.width // 8) * 8, -(-size.height // 8) * 8
    samples = width * height
    # A.4.1: neither side may exceed the square root of 8 * MaxLumaPs.
    return (
        samples <= level.max_luma_ps
        and max(width, height) ** 2 <= 8 * level.max_luma_ps
        and samples * rate <= level.max_luma_sr
    )


def max_bit_rate(level: Level, profile: str, high_tier: bool = False) -> int:
    """Give the level's greatest bit rate in b/s; the high tier's where it has one and that is
    asked.
    """
    units = level.max_br_high if high_tier and level.max_br_high is not None else level.max_br
    return units * BR_FACTOR.get(profile, 1000)


def lowest(size: Size, rate: Fraction, bit_rate: int, profile: str) -> Level | None:
    """Find the lowest level whose main tier holds the picture at the bit rate, or None where none
    does.
    """
    return next(
        (
            v
            for v in TABLES_A_8_A_9
            if holds_picture(v, size, rate) and bit_rate <= max_bit_rate(v, profile)
        ),
        None,
    )
