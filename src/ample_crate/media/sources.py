"""A master being read: it is demuxed once, and each of its streams goes to what is made of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from math import ceil

import av
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.codec.context import ThreadType
from av.container import InputContainer
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.errors import BadMedia
from ..core.planning.plan import Input, MadePicture, MadeSound
from . import filters
from .lowering import picture_chain
from .read import packets, picture_stream, sound_streams
from .writers import PictureWriter, SoundWriter

SEEK_BEFORE = Fraction(4)  # seconds before a range where decoding begins
HALF = Fraction(1, 2)


class PictureFeed:
    """Brings decoded pictures through a plan's steps to a writer.

    Args:
        made: the picture that is made.
        writer: takes the frames.
        frames: how many are made at most: a pair of fields left over at the end, or a repeat from
            an uneven clock, does not lengthen the file.
        report: told how many are made.
    """

    def __init__(
        self,
        made: MadePicture,
        writer: PictureWriter,
        frames: int,
        report: Callable[[int], None],
    ) -> None:
        self._made, self._writer, self._most, self._report = made, writer, frames, report
        self._graph: filters.Filtered | None = None
        self._silent: list[SoundWriter] = []

    def beside(self, silent: SoundWriter) -> None:
        """Have a silent track keep pace with the picture: wrappers want both side by side."""
        self._silent.append(silent)

    def push(self, stream: VideoStream, frame: VideoFrame) -> None:
        """Take a frame of the master."""
        if self._graph is None:
            source = self._made.source
            chain = picture_chain(source, self._made.steps)
            self._graph = filters.picture_graph(stream, frame, source, chain)
        self._write(self._graph.push(frame))

    def finish(self) -> None:
        """Write what the steps have kept back."""
        if self._graph is not None:
            self._write(self._graph.push(None))

    def _write(self, frames: list[VideoFrame | AudioFrame]) -> None:
        for frame in frames:
            if self._writer.frames < self._most and isinstance(frame, VideoFrame):
                self._writer.write(frame)
        for track in self._silent:
            track.silence_until(self._writer.frames / self._made.format.rate)
        self._report(self._writer.frames)


class SoundFeed:
    """Brings decoded sound of some tracks through a plan's steps to a writer."""

    def __init__(
        self, made: MadeSound, writer: SoundWriter, tracks: list[AudioStream], start: Fraction
    ) -> None:
        self.tracks, self._writer = tracks, writer
        self._graph = filters.SoundGraph(tracks, made, start, writer.takes)

    def push(self, index: int, frame: AudioFrame) -> None:
        """Take a frame of the track with a stream's index."""
        for heard in self._graph.push(index, frame):
            self._writer.write(heard)

    def finish(self) -> None:
        """Write what the steps have kept back."""
        for heard in self._graph.finish():
            self._writer.write(heard)


class Selection:
    """Picks what is delivered of a master: the whole, or a range.

    Args:
        picture: its picture.
        taken: how the file is read.
        seconds: length of what is delivered.
    """

    def __init__(self, picture: VideoStream, taken: Input, seconds: Fraction) -> None:
        assert taken.rate is not None
        self._picture, self._rate, self._first = picture, taken.rate, taken.first
        self._base = Fraction(picture.time_base or Fraction(1, 90000))
        self._begin = _start(picture)
        self.start = self._begin + taken.start
        self.end = self.start + seconds
        # One frame more for what looks ahead (fields, resampling).
        self._most = ceil(seconds * self._rate) + 2
        self._given = taken.clock == "given"
        self._counted = taken.clock in {"even", "given"} or self._first > 0
        self._by_time = taken.clock == "even" and self._first > 0
        self._seen = self._taken = 0
        self._heard: dict[int, Fraction] = {}
        self._over = False

    def approach(self, container: InputContainer) -> None:
        """Go near a range that begins far inside; a file that lands late is read from its start."""
        if not self._by_time or self._first / self._rate < 2 * SEEK_BEFORE:
            return
        picture, base = self._picture, self._base
        at = int((self.start - SEEK_BEFORE) / base)
        container.seek(at, stream=picture, backward=True)
        landed = next(container.decode(picture), None)
        latest = self.start - 2 / self._rate
        late = landed is None or landed.pts is None or landed.pts * base > latest
        container.seek(int(self._begin / base) if late else at, stream=picture, backward=True)

    def includes(self, frame: VideoFrame) -> bool:
        """Say whether the next frame is delivered, and set its clock where the file's is not to be
        used.
        """
        self._seen += 1
        if self._over or self._before(frame):
            return False
        if self._given or frame.pts is None:
            frame.pts = round((self.start + self._taken / self._rate) / self._base)
        self._taken += 1
        # Frames that do not last equally long are not counted: they end when their time does.
        late = frame.pts * self._base >= self.end + 2 / self._rate
        self._over = self._taken >= self._most if self._counted else late
        return True

    def _before(self, frame: VideoFrame) -> bool:
        if self._by_time and frame.pts is not None:
            return frame.pts * self._base < self.start - HALF / self._rate
        return self._seen <= self._first

    def note_sound(self, index: int, frame: AudioFrame) -> None:
        """Note how far the sound of a track has come."""
        if frame.pts is not None:
            base = Fraction(frame.time_base or Fraction(1, frame.sample_rate))
            self._heard[index] = frame.pts * base + Fraction(frame.samples, frame.sample_rate)

    def over(self, tracks: int) -> bool:
        """Say whether all pictures have come, and all sound of so many tracks."""
        heard = self._heard.values()
        return self._over and len(heard) == tracks and all(at >= self.end for at in heard)


