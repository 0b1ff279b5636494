"""What encoders of the codec library are opened with, and what they have in common.

A codec's module gives a `PictureSetup` or a `SoundSetup`. One that brings its own packets gives
something else with the same `open`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, NamedTuple, Protocol

from av.audio.stream import AudioStream
from av.codec.context import ThreadType
from av.container import OutputContainer
from av.packet import Packet
from av.stream import Stream
from av.video.stream import VideoStream

from ...core.errors import Impossible
from ...core.formats.pixels import RGB, Pixels
from ...core.planning.encoding import RatedPicture
from ...core.planning.sound_steps import SoundFormat
from ...core.planning.steps import PictureFormat
from .. import wrappers

# Chroma, depth and alpha by the library's names.
PIXELS = {
    Pixels(RGB, 8): "rgb0",
    Pixels(RGB, 8, alpha=True): "rgba",
    Pixels(RGB, 10): "gbrp10le",
    Pixels(RGB, 16): "rgb48le",
    Pixels(RGB, 16, alpha=True): "rgba64le",
    Pixels("4:1:1", 8): "yuv411p",
    Pixels("4:2:0", 8): "yuv420p",
    Pixels("4:2:2", 8): "yuv422p",
    Pixels("4:4:4", 8): "yuv444p",
    Pixels("4:2:0", 8, alpha=True): "yuva420p",
    Pixels("4:2:0", 10): "yuv420p10le",
    Pixels("4:2:2", 10): "yuv422p10le",
    Pixels("4:4:4", 10): "yuv444p10le",
    Pixels("4:4:4", 10, alpha=True): "yuva444p10le",
}
# ISO/IEC 23091-2 names: matrix, primaries, transfer. BT.601 has one set for 625 lines and one for
# 525. Of logarithms they know two, neither of a film's or a camera's own: both mean no more than
# "logarithmic" here.
COLOUR = {
    "BT.709": ("bt709", "bt709", "bt709"),
    "BT.601/625": ("bt470bg", "bt470bg", "smpte170m"),
    "BT.601/525": ("smpte170m", "smpte170m", "smpte170m"),
    "BT.2020": ("bt2020nc", "bt2020", "bt2020-10"),
}
TRANSFERS = {
    "PQ": "smpte2084",
    "HLG": "arib-std-b67",
    "log": "log100",
    "linear": "linear",
}
Options = Mapping[str, str]


class Coder(Protocol):
    """A stream of a file that is being written: takes frames, gives packets of that stream."""

    def encode(self, frame: Any) -> Sequence[Packet[Any]]:
        """Give the packets that a frame, or with None the end, makes ready."""


class Opens(Protocol):
    """What sets a stream up: adds it to a file, and gives what codes frames into it."""

    def open(self, container: OutputContainer, f: PictureFormat, turn: Pass | None) -> Coder:
        """Add a stream to a file; `turn` is which of two passes it is, if there are two."""


class Pass(NamedTuple):
    """One of two passes: its number, and the path of what the first finds out for the second."""

    number: int
    stats: str


def by_flags(options: Options, turn: Pass) -> Options:
    """Give the options of a pass, as most encoders take them."""
    return {"flags": f"{options.get('flags', '')}+pass{turn.number}", "stats": turn.stats}


@dataclass(frozen=True)
class PictureSetup:
    """The library's encoder of a picture and its options.

    Attributes:
        frame_threads: whether it works on several frames at once; else on slices of one.
        bit_rate: b/s; None for an encoder that is given none.
        tag: four characters by which a wrapper that has such names names it; empty for the
            library's.
        pixels: the library's name of how it takes samples, where it is another of the same ones.
        passing: gives the options of one of two passes.
        stated: b/s that the wrapper is told, where those are others.
        frame_bytes: to which every coded frame is filled up; None where they are as they come.
    """

    encoder: str
    options: dict[str, str] = field(default_factory=dict)
    frame_threads: bool = False
    bit_rate: int | None = None
    tag: str = ""
    pixels: str = ""
    passing: Callable[[Mapping[str, str], Pass], Options] = by_flags
    stated: int | None = None
    frame_bytes: int | None = None

    def open(self, container: OutputContainer, f: PictureFormat, turn: Pass | None) -> Coder:
        """Add a stream to a file; `turn` is which of two passes it is, if there are two."""
        options = dict(self.options)
        if turn is not None:
            options |= self.passing(self.options, turn)
        stream = container.add_stream(self.encoder, rate=f.rate)
        assert isinstance(stream, VideoStream)
        stream.width, stream.height = f.width, f.height
        stream.pix_fmt = self.pixels or pixels_of(f)
        context = stream.codec_context
        context.time_base = 1 / f.rate
        context.sample_aspect_ratio = f.sample_aspect
        if self.bit_rate is not None:
            context.bit_rate = self.bit_rate
        context.thread_type = ThreadType.AUTO if self.frame_threads else ThreadType.SLICE
        context.thread_count = 0
        if self.tag and wrappers.tagged(container.format.name):
            context.codec_tag = self.tag
        stream.options = dict(options)  # the stream's own type says any value
        if self.stated is not None:
            # An open encoder keeps its own rate; the file takes this one.
            context.options = dict(options)
            context.open()
            context.bit_rate = self.stated
        return stream if self.frame_bytes is None else Filled(stream, self.frame_bytes)


def rewritten(packet: Packet[Any], coded: bytes) -> Packet[Any]:
    """Give a packet with other bytes, in the same place of the same stream."""
    made: Packet[Any] = Packet(coded)
    made.pts, made.dts, made.time_base = packet.pts, packet.dts, packet.time_base
    made.is_keyframe, made.duration, made.stream = (
        packet.is_keyframe,
        packet.duration,
        packet.stream,
    )
    return made


def standing(coded: bytes, number: int, rate: Fraction, stream: Stream) -> Packet[Any]:
    """Give the packet of a frame that was coded by itself, by its number in a stream."""
    packet: Packet[Any] = Packet(coded)
    packet.pts = packet.dts = number
    packet.duration, packet.time_base = 1, 1 / rate
    packet.is_keyframe, packet.stream = True, stream
    return packet


class Filled:
    """Fills coded frames up to a size with zeros, which decoders of MPEG video pass over
    (ISO/IEC 13818-2 5.2.3).
    """

    def __init__(self, stream: VideoStream, size: int) -> None:
        self._stream, self._size = stream, size

    def encode(self, frame: Any) -> list[Packet[Any]]:
        """Give the packets that a frame, or with None the end, makes ready."""
        return [self._filled(packet) for packet in self._stream.encode(frame)]

    def _filled(self, packet: Packet[Any]) -> Packet[Any]:
        if packet.size > self._size:
            raise Impossible(
                f"A coded frame has {packet.size} bytes, and all must have {self._size}.",
                "Choose a higher rate, if the recipient takes one.",
            )
        return rewritten(packet, bytes(packet).ljust(self._size, b"\0"))


class OpensSound(Protocol):
    """What sets a sound stream up, and what it takes."""

    @property
    def sample_format(self) -> str:
        """Name the samples' type."""

    def layout(self, f: SoundFormat) -> str:
        """Name the layout that it takes."""

    def open(self, container: OutputContainer, f: SoundFormat) -> Coder:
        """Add a stream to a file."""


