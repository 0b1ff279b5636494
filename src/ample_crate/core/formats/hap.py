"""HAP, an open frame format: texture blocks of a fixed size, so that the rate follows from the
frame; each frame is then packed without loss.

A block of 4 x 4 samples has 8 bytes (BC1, BC4) or 16 (BC3).
"""

from __future__ import annotations

from fractions import Fraction

from .codec import PictureCodec, PictureMaking, Profile, of
from .pixels import RGB, Pixels
from .size import ByContent

PLAIN, CLEAR = Pixels(RGB, 8), Pixels(RGB, 8, alpha=True)
R8 = frozenset({RGB})
# Bits that the sixteen blocks of a macroblock have.
EIGHT, SIXTEEN = 16 * 8 * 8, 16 * 16 * 8
ANY = 1 << 30  # macroblocks


def unstated(profile: str, wrapper: str) -> frozenset[str]:
    """Give what nobody states: neither frames nor wrappers say how R'G'B' is to be shown."""
    return of("picture.range", "picture.matrix", "picture.primaries", "picture.transfer")


CODECS = (
    PictureCodec(
        "hap",
        "HAP",
        wrappers=of("mov", "avi", "matroska"),
        profiles=(
            Profile("hap", R8, 8, tag="Hap1", made=(PLAIN,), fields=False),
            Profile("hap alpha", R8, 8, True, tag="Hap5", made=(CLEAR,), fields=False),
            Profile("hap q", R8, 8, tag="HapY", made=(PLAIN,), fields=False),
            Profile("hap q alpha", R8, 8, True, tag="HapM", made=(CLEAR,), fields=False),
        ),
        interlaced=False,
        rated=False,
        intra=True,
        block=(4, 4),
        made=PictureMaking(
            "hap",
            of("mov", "avi"),
            ByContent(
                {
                    "hap": ((ANY, EIGHT),),
                    "hap alpha": ((ANY, SIXTEEN),),
                    "hap q": ((ANY, SIXTEEN),),
                    "hap q alpha": ((ANY, EIGHT + SIXTEEN),),
                },
                # What never changes is packed to about a twentieth.
                least=EIGHT // 32,
                overshoot=Fraction(1, 50),
            ),
            60.0,
            fields=False,
            frames_alone=True,
            unstated=unstated,
        ),
    ),
)
