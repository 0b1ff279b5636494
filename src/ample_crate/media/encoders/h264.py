"""H.264, by x264."""

from __future__ import annotations

from ...core.planning.encoding import PictureFixed, RatedPicture
from ...core.planning.steps import PictureFormat
from ...core.units.fields import FieldOrder
from .setup import PictureSetup, rated, tagged

# Classes of frames of equal bytes, and the bytes of a frame for each unit of them, at most.
CLASSES, MOST_OF_A_CLASS = (50, 100), 5760
PRESETS = {"usual": "medium", "faster": "veryfast"}
# Its names for profiles, where they differ.
PROFILES = {"high 10": "high10", "high 4:2:2": "high422"}


def setup(e: RatedPicture | PictureFixed, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options."""
    if isinstance(e, PictureFixed):
        return _intra(e, f)
    options = rated(e, f) | {
        "preset": PRESETS[e.pace],
        "profile": PROFILES.get(e.profile, e.profile),
        "refs": str(e.reference_frames),
        "a53cc": str(int(e.captions)),
        "sc_threshold": "40" if e.gop > 1 else "0",
    }
    params = []
    if e.quantiser is not None:
        options["crf"] = str(e.quantiser)
    if e.level is not None:
        options["level"] = e.level
    if f.fields is not None:
        options["flags"] = "+ildct+ilme"
        params.append("tff=1" if f.fields is FieldOrder.UPPER else "bff=1")
    if e.constant:
        options["nal-hrd"] = "cbr"
        options["minrate"] = str(e.bit_rate)
    elif e.named:
        options["nal-hrd"] = "vbr"
    if e.slices > 1:
        params.append(f"slices={e.slices}")
    if params:
        options["x264-params"] = ":".join(params)
    return PictureSetup("libx264", options, frame_threads=True, bit_rate=e.kept_to)


def _intra(e: PictureFixed, f: PictureFormat) -> PictureSetup:
    """Give frames of equal bytes: the encoder knows them by a nominal rate in Mb/s."""
    nominal = next(n for n in CLASSES if n * MOST_OF_A_CLASS >= e.frame_bytes)
    params = [f"avcintra-class={nominal}"]
    # Each frame has its own parameter sets: there are none in front.
    options = tagged(f) | {"flags": "-global_header", "preset": "medium"}
    if f.fields is not None:
        options["flags"] += "+ildct+ilme"
        params.append("tff=1" if f.fields is FieldOrder.UPPER else "bff=1")
    options["x264-params"] = ":".join(params)
    return PictureSetup("libx264", options, frame_threads=True)


PICTURE = {"h264": setup}
