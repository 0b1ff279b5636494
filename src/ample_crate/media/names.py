"""The codec library's names and the trade's, side by side."""

from __future__ import annotations

import os
from fractions import Fraction

from av.audio.layout import AudioLayout
from av.audio.stream import AudioStream

from .sequence import DESCRIPTION

WRAPPERS = {
    "mpeg": "mpeg-ps",
    "mpegts": "mpeg-ts",
    "mxf": "mxf",
    "mxf_d10": "mxf",
    "avi": "avi",
    "wav": "wav",
    "w64": "wav",
    "aiff": "aiff",
    "flac": "flac",
    "mp3": "mp3",
    "ogg": "ogg",
    "flv": "flv",
    "asf": "asf",
    "gxf": "gxf",
    "dv": "dv",
    "mpegvideo": "mpeg-es",
    "h264": "h264-es",
    "hevc": "hevc-es",
    "m4v": "mpeg4-es",
    "ac3": "ac3",
    "aac": "adts",
    "rm": "realmedia",
}
MUXERS = {
    "mp4": "mp4",
    "mov": "mov",
    "mpeg-ps": "vob",
    "mpeg-ts": "mpegts",
    "matroska": "matroska",
    "mxf": "mxf",
}
# ISO/IEC 23091-2 code points (the numbers that H.264 and MPEG-2 streams carry), from memory;
# tests/media holds them against an encoder's.
MATRIX = {
    0: "RGB",
    1: "BT.709",
    5: "BT.601",
    6: "BT.601",
    7: "SMPTE 240M",
    8: "YCgCo",
    9: "BT.2020",
    10: "BT.2020 constant luminance",
    14: "ICtCp",
}
PRIMARIES = {
    1: "BT.709",
    5: "BT.601",
    6: "BT.601",
    7: "SMPTE 240M",
    9: "BT.2020",
    10: "XYZ",
    11: "P3-DCI",
    12: "P3-D65",
}
TRANSFER = {
    1: "BT.709",
    4: "gamma 2.2",
    5: "BT.470BG",
    6: "BT.601",
    7: "SMPTE 240M",
    8: "linear",
    13: "sRGB",
    14: "BT.2020",
    15: "BT.2020",
    16: "PQ",
    17: "SMPTE ST 428",
    18: "HLG",
}
RANGE = {1: "limited", 2: "full"}
FIELD_ORDER = {1: "none", 2: "upper first", 3: "lower first", 4: "upper first", 5: "lower first"}
MPEG2_LEVEL = {10: "low", 8: "main", 6: "high 1440", 4: "high", 5: "main", 2: "high"}
LAYOUTS = {"5.1(side)": "5.1", "1 channels": "mono", "2 channels": "stereo", "downmix": "stereo"}
PROFILES = {"constrained baseline": "baseline", "lc": "LC"}


def wrapper(format_name: str, brand: str | None, path: str = "") -> str:
    """Name the wrapper from the demuxer's name and, for the ISO family, its major brand."""
    kinds = format_name.split(",")
    if "mov" in kinds:
        return "mov" if (brand or "qt  ").startswith("qt") else "mp4"
    if "matroska" in kinds:
        return "webm" if path.lower().endswith(".webm") else "matroska"
    if still(format_name, path):
        return "still image"
    if format_name == "image2":
        return "image sequence"
    return WRAPPERS.get(format_name, kinds[0])


def still(format_name: str, path: str) -> bool:
    """Say whether the demuxer's name means one image."""
    return format_name.endswith("_pipe") or (
        format_name == "image2" and os.path.basename(path) != DESCRIPTION
    )


def speakers(stream: AudioStream) -> str | None:
    """List a stream's channels in order by their short names, "FL FR FC LFE SL SR"."""
    return layout_speakers(stream.layout) if stream.layout is not None else None


def layout_speakers(layout: AudioLayout) -> str | None:
    """List a layout's channels in order; None where the stream does not say which they are."""
    found = [c.name for c in layout.channels]
    return " ".join(found) if found and all(found) and "NONE" not in found else None


def level(codec: str, number: int | None) -> Fraction | None:
    """Give the level as it is spoken: H.264 level_idc / 10, HEVC general_level_idc / 30."""
    if number is None or number <= 0:
        return None
    if codec == "h264":
        return Fraction(number, 10)
    if codec == "hevc":
        return Fraction(number, 30)
    return None
