"""MPEG-2 video, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.plan import PictureTarget
from .setup import PictureSetup, common

# The numbers of ISO/IEC 13818-2 Tables 8-3 and 8-4, which the library takes as they are.
LEVELS = {"low": "10", "main": "8", "high 1440": "6", "high": "4"}
LEVELS_422 = LEVELS | {"main": "5", "high": "2"}
PROFILES = {"main": "4", "4:2:2": "0"}


def setup(p: PictureTarget) -> PictureSetup:
    """Give the encoder and its options."""
    level = p.profile_level.split("@")[1] if "@" in p.profile_level else "main"
    numbers = LEVELS_422 if p.profile == "4:2:2" else LEVELS
    options = common(p) | {
        "intra_dc_precision": "2" if p.gop == 1 else "1",
        "qmin": "1",
        "b_strategy": "0",
        "profile": PROFILES[p.profile],
        "level": numbers[level],
    }
    if p.interlaced:
        options["flags"] = "+ildct+ilme"
        options["alternate_scan"] = "1"
    if p.constant:
        options["minrate"] = str(p.bit_rate)
        # The first frames may use the whole buffer, so that the stream is constant from its first
        # second.
        options["rc_init_occupancy"] = str(p.buffer)
    return PictureSetup("mpeg2video", options)


PICTURE = {"mpeg2video": setup}
