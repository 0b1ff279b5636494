"""Captions that are text, from a master's form to a wrapper's."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import av
from av.container import OutputContainer
from av.packet import Packet
from av.subtitles.codeccontext import SubtitleCodecContext
from av.subtitles.stream import SubtitleStream

from ..core.planning.streams import Text

TICK = Fraction(1, 1000)
# What writes captions into a file of their own, by their codec.
MUXERS = {"subrip": "srt", "webvtt": "webvtt"}


class TextWriter:
    """Puts captions into a file in its own form.

    Args:
        container: the file that is made.
        made: the captions.
        template: the track that they come from.
        seconds: length of what is delivered.
    """

    def __init__(
        self, container: OutputContainer, made: Text, template: SubtitleStream, seconds: Fraction
    ) -> None:
        self._container, self._seconds, self.lines = container, seconds, 0
        self._decoder = template.codec_context
        self._decoder.open(strict=False)
        stream = container.add_stream(made.codec)
        assert isinstance(stream, SubtitleStream)
        self._stream, context = stream, stream.codec_context
        context.time_base = TICK
        # How lines look by default, in the one form that all are decoded to.
        context.subtitle_header = self._decoder.subtitle_header
        self._coder: SubtitleCodecContext = context

    def write(self, packet: Packet[Any], start: Fraction) -> None:
        """Take a packet of the master, whose time counts from a start in seconds."""
        if packet.pts is None:
            return
        base = Fraction(packet.time_base)
        begins = packet.pts * base - start
        ends = begins + Fraction(packet.duration or 0) * base
        begins, ends = max(begins, Fraction(0)), min(ends, self._seconds)
        if begins >= ends:
            return
        try:
            lines = self._decoder.decode2(packet)
        except av.FFmpegError:
            return  # damaged: what is missing shows when the file is read
        if lines is None or not len(lines):
            return
        coded = self._coder.encode_subtitle(lines)
        coded.stream, coded.time_base = self._stream, TICK
        coded.pts = coded.dts = round(begins / TICK)
        coded.duration = round((ends - begins) / TICK)
        self._container.mux(coded)
        self.lines += 1

    def finish(self) -> None:
        """Leave the captions: nothing is kept back."""

    @property
    def said(self) -> str:
        """Say how many were written."""
        return f"{self.lines} caption{'' if self.lines == 1 else 's'}"

    def end(self) -> None:
        """End a file that holds nothing else; without a line it is as whole."""
        self._container.start_encoding()
        self._container.close()


def opened(text: Text, path: str) -> OutputContainer:
    """Open a file that is to hold captions alone."""
    return av.open(path, "w", format=MUXERS[text.codec])