def _start(picture: VideoStream) -> Fraction:
    if picture.start_time is None or picture.time_base is None:
        return Fraction(0)
    return Fraction(picture.start_time) * picture.time_base


class Source:
    """A master being read, and what is made of its streams.

    Args:
        container: the open file.
        taken: how it is read.
        seconds: length of what is delivered.
    """

    def __init__(self, container: InputContainer, taken: Input, seconds: Fraction) -> None:
        picture = picture_stream(container)
        if picture is None:
            raise BadMedia("The master has no picture.", "Hand in a master with picture.")
        picture.thread_type = ThreadType.AUTO
        self._container, self._picture = container, picture
        self._selection = Selection(picture, taken, seconds)
        self._pictures: list[PictureFeed] = []
        self._sounds: list[SoundFeed] = []

    def give_picture(self, feed: PictureFeed) -> None:
        """Have pictures go to a feed."""
        self._pictures.append(feed)

    def give_sound(self, made: MadeSound, writer: SoundWriter) -> None:
        """Have sound go to what is made of it; silence goes beside the pictures."""
        if made.tracks:
            tracks = self._tracks(made.tracks)
            self._sounds.append(SoundFeed(made, writer, tracks, self._selection.start))
        elif self._pictures:
            self._pictures[0].beside(writer)

    def _tracks(self, wanted: tuple[int, ...]) -> list[AudioStream]:
        there = sound_streams(self._container)
        missing = [n for n in wanted if n > len(there)]
        if missing:
            raise BadMedia(
                f"The master has no sound track {missing[0]}; it has {len(there)}.",
                "Read the master again, then choose its tracks anew.",
            )
        return [there[n - 1] for n in wanted]

    def run(self) -> Iterator[Fraction]:
        """Read the master to the end of what is delivered; give the time reached after each
        frame.
        """
        selection = self._selection
        tracks = {track.index: track for feed in self._sounds for track in feed.tracks}
        selection.approach(self._container)
        for index, frame in self._frames(list(tracks.values())):
            if isinstance(frame, AudioFrame):
                selection.note_sound(index, frame)
                self._hear(index, frame)
            elif selection.includes(frame):
                for feed in self._pictures:
                    feed.push(self._picture, frame)
            yield Fraction(0) if frame.time is None else Fraction(frame.time) - selection.start
            if selection.over(len(tracks)):
                break
        everything: list[PictureFeed | SoundFeed] = [*self._pictures, *self._sounds]
        for one in everything:
            one.finish()

    def _hear(self, index: int, frame: AudioFrame) -> None:
        for feed in self._sounds:
            if any(track.index == index for track in feed.tracks):
                feed.push(index, frame)

    def _frames(self, tracks: list[AudioStream]) -> Iterator[tuple[int, VideoFrame | AudioFrame]]:
        """Give the frames of the picture and of tracks, each with its stream's index."""
        for packet in packets(self._container, self._picture, *tracks):
            try:
                for frame in packet.decode() if packet is not None else ():
                    yield packet.stream.index, frame  # type: ignore[union-attr]
            except av.FFmpegError:
                continue  # a damaged packet; what is missing shows when the file is measured
