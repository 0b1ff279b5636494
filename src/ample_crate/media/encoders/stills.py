"""Images: DPX, TIFF, PNG, OpenEXR."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from av.container import OutputContainer
from av.packet import Packet

from ...core.formats.stills import TRANSFER_AT
from ...core.planning.encoding import PictureFixed, PictureLossless
from ...core.planning.steps import PictureFormat
from .setup import Coder, Pass, PictureSetup, rewritten

# SMPTE ST 268-1 Table 5A and 5B (from memory), transfer and colorimetry: ITU-R BT.709, and BT.601
# of 625 and of 525 lines; linear and logarithmic ones of colour that is the user's affair.
POINTS = {"BT.709": (6, 6), "BT.601/625": (7, 7), "BT.601/525": (8, 8)}
CURVES = {"linear": (2, 0), "log": (3, 0)}
UNSAID = (0, 0)
PNG = {8: ("rgb24", "rgba"), 16: ("rgb48be", "rgba64be")}
TIFF = {8: ("rgb24", "rgba"), 16: ("rgb48le", "rgba64le")}


def png(e: PictureLossless, f: PictureFormat) -> PictureSetup:
    """Give the encoder."""
    return PictureSetup("png", pixels=PNG[f.depth][f.alpha])


def tiff(e: PictureLossless, f: PictureFormat) -> PictureSetup:
    """Give the encoder, which packs without loss."""
    return PictureSetup("tiff", {"compression_algo": "deflate"}, pixels=TIFF[f.depth][f.alpha])


@dataclass(frozen=True)
class DpxSetup:
    """The library's encoder of DPX, which does not say how code values are to be shown."""

    def open(self, container: OutputContainer, f: PictureFormat, turn: Pass | None) -> Coder:
        """Add a stream to a file."""
        pixels = {8: "rgb24", 10: "gbrp10le", 16: "rgb48le"}[f.depth]
        points = (CURVES if f.transfer else POINTS).get(f.transfer or f.colour, UNSAID)
        return Told(PictureSetup("dpx", pixels=pixels).open(container, f, turn), points)


class Told:
    """Writes transfer and colorimetry into the head of each image."""

    def __init__(self, coder: Coder, points: tuple[int, int]) -> None:
        self._coder, self._points = coder, points

    def encode(self, frame: Any) -> list[Packet[Any]]:
        """Give the packets that a frame, or with None the end, makes ready."""
        return [self._told(packet) for packet in self._coder.encode(frame)]

    def _told(self, packet: Packet[Any]) -> Packet[Any]:
        image = bytearray(bytes(packet))
        image[TRANSFER_AT : TRANSFER_AT + 2] = bytes(self._points)
        return rewritten(packet, bytes(image))


def dpx(e: PictureFixed, f: PictureFormat) -> DpxSetup:
    """Give what opens the stream."""
    return DpxSetup()


def exr(e: PictureLossless, f: PictureFormat) -> PictureSetup:
    """Give the encoder: half floats, packed without loss 16 lines at a time."""
    options = {"format": "half", "compression": "zip16"}
    return PictureSetup("exr", options, pixels="gbrapf32le" if f.alpha else "gbrpf32le")


PICTURE = {"png": png, "dpx": dpx, "tiff": tiff, "exr": exr}
