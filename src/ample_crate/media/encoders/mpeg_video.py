"""MPEG-2 video, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.encoding import RatedPicture
from ...core.planning.steps import PictureFormat
from .setup import PictureSetup, rated

# The numbers of ISO/IEC 13818-2 Tables 8-3 and 8-4, which the library takes as they are.
LEVELS = {"low": "10", "main": "8", "high 1440": "6", "high": "4"}
LEVELS_422 = LEVELS | {"main": "5", "high": "2"}
PROFILES = {"main": "4", "4:2:2": "0"}


def setup(e: RatedPicture, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options."""
    assert e.level is not None
    numbers = LEVELS_422 if e.profile == "4:2:2" else LEVELS
    options = rated(e, f) | {
        "intra_dc_precision": "2" if e.gop == 1 else "1",
        "qmin": "1",
        "b_strategy": "0",
        "profile": PROFILES[e.profile],
        "level": numbers[e.level.split("@")[1]],
    }
    if f.fields is not None:
        options["flags"] = "+ildct+ilme"
        options["alternate_scan"] = "1"
    if e.constant:
        options["minrate"] = str(e.bit_rate)
        # The first frames may use the whole buffer, so that the stream is constant from its first
        # second.
        options["rc_init_occupancy"] = str(e.buffer)
    return PictureSetup("mpeg2video", options, bit_rate=e.bit_rate)


PICTURE = {"mpeg2video": setup}
