"""MPEG-2 video, by the library's own encoder."""

from __future__ import annotations

from math import ceil

from ...core.planning.encoding import PictureFixed, RatedPicture
from ...core.planning.steps import PictureFormat
from .setup import PictureSetup, rated, tagged

# The numbers of ISO/IEC 13818-2 Tables 8-3 and 8-4, which the library takes as they are.
LEVELS = {"low": "10", "main": "8", "high 1440": "6", "high": "4"}
LEVELS_422 = LEVELS | {"main": "5", "high": "2"}
# D-10 is at 30, 40 or 50 Mb/s by its name, though a second of 525 lines has a little less.
STEP = 10_000_000  # b/s
PROFILES = {"main": "4", "4:2:2": "0"}


def setup(e: RatedPicture | PictureFixed, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options."""
    if isinstance(e, PictureFixed):
        return _d10(e, f)
    assert e.level is not None
    numbers = LEVELS_422 if e.profile == "4:2:2" else LEVELS
    options = rated(e, f) | {
        "intra_dc_precision": "2" if e.gop == 1 else "1",
        "qmin": "1",
        "b_strategy": "0",
        "a53cc": str(int(e.captions)),
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
    return PictureSetup("mpeg2video", _by_quantiser(e, options), bit_rate=e.kept_to)


def _by_quantiser(e: RatedPicture, options: dict[str, str]) -> dict[str, str]:
    """Have every frame coded by the same quantiser, if that is asked: there is no other."""
    only = str(e.quantiser)
    return options if e.quantiser is None else options | {"qmin": only, "qmax": only}


def _d10(e: PictureFixed, f: PictureFormat) -> PictureSetup:
    """SMPTE ST 356: every frame by itself, in the same bytes, with tables of its own kind."""
    # No more than fills the frame, which is then filled up to the byte.
    rate = int(8 * e.frame_bytes * f.rate)
    buffer = str(ceil(rate / f.rate))
    options = tagged(f) | {
        "b": str(rate),
        "minrate": str(rate),
        "maxrate": str(rate),
        "bufsize": buffer,
        "rc_init_occupancy": buffer,
        "g": "1",
        "bf": "0",
        "profile": PROFILES["4:2:2"],
        "level": LEVELS_422["main"],
        "intra_vlc": "1",
        "non_linear_quant": "1",
        "qscale_type": "1",
        "intra_dc_precision": "2",
        "qmin": "1",
        "qmax": "12",
        "mpv_flags": "+strict_gop",
        "flags": "+ildct+low_delay",
    }
    told = ceil(rate / STEP) * STEP
    return PictureSetup(
        "mpeg2video", options, bit_rate=rate, stated=told, frame_bytes=e.frame_bytes
    )


def first(e: RatedPicture, f: PictureFormat) -> PictureSetup:
    """Give the encoder of MPEG-1 and its options."""
    options = rated(e, f) | {"qmin": "1", "b_strategy": "0"}
    if e.constant:
        options |= {"minrate": str(e.bit_rate), "rc_init_occupancy": str(e.buffer)}
    return PictureSetup("mpeg1video", _by_quantiser(e, options), bit_rate=e.kept_to)


PICTURE = {"mpeg1video": first, "mpeg2video": setup}
