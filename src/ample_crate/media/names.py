"""The codec library's names and the trade's, side by side."""

from __future__ import annotations

from fractions import Fraction

WRAPPERS = {
    "mpeg": "mpeg-ps", "mpegts": "mpeg-ts", "mxf": "mxf", "mxf_d10": "mxf", "avi": "avi", "wav": "wav", "w64": "wav",
    "aiff": "aiff", "flac": "flac", "mp3": "mp3", "ogg": "ogg", "flv": "flv", "asf": "asf", "gxf": "gxf", "dv": "dv",
    "mpegvideo": "mpeg-es", "h264": "h264-es", "ac3": "ac3", "aac": "adts",
}  # fmt: skip
MUXERS = {"mp4": "mp4", "mov": "mov", "mpeg-ps": "vob", "mpeg-ts": "mpegts", "matroska": "matroska", "mxf": "mxf"}
# ISO/IEC 23091-2 code points (the numbers that H.264 and MPEG-2 streams carry).
MATRIX = {1: "BT.709", 5: "BT.601", 6: "BT.601", 9: "BT.2020", 0: "RGB"}
PRIMARIES = {1: "BT.709", 5: "BT.601", 6: "BT.601", 9: "BT.2020"}
TRANSFER = {1: "BT.709", 6: "BT.601", 5: "BT.470BG", 13: "sRGB", 14: "BT.2020", 15: "BT.2020", 16: "PQ", 18: "HLG"}
RANGE = {1: "limited", 2: "full"}
FIELD_ORDER = {1: "none", 2: "upper first", 3: "lower first", 4: "upper first", 5: "lower first"}
MPEG2_LEVEL = {10: "low", 8: "main", 6: "high 1440", 4: "high", 5: "main", 2: "high"}
LAYOUTS = {"5.1(side)": "5.1", "1 channels": "mono", "2 channels": "stereo", "downmix": "stereo"}
PROFILES = {"constrained baseline": "baseline", "lc": "LC"}


def wrapper(format_name: str, brand: str | None) -> str:
    """Name the wrapper from the demuxer's name and, for the ISO family, its major brand."""
    if "mov" in format_name.split(","):
        return "mov" if (brand or "qt  ").startswith("qt") else "mp4"
    if "matroska" in format_name:
        return "matroska"
    return WRAPPERS.get(format_name, format_name.split(",")[0])


def level(codec: str, number: int | None) -> Fraction | None:
    """Give the level as it is spoken: H.264 level_idc / 10, HEVC general_level_idc / 30."""
    if number is None or number <= 0:
        return None
    if codec == "h264":
        return Fraction(number, 10)
    if codec == "hevc":
        return Fraction(number, 30)
    return None
