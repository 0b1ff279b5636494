"""What encoders of the codec library are opened with, and what they have in common."""

from __future__ import annotations

from dataclasses import dataclass, field

from ...core.planning.plan import PictureTarget, SoundTarget

# Chroma, depth and alpha by the library's names.
PIXELS = {
    ("4:2:0", 8): "yuv420p",
    ("4:2:2", 8): "yuv422p",
    ("4:4:4", 8): "yuv444p",
    ("4:2:0", 10): "yuv420p10le",
    ("4:2:2", 10): "yuv422p10le",
    ("4:4:4", 10): "yuv444p10le",
}
# ISO/IEC 23091-2 names: matrix, primaries, transfer. BT.601 has one set for 625 lines and one for
# 525.
COLOUR = {
    "BT.709": ("bt709", "bt709", "bt709"),
    "BT.601/625": ("bt470bg", "bt470bg", "smpte170m"),
    "BT.601/525": ("smpte170m", "smpte170m", "smpte170m"),
    "BT.2020": ("bt2020nc", "bt2020", "bt2020-10"),
}


@dataclass(frozen=True)
class PictureSetup:
    """The library's encoder of a picture and its options.

    Attributes:
        frame_threads: whether it works on several frames at once; else on slices of one.
    """

    encoder: str
    options: dict[str, str] = field(default_factory=dict)
    frame_threads: bool = False


@dataclass(frozen=True)
class SoundSetup:
    """The library's encoder of sound, the sample format that it takes, and its options."""

    encoder: str
    sample_format: str
    options: dict[str, str] = field(default_factory=dict)


def rated(encoder: str, sample_format: str, target: SoundTarget) -> SoundSetup:
    """Set up an encoder that is given a bit rate."""
    options = {"b": str(target.bit_rate)} if target.bit_rate else {}
    return SoundSetup(encoder, sample_format, options)


def colour_set(matrix: str, height: int) -> str:
    """Name the colour set for a matrix; BT.601 differs between 625 and 525 lines."""
    if matrix == "BT.601":
        return "BT.601/525" if height in {480, 486, 512, 240} else "BT.601/625"
    return matrix if matrix in COLOUR else "BT.709"


def common(p: PictureTarget) -> dict[str, str]:
    """Give the options that every encoder with a rate takes."""
    matrix, primaries, transfer = COLOUR[colour_set(p.matrix, p.height)]
    return {
        "b": str(p.bit_rate),
        "maxrate": str(p.max_rate),
        "bufsize": str(p.buffer),
        "g": str(p.gop),
        "bf": str(p.b_frames),
        "color_range": "tv",
        "colorspace": matrix,
        "color_primaries": primaries,
        "color_trc": transfer,
    }
