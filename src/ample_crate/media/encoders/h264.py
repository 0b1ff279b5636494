"""H.264, by x264."""

from __future__ import annotations

from ...core.planning.plan import PictureTarget
from .setup import PictureSetup, common

# Its names for profiles, where they differ.
PROFILES = {"high 10": "high10", "high 4:2:2": "high422"}


def setup(p: PictureTarget) -> PictureSetup:
    """Give the encoder and its options."""
    options = common(p) | {
        "preset": "medium",
        "profile": PROFILES.get(p.profile, p.profile),
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
    return PictureSetup("libx264", options, frame_threads=True)


PICTURE = {"h264": setup}
