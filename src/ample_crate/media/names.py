"""The codec library's names and the trade's, side by side."""

from __future__ import annotations

from av.audio.layout import AudioLayout
from av.audio.stream import AudioStream

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
    9: "log",
    10: "log",
    13: "sRGB",
    14: "BT.2020",
    15: "BT.2020",
    16: "PQ",
    17: "SMPTE ST 428",
    18: "HLG",
}
RANGE = {1: "limited", 2: "full"}
FIELD_ORDER = {1: "none", 2: "upper first", 3: "lower first", 4: "upper first", 5: "lower first"}
# The library's 4 and 5 have the field that is stored first shown last. MOV means by them that lines
# are interleaved, and MXF that the second of two fields is the one shown first (ST 377-1).
FIELD_ORDER_SECOND_FIRST = FIELD_ORDER | {4: "lower first", 5: "upper first"}
LAYOUTS = {"5.1(side)": "5.1", "1 channels": "mono", "2 channels": "stereo", "downmix": "stereo"}
PROFILES = {"constrained baseline": "baseline", "lc": "LC"}


def speakers(stream: AudioStream) -> str | None:
    """List a stream's channels in order by their short names, "FL FR FC LFE SL SR"."""
    return layout_speakers(stream.layout) if stream.layout is not None else None


def layout_speakers(layout: AudioLayout) -> str | None:
    """List a layout's channels in order; None where the stream does not say which they are."""
    found = [c.name for c in layout.channels]
    return " ".join(found) if found and all(found) and "NONE" not in found else None
