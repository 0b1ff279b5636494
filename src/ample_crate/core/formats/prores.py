"""ProRes (SMPTE RDD 36); profile names as the codec library reads them, tags from memory.

The ceilings follow the target data rates that are published for each profile (Mb/s at 29.97 frames
a second; from memory): at 720x486 12, 29, 42, 63, 94 and 141; at 1920x1080 45, 102, 147, 220, 330
and 500. tests/outside holds them against what the codec library's encoder aims at.
"""

from __future__ import annotations

from fractions import Fraction

from .codec import PictureCodec, PictureMaking, Profile, of
from .pixels import Y22_ALONE, Y24_ALONE, Pixels
from .size import ByContent

STUDIO, DEEP, CLEAR = Pixels("4:2:2", 10), Pixels("4:4:4", 10), Pixels("4:4:4", 10, alpha=True)
RATE = Fraction(30000, 1001)
# Macroblocks of a frame up to which a ceiling holds: 720x486 and 720x576, 1280x720, 1920x1080.
SMALL, MIDDLE, LARGE = 1620, 3600, 8160
# Published target rates in Mb/s at 720x486, 1280x720 and 1920x1080.
PUBLISHED = {
    "proxy": (12, 19, 45),
    "lt": (29, 44, 102),
    "standard": (42, 64, 147),
    "hq": (63, 96, 220),
    "4444": (94, 143, 330),
    "xq": (141, 214, 500),
}


def _bits(mbps: int, blocks: int) -> int:
    return int(mbps * 1_000_000 / RATE / blocks)


def _ceilings(rates: tuple[int, int, int]) -> tuple[tuple[int, int], ...]:
    small, middle, large = rates
    return (
        (SMALL, _bits(small, 45 * 31)),
        (MIDDLE, _bits(middle, MIDDLE)),
        (LARGE, _bits(large, LARGE)),
    )


SIZE = ByContent(
    {profile: _ceilings(rates) for profile, rates in PUBLISHED.items()},
    # A black frame has 20 to 54 bits a macroblock (measured here).
    least=16,
    overshoot=Fraction(1, 8),
    transparent=(2, 20),
)


def _deep(name: str, tag: str) -> Profile:
    """Give a profile of 12 bits, which the encoder here makes from 10."""
    made = (DEEP, CLEAR)
    return Profile(name, Y24_ALONE, 12, alpha=True, tag=tag, made=made, read_depth=12)


CODECS = (
    PictureCodec(
        "prores",
        "ProRes",
        wrappers=of("mov", "mxf"),
        profiles=(
            Profile("proxy", Y22_ALONE, 10, tag="apco", made=(STUDIO,)),
            Profile("lt", Y22_ALONE, 10, tag="apcs", made=(STUDIO,)),
            Profile("standard", Y22_ALONE, 10, tag="apcn", made=(STUDIO,)),
            Profile("hq", Y22_ALONE, 10, tag="apch", made=(STUDIO,)),
            _deep("4444", "ap4h"),
            _deep("xq", "ap4x"),
        ),
        intra=True,
        made=PictureMaking(
            "hq",
            of("mov", "mxf"),
            SIZE,
            30.0,
            frames_alone=True,
            # The library's muxer describes every ProRes picture as whole frames.
            whole_frames_in=of("mxf"),
        ),
    ),
)
