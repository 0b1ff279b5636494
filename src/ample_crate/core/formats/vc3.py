"""VC-3 (SMPTE ST 2019-1), and its kind that goes with any frame size."""

from __future__ import annotations

from .codec import Y22_ALONE, Y24_ALONE, PictureCodec, Profile, of

CODECS = (
    PictureCodec(
        "dnxhd",
        "VC-3",
        wrappers=of("mxf", "mov"),
        profiles=(
            Profile("dnxhd", Y22_ALONE | Y24_ALONE, 10),
            Profile("dnxhr hq", Y22_ALONE, 8),
            Profile("dnxhr hqx", Y22_ALONE, 12),
            Profile("dnxhr 444", Y24_ALONE, 12),
        ),
        intra=True,
        tags=("AVdn",),
    ),
)
