"""HAP, an open frame format: texture blocks of fixed size, so that the rate follows from the
frame.
"""

from __future__ import annotations

from .codec import PictureCodec, of

CODECS = (
    PictureCodec(
        "hap",
        "HAP",
        wrappers=of("mov", "avi", "matroska"),
        alpha=True,
        interlaced=False,
        rated=False,
        intra=True,
        block=(4, 4),
        tags=("Hap1", "Hap5", "HapY"),
    ),
)
