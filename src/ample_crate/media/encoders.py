"""How each codec that can be made is asked of the codec library: one place a codec."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..core.planning.plan import PictureTarget, SoundTarget

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
MPEG2_LEVEL = {"low": "10", "main": "8", "high 1440": "6", "high": "4"}


@dataclass(frozen=True)
class Setup:
    """The library's encoder and its options."""

    encoder: str
    options: dict[str, str]


def colour_set(matrix: str, height: int) -> str:
    """Name the colour set for a matrix; BT.601 differs between 625 and 525 lines."""
    if matrix == "BT.601":
        return "BT.601/525" if height in {480, 486, 512, 240} else "BT.601/625"
    return matrix if matrix in COLOUR else "BT.709"


def _common(p: PictureTarget) -> dict[str, str]:
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


def _h264(p: PictureTarget) -> Setup:
    options = _common(p) | {
        "preset": "medium",
        "profile": p.profile.replace("high 4:2:2", "high422").replace("high 10", "high10"),
        "refs": str(p.reference_frames),
        "sc_threshold": "40" if p.gop > 1 else "0",
    }
    params = []
    if p.level is not None:
        options["level"] = f"{float(p.level):g}"
    if p.interlaced:
        options["flags"] = "+ildct+ilme"
        params.append("tff=1" if p.order == "upper first" else "bff=1")
    if p.constant:
        options["nal-hrd"] = "cbr"
        options["minrate"] = str(p.bit_rate)
    elif p.named:
        options["nal-hrd"] = "vbr"
    if p.slices > 1:
        params.append(f"slices={p.slices}")
    if params:
        options["x264-params"] = ":".join(params)
    return Setup("libx264", options)


def _mpeg2(p: PictureTarget) -> Setup:
    level = p.profile_level.split("@")[1] if "@" in p.profile_level else "main"
    options = _common(p) | {
        "intra_dc_precision": "2" if p.gop == 1 else "1",
        "qmin": "1",
        "b_strategy": "0",
        "profile": {"main": "4", "4:2:2": "0"}[p.profile],
        "level": {"main": "5", "high": "2"}.get(level, MPEG2_LEVEL[level])
        if p.profile == "4:2:2"
        else MPEG2_LEVEL[level],
    }
    if p.interlaced:
        options["flags"] = "+ildct+ilme"
        options["alternate_scan"] = "1"
    if p.constant:
        options["minrate"] = str(p.bit_rate)
        # The first frames may use the whole buffer, so that the stream is constant from its first
        # second.
        options["rc_init_occupancy"] = str(p.buffer)
    return Setup("mpeg2video", options)


PICTURE: dict[str, Callable[[PictureTarget], Setup]] = {"h264": _h264, "mpeg2video": _mpeg2}
SOUND = {
    "aac": "aac",
    "mp2": "mp2",
    "ac3": "ac3",
    "pcm_s16le": "pcm_s16le",
    "pcm_s24le": "pcm_s24le",
    "pcm_dvd": "pcm_dvd",
}


def picture(target: PictureTarget) -> Setup:
    """Give the encoder and options for a picture."""
    return PICTURE[target.codec](target)


def sound(target: SoundTarget) -> Setup:
    """Give the encoder and options for a sound track."""
    return Setup(SOUND[target.codec], {"b": str(target.bit_rate)} if target.bit_rate else {})
