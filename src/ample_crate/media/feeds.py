"""What brings the pictures, samples and coded frames that are read to what is made of them."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from fractions import Fraction
from typing import Any, Protocol

from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.packet import Packet
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.errors import Impossible
from ..core.planning.plan import Input
from ..core.planning.steps import Hold
from ..core.planning.streams import Copied, CopiedPicture, MadePicture, MadeSound
from . import filters
from .encoders.setup import rewritten
from .finishing import Finishing
from .levels import Levels
from .lowering import Samples16
from .read import open_media, picture_stream
from .selection import HALF, Selection
from .sound_lowering import SoundTaken
from .ways import Ways
from .writers import Copier, PictureWriter, SoundWriter

Report = Callable[[Fraction], None]
LOOKED_EVERY = 0.2  # seconds


def untold(reached: Fraction) -> None:
    """Take a time that is not told."""


class Paced:
    """What brings a picture, and tells how far it is.

    Args:
        report: told of the time that is reached.
    """

    def __init__(self, report: Report) -> None:
        self._report = report
        self._silent: list[SoundWriter] = []

    def beside(self, silent: SoundWriter) -> None:
        """Have a silent track keep pace with the picture: wrappers want both side by side."""
        self._silent.append(silent)

    def _come_to(self, reached: Fraction) -> None:
        for track in self._silent:
            track.silence_until(reached)
        self._report(reached)


class TakesPictures(Protocol):
    """What takes frames, and counts them."""

    frames: int

    def write(self, frame: VideoFrame) -> None:
        """Take the next frame."""


class PictureFeed(Paced):
    """Brings decoded pictures through a plan's steps to a writer.

    Args:
        made: the picture that is made.
        taken: how its master is taken.
        writer: takes the frames.
        stills: pictures that it is laid over (`stills.under`).
        frames: how many are made at most: a pair of fields left over at the end, or a repeat from
            an uneven clock, does not lengthen the file.
        report: told of the time that is reached.
    """

    def __init__(
        self,
        made: MadePicture,
        taken: Input,
        writer: TakesPictures,
        stills: Mapping[int, Samples16],
        frames: int,
        report: Report,
    ) -> None:
        super().__init__(report)
        self._made, self._writer, self._most = made, writer, frames
        self._finishing = Finishing(made)
        self._ways = Ways(self._finishing.filtered, taken, stills)
        self._first: int | None = None
        self._held = any(isinstance(step, Hold) for step in made.steps)
        self._last: VideoFrame | None = None

    def push(self, stream: VideoStream, frame: VideoFrame) -> None:
        """Take a frame of the master."""
        self._write(self._ways.push(stream, frame))

    def finish(self) -> None:
        """Write what the steps have kept back, and a still until it has been shown for long
        enough.
        """
        self._write(self._ways.finish())
        self._put(self._finishing.finish())
        while self._held and self._last is not None and self._writer.frames < self._most:
            self._write([self._last])

    def _write(self, frames: list[VideoFrame]) -> None:
        self._put([one for frame in frames for one in self._finishing.push(frame)])

    def _put(self, frames: list[VideoFrame]) -> None:
        for frame in frames:
            if self._writer.frames < self._most:
                self._last = frame
                self._writer.write(self._burn(frame))
        self._come_to(self._writer.frames / self._made.format.rate)

    def _burn(self, frame: VideoFrame) -> VideoFrame:
        # What stands before the programme is written by then.
        self._first = self._writer.frames if self._first is None else self._first
        place = self._writer.frames - self._first
        # A still is shown on and on: it stays as it is.
        return self._finishing.marked(frame, place, again=self._held)


class DecodedFeed(Paced):
    """Brings decoded pictures to a writer as they are.

    Args:
        writer: takes the frames.
        frames: how many are taken at most.
        rate: frames a second.
        report: told of the time that is reached.
    """

    def __init__(self, writer: TakesPictures, frames: int, rate: Fraction, report: Report) -> None:
        super().__init__(report)
        self._writer, self._most, self._rate = writer, frames, rate

    def push(self, stream: VideoStream, frame: VideoFrame) -> None:
        """Take a frame of the master."""
        if self._writer.frames < self._most:
            self._writer.write(frame)
        self._come_to(self._writer.frames / self._rate)

    def finish(self) -> None:
        """Keep nothing back."""


class TakesSound(Protocol):
    """What takes samples, and counts them."""

    samples: int
    takes: SoundTaken

    def write(self, frame: AudioFrame) -> None:
        """Take the next samples."""


class SoundFeed:
    """Brings decoded sound of some tracks through a plan's steps to a writer."""

    def __init__(
        self,
        made: MadeSound,
        writer: TakesSound,
        tracks: list[AudioStream],
        selection: Selection,
        report: Report,
        levels: Levels | None = None,
    ) -> None:
        self.tracks, self._writer, self._report = tracks, writer, report
        self._rate = made.format.sample_rate
        self._graph = filters.SoundGraph(
            tracks, made, selection.start, selection.begin, writer.takes, levels
        )

    def push(self, index: int, frame: AudioFrame) -> None:
        """Take a frame of the track with a stream's index."""
        for heard in self._graph.push(index, frame):
            self._writer.write(heard)
        self._report(Fraction(self._writer.samples, self._rate))

    def finish(self) -> None:
        """Write what the steps have kept back."""
        for heard in self._graph.finish():
            self._writer.write(heard)


