"""Captions: text from a master's form to a wrapper's, and pictures as they are."""

from __future__ import annotations

from fractions import Fraction
from typing import Any, NamedTuple

import av
from av.container import OutputContainer
from av.packet import Packet
from av.subtitles.codeccontext import SubtitleCodecContext
from av.subtitles.stream import SubtitleStream

from ..core.planning.streams import Text
from .marks import Place

TICK = Fraction(1, 1000)
# What writes captions into a file of their own, by their codec.
MUXERS = {"subrip": "srt", "webvtt": "webvtt"}


class Within(NamedTuple):
    """The programme within what is made: when it begins, and how long it is, in seconds."""

    lead: Fraction
    seconds: Fraction


def shown(packet: Packet[Any], place: Place, within: Within) -> tuple[Fraction, Fraction]:
    """Give when captions begin and end within what is made; of those outside of the programme the
    end does not lie after the beginning. `place` says when in it a time of the file comes.
    """
    base = Fraction(packet.time_base)
    first = (packet.pts or 0) * base
    begins, ends = place(first), place(first + Fraction(packet.duration or 0) * base)
    lead, seconds = within
    return lead + max(begins, Fraction(0)), lead + min(ends, seconds)


class CaptionCopier:
    """Puts captions that are pictures into a file as they are, as `TextWriter` does text."""

    def __init__(
        self, container: OutputContainer, template: SubtitleStream, within: Within
    ) -> None:
        self._container, self._within = container, within
        self._stream = container.add_stream_from_template(template, opaque=True)

    def write(self, packet: Packet[Any], place: Place) -> None:
        """Take a packet of the master, whose times come where `place` says."""
        if packet.pts is None:
            return
        begins, ends = shown(packet, place, self._within)
        if not packet.duration:
            # Some say nothing of their end, and are shown until the next.
            early = place(packet.pts * Fraction(packet.time_base)) < 0
            ends = begins if early else sum(self._within, Fraction(0))
        if begins >= ends:
            return
        copied: Packet[Any] = Packet(bytes(packet))
        copied.stream, copied.time_base = self._stream, TICK
        copied.pts = copied.dts = round(begins / TICK)
        if packet.duration:
            copied.duration = round((ends - begins) / TICK)
        self._container.mux(copied)

    def finish(self) -> None:
        """Leave the captions: nothing is kept back."""


class TextWriter:
    """Puts captions into a file in its own form.

    Args:
        container: the file that is made.
        made: the captions.
        template: the track that they come from.
        within: where the programme lies in what is made.
    """

    def __init__(
        self, container: OutputContainer, made: Text, template: SubtitleStream, within: Within
    ) -> None:
        self._container, self._within, self.lines = container, within, 0
        self._decoder = template.codec_context
        self._decoder.open(strict=False)
        stream = container.add_stream(made.codec)
        assert isinstance(stream, SubtitleStream)
        self._stream, context = stream, stream.codec_context
        context.time_base = TICK
        # How lines look by default, in the one form that all are decoded to.
        context.subtitle_header = self._decoder.subtitle_header
        self._coder: SubtitleCodecContext = context

    def write(self, packet: Packet[Any], place: Place) -> None:
        """Take a packet of the master, whose times come where `place` says."""
        if packet.pts is None:
            return
        begins, ends = shown(packet, place, self._within)
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
