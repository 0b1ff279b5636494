"""Codecs of whole frames without profiles that specs name: Motion JPEG, FFV1 (RFC 9043), DV (IEC
61834, SMPTE ST 314).
"""

from __future__ import annotations

from .codec import PictureCodec, of

CODECS = (
    PictureCodec(
        "mjpeg",
        "Motion JPEG",
        also=("MJPG", "JPEG"),
        wrappers=of("mov", "avi", "matroska", "mp4"),
        intra=True,
    ),
    PictureCodec(
        "ffv1",
        "FFV1",
        wrappers=of("matroska", "avi", "mov"),
        alpha=True,
        rated=False,
        intra=True,
    ),
    PictureCodec("dvvideo", "DV", wrappers=of("dv", "avi", "mov", "mxf"), rated=False, intra=True),
)
