"""FFV1 and DV, by the library's own encoders."""

from __future__ import annotations

from ...core.planning.encoding import PictureByContent, PictureFixed, PictureLossless
from ...core.planning.steps import PictureFormat
from .setup import PictureSetup, tagged

QUALITY = "3"  # of the library's 2 to 31, the finest first


def ffv1(e: PictureLossless, f: PictureFormat) -> PictureSetup:
    """Give the encoder: version 3, each frame by itself, in slices with sums of their own."""
    options = tagged(f) | {"level": "3", "g": "1", "slices": "4", "slicecrc": "1"}
    return PictureSetup("ffv1", options)


def dv(e: PictureFixed, f: PictureFormat) -> PictureSetup:
    """Give the encoder, which finds its kind by frame and samples."""
    return PictureSetup("dvvideo", tagged(f))


def jpeg(e: PictureByContent, f: PictureFormat) -> PictureSetup:
    """Give the encoder at one quality, whatever the picture needs for it."""
    return PictureSetup("mjpeg", tagged(f) | {"qmin": QUALITY, "qmax": QUALITY, "bf": "0"})


PICTURE = {"mjpeg": jpeg, "ffv1": ffv1, "dvvideo": dv}
