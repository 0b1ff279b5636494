"""HAP: texture blocks by etcpak, packed by Snappy in sections that decoders unpack side by side.

A frame is a section: its length in three bytes (or nought, and then four bytes after the type), its
type in one, and its bytes. The type says in its upper half how it is packed, in its lower one which
blocks it has. A packed section begins with a container of two tables, a byte and four bytes a
chunk: how it is packed, and its length.
"""

from __future__ import annotations

import io
import struct
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

import av
import cramjam
import etcpak
import numpy as np
import numpy.typing as npt
from av.container import OutputContainer
from av.packet import Packet
from av.video.codeccontext import VideoCodecContext
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ...core.planning.encoding import PictureByContent
from ...core.planning.steps import PictureFormat
from .. import wrappers
from .setup import Pass
from .side_by_side import SideBySide

Samples = npt.NDArray[np.uint8]
Texture = Callable[[Samples], bytes]
BLOCK = 4  # samples across and down
CHUNKS, LEAST_CHUNK = 8, 1 << 16  # that a frame is packed in, and bytes of one at least
PLAIN_CHUNK, SNAPPY_CHUNK = 0x0A, 0x0B
PLAIN, CHUNKED = 0xA0, 0xC0
INSTRUCTIONS, PACKED_BY, LENGTHS, SEVERAL = 0x01, 0x02, 0x03, 0x0D
LONG = 1 << 24


def bc1(rgba: Samples) -> bytes:
    """Give blocks of red, green and blue."""
    return bytes(etcpak.compress_bc1(rgba.tobytes(), rgba.shape[1], rgba.shape[0]))


def bc3(rgba: Samples) -> bytes:
    """Give blocks of red, green and blue, with transparency."""
    return bytes(etcpak.compress_bc3(rgba.tobytes(), rgba.shape[1], rgba.shape[0]))


def bc4(rgba: Samples) -> bytes:
    """Give blocks of transparency."""
    alone = np.zeros_like(rgba)
    alone[..., 0] = rgba[..., 3]
    return bytes(etcpak.compress_bc4(alone.tobytes(), rgba.shape[1], rgba.shape[0]))


def scaled_ycocg(rgba: Samples) -> bytes:
    """Give blocks of chroma in red and green, its scale in blue, and luma where transparency is.

    Each block's chroma is stretched by 1, 2 or 4, as far as it goes: it has only five or six bits.
    """
    r, g, b = (rgba[..., n].astype(np.int16) for n in range(3))
    luma = (r + 2 * g + b + 2) >> 2
    orange, green = (r - b) / 2, (2 * g - r - b) / 4
    height, width = luma.shape
    blocks = (height // BLOCK, BLOCK, width // BLOCK, BLOCK)
    widest = np.maximum(np.abs(orange), np.abs(green)).reshape(blocks).max(axis=(1, 3))
    scale = np.where(widest < 32, 4, np.where(widest < 64, 2, 1)).repeat(BLOCK, 0).repeat(BLOCK, 1)
    made = np.empty_like(rgba)
    made[..., 0] = np.clip(np.rint(orange * scale) + 128, 0, 255)
    made[..., 1] = np.clip(np.rint(green * scale) + 128, 0, 255)
    made[..., 2] = (scale - 1) << 3
    made[..., 3] = np.clip(luma, 0, 255)
    return bc3(made)


@dataclass(frozen=True)
class Kind:
    """A kind of frame: the four characters that name it, and its textures by type."""

    tag: str
    textures: tuple[tuple[int, Texture], ...]


KINDS = {
    "hap": Kind("Hap1", ((0x0B, bc1),)),
    "hap alpha": Kind("Hap5", ((0x0E, bc3),)),
    "hap q": Kind("HapY", ((0x0F, scaled_ycocg),)),
    "hap q alpha": Kind("HapM", ((0x0F, scaled_ycocg), (0x01, bc4))),
}


def section(kind: int, body: bytes) -> bytes:
    """Put a head before some bytes."""
    if len(body) < LONG:
        return len(body).to_bytes(3, "little") + bytes([kind]) + body
    return struct.pack("<BBBBI", 0, 0, 0, kind, len(body)) + body


def packed(texture: int, blocks: bytes) -> bytes:
    """Pack the blocks of a texture, in chunks that can be unpacked side by side."""
    size = max(LEAST_CHUNK, -(-len(blocks) // CHUNKS))
    chunks = [blocks[at : at + size] for at in range(0, len(blocks), size)]
    made = [bytes(cramjam.snappy.compress_raw(chunk)) for chunk in chunks]
    # What grows when it is packed stays as it is.
    smaller = [len(m) < len(c) for m, c in zip(made, chunks, strict=True)]
    if not any(smaller):
        return section(PLAIN | texture, blocks)
    kept = [m if s else c for m, c, s in zip(made, chunks, smaller, strict=True)]
    how = bytes(SNAPPY_CHUNK if s else PLAIN_CHUNK for s in smaller)
    lengths = struct.pack(f"<{len(kept)}I", *map(len, kept))
    tables = section(PACKED_BY, how) + section(LENGTHS, lengths)
    return section(CHUNKED | texture, section(INSTRUCTIONS, tables) + b"".join(kept))


def frame_of(profile: str, frame: VideoFrame) -> bytes:
    """Code a frame."""
    return coded(profile, np.asarray(frame.to_ndarray(format="rgba"), np.uint8))


def coded(profile: str, rgba: Samples) -> bytes:
    """Code a frame of rows x columns x 4."""
    height, width = rgba.shape[:2]
    more = ((0, -height % BLOCK), (0, -width % BLOCK), (0, 0))
    whole = np.pad(rgba, more, mode="edge")
    sections = [packed(kind, texture(whole)) for kind, texture in KINDS[profile].textures]
    return sections[0] if len(sections) == 1 else section(SEVERAL, b"".join(sections))


@dataclass(frozen=True)
class HapSetup:
    """Opens a stream of HAP, which the codec library reads and does not make."""

    profile: str

    def open(self, container: OutputContainer, f: PictureFormat, turn: Pass | None) -> SideBySide:
        """Add a stream to a file."""
        tag, codes = KINDS[self.profile].tag, partial(frame_of, self.profile)
        stood = wrappers.stood_in(container, "hap", f)
        if stood is not None:
            return SideBySide(stood.stream, f.rate, codes, (stood.tag, tag.encode()))
        with av.open(io.BytesIO(_model(f, tag))) as model:
            stream = container.add_stream_from_template(model.streams.video[0], opaque=True)
        assert isinstance(stream, VideoStream)
        stream.rate = f.rate
        context = stream.codec_context
        assert isinstance(context, VideoCodecContext)
        context.codec_tag, context.sample_aspect_ratio = tag, f.sample_aspect
        return SideBySide(stream, f.rate, codes)


def _model(f: PictureFormat, tag: str) -> bytes:
    """Make a file of one frame, after whose stream another can be added."""
    file = io.BytesIO()
    with av.open(file, "w", format="mov") as container:
        stream = container.add_mux_stream("hap", rate=f.rate, width=f.width, height=f.height)
        packet: Packet[Any] = Packet(section(PLAIN | 0x0B, bytes(8)))
        packet.pts = packet.dts = 0
        packet.time_base, packet.is_keyframe, packet.stream = 1 / f.rate, True, stream
        container.mux(packet)
    return file.getvalue().replace(b"Hap1", tag.encode())


def setup(e: PictureByContent, f: PictureFormat) -> HapSetup:
    """Give what opens the stream."""
    return HapSetup(e.profile)


PICTURE = {"hap": setup}
