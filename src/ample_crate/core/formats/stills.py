"""Codecs of stills and of image sequences."""

from __future__ import annotations

from collections.abc import Mapping

from ..units.values import Value
from .codec import FileHead, PictureCodec, of

STILLS = of("still image", "image sequence")
# SMPTE ST 268-1: byte 801 gives the transfer characteristic of the first image element.
TRANSFER_AT = 801
TRANSFERS = {1: "log", 2: "linear", 3: "log", 5: "BT.709", 6: "BT.709", 7: "BT.709"}


def dpx_head(head: bytes) -> Mapping[str, Value]:
    """Read the transfer characteristic of a DPX file's first image element."""
    if len(head) <= TRANSFER_AT or head[:4] not in {b"SDPX", b"XPDS"}:
        return {}
    transfer = TRANSFERS.get(head[TRANSFER_AT])
    return {"picture.transfer": transfer} if transfer else {}


CODECS = (
    PictureCodec(
        "png",
        "PNG",
        wrappers=of("mov", "avi") | STILLS,
        alpha=True,
        rated=False,
        intra=True,
        interlaced=False,
    ),
    PictureCodec(
        "dpx",
        "DPX",
        wrappers=STILLS,
        alpha=True,
        rated=False,
        intra=True,
        interlaced=False,
        file_head=FileHead(TRANSFER_AT + 1, dpx_head),
    ),
    PictureCodec(
        "tiff",
        "TIFF",
        wrappers=STILLS,
        alpha=True,
        rated=False,
        intra=True,
        interlaced=False,
    ),
    PictureCodec("exr", "OpenEXR", also=("EXR",)),
    PictureCodec("jpeg2000", "JPEG 2000", also=("J2K",)),
    PictureCodec("bmp", "BMP"),
    PictureCodec("gif", "GIF"),
)
