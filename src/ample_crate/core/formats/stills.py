"""Codecs of stills and of image sequences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ..units.values import Value
from .codec import FileHead, PictureCodec, PictureMaking, of
from .pixels import RGB, Pixels
from .size import FixedPerFrame, Frame, Lossless

STILLS = of("still image", "image sequence")
# SMPTE ST 268-1: byte 801 gives the transfer characteristic of the first image element.
TRANSFER_AT = 801
TRANSFERS = {1: "log", 2: "linear", 3: "log", 5: "BT.709", 6: "BT.709", 7: "BT.601", 8: "BT.601"}


def dpx_head(head: bytes) -> Mapping[str, Value]:
    """Read the transfer characteristic of a DPX file's first image element."""
    if len(head) <= TRANSFER_AT or head[:4] not in {b"SDPX", b"XPDS"}:
        return {}
    transfer = TRANSFERS.get(head[TRANSFER_AT])
    return {"picture.transfer": transfer} if transfer else {}


RGB8, RGB10, RGB16 = Pixels(RGB, 8), Pixels(RGB, 10), Pixels(RGB, 16)
CLEAR8, CLEAR16 = Pixels(RGB, 8, alpha=True), Pixels(RGB, 16, alpha=True)
DPX_HEAD = 1664  # bytes that the codec library puts before the samples


def dpx_sizes(profile: str, frame: Frame) -> Sequence[int]:
    """Give the bytes of an image: three samples of 8 or 16 bit, or of 10 in a word of 32."""
    each = {8: 3, 10: 4, 16: 6}.get(frame.pixels.depth)
    if each is None or frame.fields is not None:
        return ()
    return (DPX_HEAD + each * frame.size.width * frame.size.height,)


def unstated(profile: str, wrapper: str) -> frozenset[str]:
    """Give what nobody states of R'G'B' in an image."""
    return of("picture.range", "picture.matrix", "picture.primaries", "picture.transfer")


def dpx_unstated(profile: str, wrapper: str) -> frozenset[str]:
    """Give what nobody states of an image that tells its transfer."""
    return unstated(profile, wrapper) - {"picture.transfer"}


def png_unstated(profile: str, wrapper: str) -> frozenset[str]:
    """Give what nobody states of an image that always has the full range."""
    return unstated(profile, wrapper) - {"picture.range"}


def _still(key: str, label: str, extension: str, made: PictureMaking, **more: Any) -> PictureCodec:
    return PictureCodec(
        key,
        label,
        rated=False,
        intra=True,
        interlaced=False,
        extension=extension,
        made=made,
        **more,
    )


CODECS = (
    _still(
        "png",
        "PNG",
        ".png",
        PictureMaking(
            "",
            STILLS,
            Lossless(),
            20.0,
            fields=False,
            layouts=(RGB8, CLEAR8, RGB16, CLEAR16),
            unstated=png_unstated,
        ),
        wrappers=of("mov", "avi") | STILLS,
        alpha=True,
    ),
    _still(
        "dpx",
        "DPX",
        ".dpx",
        PictureMaking(
            "",
            STILLS,
            FixedPerFrame(dpx_sizes),
            60.0,
            fields=False,
            layouts=(RGB10, RGB8, RGB16),
            unstated=dpx_unstated,
            no_word_for=of("PQ", "HLG", "BT.2020"),
        ),
        wrappers=STILLS,
        alpha=True,
        file_head=FileHead(TRANSFER_AT + 1, dpx_head),
    ),
    _still(
        "tiff",
        "TIFF",
        ".tif",
        PictureMaking(
            "",
            STILLS,
            Lossless(head=65536),
            60.0,
            fields=False,
            layouts=(RGB8, CLEAR8, RGB16, CLEAR16),
            unstated=unstated,
        ),
        wrappers=STILLS,
        alpha=True,
    ),
    _still(
        "exr",
        "OpenEXR",
        ".exr",
        PictureMaking(
            "",
            STILLS,
            Lossless(),
            30.0,
            fields=False,
            layouts=(RGB16, CLEAR16),
            unstated=dpx_unstated,
            light=True,
        ),
        also=("EXR",),
        wrappers=STILLS,
        alpha=True,
    ),
    PictureCodec("jpeg2000", "JPEG 2000", also=("J2K",)),
    PictureCodec("bmp", "BMP"),
    PictureCodec("gif", "GIF"),
)