class CopyFeed(Paced):
    """Brings coded frames to a writer as they are: all that are shown within what is delivered.

    Args:
        copied: the stream.
        writer: takes the frames.
        report: told of the time that is reached.
        shared: whether others take the same coded frames, which are then left as they are.
    """

    def __init__(
        self, copied: Copied, writer: Copier, report: Report, shared: bool = False
    ) -> None:
        super().__init__(report)
        self._writer, self._shared = writer, shared
        self._rate = copied.format.rate if isinstance(copied, CopiedPicture) else None
        self.over = False

    @property
    def whole(self) -> bool:
        """Say whether all of the stream goes over, to its end."""
        return self._rate is None

    def push(self, packet: Packet[Any], selection: Selection) -> None:
        """Take a packet of the master."""
        if packet.is_discard and self._rate is not None:
            raise Impossible(
                "The file's own edit list hides some of its coded frames; a copy would show them.",
                "Have the picture encoded instead of copied.",
            )
        if self._within(packet, selection):
            if self._rate is not None and not self._writer.frames and not packet.is_keyframe:
                raise Impossible(
                    "The first coded frame of the copy leans on one before it.",
                    "Have the picture encoded instead of copied.",
                )
            self._writer.write(_twin(packet) if self._shared else packet, selection.start)
            if self._rate is not None:
                self._come_to(self._writer.frames / self._rate)

    def _within(self, packet: Packet[Any], selection: Selection) -> bool:
        """Say whether a coded frame is delivered; sound goes over whole."""
        if self._rate is None or packet.pts is None:
            # What a decoder starts from, and nobody hears, stays where its wrapper can say so.
            return not packet.is_discard or self._writer.hides
        half, base = HALF / self._rate, Fraction(packet.time_base)
        # No frame is shown before it is decoded.
        self.over = packet.dts is not None and packet.dts * base >= selection.end
        return selection.start - half <= packet.pts * base < selection.end - half


class SegmentFeed(Paced):
    """Brings the coded frames of segments to a writer, one segment after the other.

    Args:
        segments: paths of files that have a part of the picture each, and nothing else; one that is
            not there yet is waited for.
        made: the picture that they are parts of.
        writer: takes the coded frames.
        report: told of the time that is reached.
    """

    def __init__(
        self, segments: Sequence[str], made: MadePicture, writer: PictureWriter, report: Report
    ) -> None:
        super().__init__(report)
        self._segments, self._rate, self._writer = segments, made.format.rate, writer

    def run(self) -> Iterator[Fraction]:
        """Bring all of them; give the time reached after each frame."""
        for path in self._segments:
            self._await(path)
            with open_media(path) as container:
                for packet in container.demux(picture_stream(container)):
                    if packet.size:
                        self._writer.lay(bytes(packet))
                        reached = self._writer.frames / self._rate
                        self._come_to(reached)
                        yield reached

    def _await(self, path: str) -> None:
        while not os.path.exists(path):
            # A sign of life: who waits is not stuck.
            self._report(self._writer.frames / self._rate)
            time.sleep(LOOKED_EVERY)


def _twin(packet: Packet[Any]) -> Packet[Any]:
    """Give a packet of its own with what another has."""
    made = rewritten(packet, bytes(packet))
    for more in packet.iter_sidedata():
        made.set_sidedata(more)
    return made
