"""Uncompressed picture, by the library's packers."""

from __future__ import annotations

from ...core.planning.encoding import PictureFixed
from ...core.planning.steps import PictureFormat
from ...core.units.fields import FieldOrder
from .setup import PictureSetup, tagged

PACKED = {
    "v210": ("v210", "yuv422p10le"),
    "r210": ("r210", "gbrp10le"),
    "rawvideo": ("2vuy", "uyvy422"),
}
ORDERS = {FieldOrder.UPPER: "tt", FieldOrder.LOWER: "bb"}


def setup(e: PictureFixed, f: PictureFormat) -> PictureSetup:
    """Give the encoder and how it takes samples."""
    tag, pixels = PACKED[e.codec]
    options = tagged(f)
    if f.fields is not None:
        # Samples say nothing of fields: the wrapper has to.
        options["field_order"] = ORDERS[f.fields]
    return PictureSetup(e.codec, options, tag=tag, pixels=pixels)


PICTURE = {codec: setup for codec in PACKED}
