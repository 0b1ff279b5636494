"""Level limits of MPEG-2 video.

Source: ISO/IEC 13818-2 (ITU-T H.262) Tables 8-11 to 8-14: sampling density, luminance sample rate,
bit rate and VBV buffer, for the main profile and the 4:2:2 profile. Written from memory; the levels
by size are checked in tests/outside against those an independent encoder writes.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ...units.values import Size


@dataclass(frozen=True)
class Level:
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


LEVELS: tuple[Level, ...] = (
    Level("main@low", 352, 288, 30, 3_041_280, 4_000_000, 475_136),
    Level("main@main", 720, 576, 30, 10_368_000, 15_000_000, 1_835_008),
    Level("main@high 1440", 1440, 1152, 60, 47_001_600, 60_000_000, 7_340_032),
    Level("main@high", 1920, 1152, 60, 62_668_800, 80_000_000, 9_781_248),
    Level("4:2:2@main", 720, 608, 30, 11_059_200, 50_000_000, 9_437_184),
    Level("4:2:2@high", 1920, 1088, 60, 62_668_800, 300_000_000, 47_185_920),
)
# Table 8-12 allows 4:2:2@main its 608 lines at up to 25 frames a second, and 512 at up to 30.
LINES_OVER_25 = 512


def by_name(name: str) -> Level | None:
    """Find a profile at its level by name, or None."""
    return next((level for level in LEVELS if level.name == name), None)


def holds_picture(level: Level, size: Size, rate: Fraction) -> bool:
    """Say whether the level holds the frame size at the rate."""
    fits = size.width <= level.width and size.height <= level.height and rate <= level.rate
    if level.name == "4:2:2@main" and rate > 25 and size.height > LINES_OVER_25:
        return False
    return fits and size.width * size.height * rate <= level.samples


def lowest(profile: str, size: Size, rate: Fraction, bit_rate: int = 0) -> Level | None:
    """Find the lowest level of a profile that holds the picture at the bit rate, or None where none
    does.
    """
    mine = (v for v in LEVELS if v.name.startswith(f"{profile}@"))
    return next((v for v in mine if holds_picture(v, size, rate) and bit_rate <= v.bit_rate), None)
