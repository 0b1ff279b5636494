"""Codecs that are read and can be asked for, and of which no more is known here."""

from __future__ import annotations

from .codec import PictureCodec, SoundCodec

CODECS: tuple[PictureCodec | SoundCodec, ...] = (
    PictureCodec("mpeg4", "MPEG-4 Visual", tags=("mp4v",)),
    PictureCodec("wmv2", "WMV 8"),
    PictureCodec("qtrle", "qtrle"),
    PictureCodec("huffyuv", "HuffYUV"),
    PictureCodec("theora", "Theora"),
    PictureCodec("vc1", "VC-1"),
    SoundCodec("wmav2", "WMA"),
    SoundCodec("dts", "DTS"),
    SoundCodec("truehd", "TrueHD"),
    SoundCodec("s302m", "ST 302", also=("SMPTE 302M",)),
)