@dataclass(frozen=True)
class SoundSetup:
    """The library's encoder of sound, and what it takes.

    Attributes:
        sample_format: the samples' type.
        bit_rate: b/s; None for an encoder that is given none.
        layouts: its own names of layouts with the same channels in the same order.
        configured: makes what the file says of the coding from what the encoder says; None to take
            that.
    """

    encoder: str
    sample_format: str
    bit_rate: int | None = None
    layouts: Mapping[str, str] = field(default_factory=dict)
    options: Options = field(default_factory=dict)
    configured: Callable[[bytes], bytes] | None = None

    def layout(self, f: SoundFormat) -> str:
        """Name the layout that it takes."""
        return self.layouts.get(f.layout, f.layout)

    def open(self, container: OutputContainer, f: SoundFormat) -> Coder:
        """Add a stream to a file."""
        stream = container.add_stream(self.encoder, rate=f.sample_rate, layout=self.layout(f))
        assert isinstance(stream, AudioStream)
        if self.bit_rate is not None:
            stream.codec_context.bit_rate = self.bit_rate
        context = stream.codec_context
        context.format = self.sample_format
        stream.options = dict(self.options)
        if self.configured is not None:
            context.options = dict(self.options)
            context.open()
            context.extradata = self.configured(context.extradata or b"")
        return stream


def pixels_of(f: PictureFormat) -> str:
    """Name how a picture's samples lie as the library does."""
    return PIXELS[Pixels(f.chroma, f.depth, f.alpha)]


def colour_names(f: PictureFormat) -> tuple[str, str, str]:
    """Name matrix, primaries and transfer as the library does."""
    matrix, primaries, transfer = COLOUR.get(f.colour, COLOUR["BT.709"])
    return matrix, primaries, TRANSFERS.get(f.transfer, transfer)


def tagged(f: PictureFormat) -> dict[str, str]:
    """Give the options that have a stream say its colour."""
    matrix, primaries, transfer = colour_names(f)
    return {
        "color_range": "pc" if f.full_range else "tv",
        "colorspace": matrix,
        "color_primaries": primaries,
        "color_trc": transfer,
    }


def rated(e: RatedPicture, f: PictureFormat) -> dict[str, str]:
    """Give the options that every encoder with a rate takes."""
    kept = {"b": str(e.bit_rate), "maxrate": str(e.max_rate), "bufsize": str(e.buffer)}
    return {
        **(kept if e.quantiser is None else {}),
        "g": str(e.gop),
        "bf": str(e.b_frames),
        **tagged(f),
    }
