"""ProRes (SMPTE RDD 36); profile names as the codec library reads them, tags from memory."""

from __future__ import annotations

from .codec import Y22_ALONE, Y24_ALONE, PictureCodec, Profile, of

CODECS = (
    PictureCodec(
        "prores",
        "ProRes",
        wrappers=of("mov", "mxf"),
        profiles=(
            Profile("proxy", Y22_ALONE, 10, tag="apco"),
            Profile("lt", Y22_ALONE, 10, tag="apcs"),
            Profile("standard", Y22_ALONE, 10, tag="apcn"),
            Profile("hq", Y22_ALONE, 10, tag="apch"),
            Profile("4444", Y24_ALONE, 12, alpha=True, tag="ap4h"),
            Profile("xq", Y24_ALONE, 12, alpha=True, tag="ap4x"),
        ),
        intra=True,
    ),
)
