"""Vorbis, by libsndfile: the codec library's own coder knows two channels alone.

It writes pages of Ogg (RFC 3533), of which the packets are taken as they come.
"""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import av
import numpy as np
import soundfile
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.container import OutputContainer
from av.packet import Packet

from ...core.planning.encoding import QualitySound
from ...core.planning.sound_steps import SoundFormat

PAGE_HEAD, SEGMENTS = 27, 255
HEADERS = 3  # packets before the sound (Vorbis I specification, 4.2)
BLOCK_SIZES_AT = 28  # of the first: powers of two, the short blocks' in the lower half


class Pages(io.BytesIO):
    """Takes pages of Ogg, and gives the packets in them."""

    def __init__(self) -> None:
        super().__init__()
        self._read, self._rest = 0, b""

    def packets(self) -> Iterator[bytes]:
        """Give the packets that are whole by now."""
        data = self.getbuffer()
        while len(data) >= self._read + PAGE_HEAD:
            count = data[self._read + PAGE_HEAD - 1]
            start = self._read + PAGE_HEAD + count
            lacing = bytes(data[self._read + PAGE_HEAD : start])
            if len(lacing) < count or len(data) < start + sum(lacing):
                return
            for size in lacing:
                self._rest += bytes(data[start : start + size])
                start += size
                if size < SEGMENTS:
                    yield self._rest
                    self._rest = b""
            self._read = start


def _begun(file: io.BytesIO, quality: Fraction, f: SoundFormat) -> soundfile.SoundFile:
    return soundfile.SoundFile(
        file,
        "w",
        samplerate=f.sample_rate,
        channels=f.channels,
        format="OGG",
        subtype="VORBIS",
        compression_level=float(1 - quality),
    )


class VorbisCoder:
    """Codes samples as they come; how long a packet lasts follows from its block and the one
    before.
    """

    def __init__(self, stream: AudioStream, quality: Fraction, f: SoundFormat) -> None:
        self._stream, self._unit, self._channels = stream, Fraction(1, f.sample_rate), f.channels
        self._pages = Pages()
        self._coder = _begun(self._pages, quality, f)
        self._heads: list[bytes] = []
        self._time, self._before, self._heard = 0, 0, 0

    def encode(self, frame: AudioFrame | None) -> list[Packet[Any]]:
        """Give the packets that samples, or with None the end, make ready."""
        if frame is None:
            self._coder.close()
        else:
            data = np.frombuffer(bytes(frame.planes[0]), np.float32)
            self._coder.write(data[: frame.samples * self._channels].reshape(-1, self._channels))
            self._heard += frame.samples
        made = [self._packet(one) for one in self._pages.packets() if self._sounds(one)]
        if frame is None and made:
            # Its block is longer than what is left to be heard.
            made[-1].duration = max(0, self._heard - (made[-1].pts or 0))
        return made

    def _sounds(self, packet: bytes) -> bool:
        if len(self._heads) == HEADERS:
            return True
        self._heads.append(packet)
        return False

    def _packet(self, coded: bytes) -> Packet[Any]:
        sizes = self._heads[0][BLOCK_SIZES_AT]
        # One bit says which of the coder's two modes it is: short blocks or long ones.
        block = 1 << (sizes >> 4 if coded[0] & 2 else sizes & 15)
        lasts = (self._before + block) // 4 if self._before else 0
        packet: Packet[Any] = Packet(coded)
        packet.pts = packet.dts = self._time
        packet.duration, packet.time_base, packet.stream = lasts, self._unit, self._stream
        self._time, self._before = self._time + lasts, block
        return packet


@dataclass(frozen=True)
class VorbisSetup:
    """Opens a stream of Vorbis."""

    quality: Fraction
    sample_format: str = "flt"

    def layout(self, f: SoundFormat) -> str:
        """Name the layout that it takes."""
        return f.layout

    def open(self, container: OutputContainer, f: SoundFormat) -> VorbisCoder:
        """Add a stream to a file, with the tables that the coder begins with."""
        file = io.BytesIO()
        with _begun(file, self.quality, f) as coder:
            coder.write(np.zeros((f.sample_rate // 10, f.channels), np.float32))
        file.seek(0)
        with av.open(file) as model:
            stream = container.add_stream_from_template(model.streams.audio[0], opaque=True)
        assert isinstance(stream, AudioStream)
        return VorbisCoder(stream, self.quality, f)


def setup(e: QualitySound) -> VorbisSetup:
    """Give what opens the stream."""
    return VorbisSetup(e.quality)


SOUND = {"vorbis": setup}
