"""A master being read: it is demuxed once, and each of its streams goes to what is made of it."""

from __future__ import annotations

from collections.abc import Generator, Iterator, Mapping
from fractions import Fraction
from typing import Any

import av
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.codec.context import ThreadType
from av.container import InputContainer
from av.packet import Packet
from av.stream import Stream
from av.subtitles.stream import SubtitleStream
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.errors import BadMedia
from ..core.planning.plan import Input
from ..core.planning.streams import Copied, CopiedSound, MadeSound
from .branches import Alone, Making
from .feeds import (
    CopyFeed,
    DecodedFeed,
    Paced,
    PictureFeed,
    Report,
    SegmentFeed,
    SoundFeed,
    TakesSound,
)
from .levels import Levels
from .marks import Chapter, chapters_of
from .read import begins, packets, picture_stream, sound_streams
from .selection import Selection
from .texts import CaptionCopier, TextWriter
from .writers import SoundWriter

ALONE = Alone()


class Source:
    """A master being read, and what is made of its streams.

    Args:
        container: the open file.
        taken: how it is read.
        seconds: length of what is delivered.
    """

    def __init__(self, container: InputContainer, taken: Input, seconds: Fraction) -> None:
        picture, sound = picture_stream(container), sound_streams(container)
        if picture is None and taken.rate is not None:
            raise BadMedia("The master has no picture.", "Hand in a master with picture.")
        if picture is not None:
            picture.thread_type = ThreadType.AUTO
        self._container, self._picture = container, picture
        first = picture or (sound[0] if sound else None)
        begin = Fraction(0) if first is None else begins(container, first)
        self._selection = Selection(picture, begin, taken, seconds)
        self._pictures: list[tuple[Making, PictureFeed | DecodedFeed]] = []
        self._sounds: list[tuple[Making, SoundFeed]] = []
        self._copies: list[tuple[Making, int, CopyFeed]] = []
        self._segments: list[tuple[Making, SegmentFeed]] = []
        self._texts: dict[int, list[TextWriter | CaptionCopier]] = {}

    def give_picture(self, feed: PictureFeed | DecodedFeed, by: Making = ALONE) -> None:
        """Have pictures go to a feed."""
        self._pictures.append((by, feed))

    def replace_picture(self, feed: SegmentFeed, by: Making = ALONE) -> None:
        """Have no pictures read: a feed brings what was made of them before."""
        self._segments.append((by, feed))

    def give_sound(
        self,
        made: MadeSound,
        writer: TakesSound,
        report: Report,
        levels: Levels | None = None,
        by: Making = ALONE,
    ) -> None:
        """Have sound go to what is made of it."""
        feed = SoundFeed(made, writer, self._tracks(made.tracks), self._selection, report, levels)
        self._sounds.append((by, feed))

    def give_silence(self, writer: SoundWriter, by: Making = ALONE) -> None:
        """Have silence go beside the pictures of what it belongs to."""
        shown: list[Paced] = [feed for of, feed in self._pictures if of is by]
        shown += [feed for of, feed in self._segments if of is by]
        shown += [feed for of, _, feed in self._copies if of is by and not feed.whole]
        for feed in shown[:1]:
            feed.beside(writer)

    def give_copy(
        self, feed: CopyFeed, template: VideoStream | AudioStream, by: Making = ALONE
    ) -> None:
        """Have the coded frames of a stream go to a feed."""
        self._copies.append((by, template.index, feed))

    def give_text(self, number: int, writer: TextWriter | CaptionCopier) -> None:
        """Have a track of captions, counted from 1, go to a writer."""
        stream = self.captions(number)
        self._texts.setdefault(stream.index, []).append(writer)

    def captions(self, number: int) -> SubtitleStream:
        """Give a track of captions, counted from 1."""
        there = self._container.streams.subtitles
        if number > len(there):
            raise BadMedia(f"The master has no track {number} of captions.", "Read it again.")
        return there[number - 1]

    def chapters(self, seconds: Fraction, lead: Fraction) -> list[Chapter]:
        """List the chapters within so many seconds of a programme, which begins so late in what is
        made.
        """
        found = chapters_of(self._container, self._selection.place, seconds)
        return [Chapter(one.title, one.start + lead, one.end + lead) for one in found]

    def template(self, copied: Copied) -> VideoStream | AudioStream:
        """Give the stream that a copied one comes from."""
        if isinstance(copied, CopiedSound):
            return self._tracks((copied.track,))[0]
        if self._picture is None:
            raise BadMedia("The master has no picture.", "Read the master again.")
        return self._picture

    def _tracks(self, wanted: tuple[int, ...]) -> list[AudioStream]:
        there = sound_streams(self._container)
        missing = [n for n in wanted if n > len(there)]
        if missing:
            raise BadMedia(
                f"The master has no sound track {missing[0]}; it has {len(there)}.",
                "Read the master again, then choose its tracks anew.",
            )
        return [there[n - 1] for n in wanted]

    def run(self) -> Generator[Fraction, None, None]:
        """Read the master to the end of what is delivered; give the time reached after each
        frame.
        """
        selection = self._selection
        tracks = {track.index: track for _, feed in self._sounds for track in feed.tracks}
        selection.approach(self._container, silent=not (tracks or self._copies or self._texts))
        for packet in packets(self._container, *self._wanted(tracks)):
            if packet is None:
                continue
            yield from self._take(packet, tracks)
            if self._over(len(tracks)):
                break
        for by, one in [*self._pictures, *self._sounds]:
            by.do(one.finish)

    def _wanted(self, tracks: Mapping[int, AudioStream]) -> list[Stream]:
        """List the streams that something is made of."""
        there: list[Stream] = [
            *self._container.streams.video,
            *self._container.streams.audio,
            *self._container.streams.subtitles,
        ]
        mine = {*tracks, *(index for _, index, _ in self._copies), *self._texts}
        if self._picture is not None and self._pictures:
            mine.add(self._picture.index)
        return [stream for stream in there if stream.index in mine]

    def _take(self, packet: Packet[Any], tracks: Mapping[int, AudioStream]) -> Iterator[Fraction]:
        index, selection = packet.stream.index, self._selection
        if index in tracks or (self._pictures and index == self._of_picture):
            for frame in _decoded(packet):
                self._look(index, frame)
                at = frame.time
                yield Fraction(0) if at is None else selection.place(Fraction(at))
        for text in self._texts.get(index, ()) if packet.size else ():
            text.write(packet, selection.place)
        copies = [(by, feed) for by, number, feed in self._copies if number == index]
        if copies and packet.size:
            at = packet.pts
            base = Fraction(packet.time_base)
            for by, feed in copies:
                by.do(feed.push, packet, selection)
            yield Fraction(0) if at is None else selection.place(at * base)

    @property
    def _of_picture(self) -> int:
        return -1 if self._picture is None else self._picture.index

    def _look(self, index: int, frame: VideoFrame | AudioFrame) -> None:
        selection = self._selection
        if isinstance(frame, AudioFrame):
            parts = selection.sound(index, frame)
            for by, feed in self._sounds:
                if any(track.index == index for track in feed.tracks):
                    for part in parts:
                        by.do(feed.push, index, part)
        elif self._picture is not None and selection.includes(frame):
            for by, shown in self._pictures:
                by.do(shown.push, self._picture, frame)

    def _over(self, tracks: int) -> bool:
        """Say whether all that is delivered has come; copied sound goes over to its end."""
        copies = [feed for by, _, feed in self._copies if not by.over]
        made = [by for by, _ in [*self._pictures, *self._sounds]]
        if made and not copies and all(by.over for by in made):
            return True
        if any(copy.whole for copy in copies):
            return False
        copied = all(copy.over for copy in copies)
        seen = self._selection.seen or not self._pictures
        return seen and copied and self._selection.heard(tracks)


def _decoded(packet: Packet[Any]) -> Iterator[VideoFrame | AudioFrame]:
    try:
        yield from packet.decode()
    except av.FFmpegError:
        return  # a damaged packet; what is missing shows when the file is measured
