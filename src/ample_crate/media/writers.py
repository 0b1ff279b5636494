"""Writers: one a stream of a file that is being made."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import Any, Protocol

import av
import numpy as np
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.container import OutputContainer
from av.packet import Packet
from av.stream import Disposition
from av.subtitles.stream import SubtitleStream
from av.video.codeccontext import VideoCodecContext
from av.video.frame import PictureType, VideoFrame
from av.video.stream import VideoStream

from ..core import formats
from ..core.errors import Impossible
from ..core.formats.languages import numbered
from ..core.planning.plan import CaptionFile, File, Images, Plan
from ..core.planning.sound_steps import SoundFormat
from ..core.planning.streams import (
    AnyPicture,
    AnySound,
    Captions,
    Copied,
    CopiedCaptions,
    CopiedPicture,
    MadePicture,
    MadeSound,
    Stream,
    Text,
    lengthened,
)
from . import encoders, sequence, wrappers
from .encoders.setup import Coder, Pass, standing
from .marks import Chapter, extension, put
from .sound_lowering import SoundTaken
from .texts import CaptionCopier, TextWriter, Within, opened

NOWHERE = "null"  # the muxer of what is not kept
SILENT_SAMPLES = 4800  # of a frame of silence
SAMPLE_TYPES = {"flt": np.float32, "fltp": np.float32, "s16": np.int16, "s32": np.int32}


class PictureWriter:
    """Encodes frames into a stream, and counts them: their place gives their time."""

    def __init__(self, container: OutputContainer, made: MadePicture, turn: Pass | None) -> None:
        self._container, self._rate = container, made.format.rate
        self._coder = encoders.picture(made).open(container, made.format, turn)
        self._stream = container.streams[-1]
        self.frames = 0

    def write(self, frame: VideoFrame) -> None:
        """Encode the next frame."""
        frame.pts, frame.time_base = self.frames, 1 / self._rate
        frame.pict_type = PictureType.NONE
        self.frames += 1
        _encode(self._container, self._coder, frame)

    def lay(self, coded: bytes) -> None:
        """Put in the next frame as it was coded before, alone."""
        packet = standing(coded, self.frames, self._rate, self._stream)
        self.frames += 1
        self._container.mux(packet)

    def finish(self) -> None:
        """Encode what the encoder has kept back."""
        _encode(self._container, self._coder, None)

    @property
    def renamed(self) -> wrappers.Renaming:
        """Give what the head of the finished file calls the stream, and is to call it."""
        names: wrappers.Renaming = getattr(self._coder, "renamed", None)
        return names


class SoundWriter:
    """Encodes samples into a stream, and counts them."""

    def __init__(self, container: OutputContainer, made: MadeSound) -> None:
        setup = encoders.sound(made)
        self._container, self.format = container, made.format
        self._coder = setup.open(container, made.format)
        self.takes = SoundTaken(setup.sample_format, setup.layout(made.format))
        self.samples = 0

    def write(self, frame: AudioFrame) -> None:
        """Encode the next samples."""
        frame.pts, frame.time_base = self.samples, Fraction(1, frame.sample_rate)
        self.samples += frame.samples
        _encode(self._container, self._coder, frame)

    def silence_until(self, time: Fraction) -> None:
        """Encode silence up to a time, and not beyond the end."""
        end = min(int(time * self.format.sample_rate), self.format.samples or 0)
        for frame in silence(self.format, self.takes, end - self.samples):
            self.write(frame)

    def finish(self) -> None:
        """Encode what the encoder has kept back; where nothing came, silence."""
        if not self.samples:
            for frame in silence(self.format, self.takes, self.format.samples or 0):
                self.write(frame)
        _encode(self._container, self._coder, None)


class Copier:
    """Puts coded frames of another file into a stream as they are.

    Args:
        container: the file that is made.
        copied: what goes over.
        template: the stream that it comes from.

    Attributes:
        hides: whether an edit list can keep what is coded from being shown.
    """

    def __init__(self, container: OutputContainer, copied: Copied, template: Template) -> None:
        self._container, self.frames = container, 0
        self.hides = wrappers.tagged(container.format.name)
        self.renamed: wrappers.Renaming = None
        self._stream = self._added(copied, template)

    def _added(self, copied: Copied, template: Template) -> Template:
        if not isinstance(copied, CopiedPicture):
            return self._container.add_stream_from_template(template, opaque=True)
        stood = wrappers.stood_in(self._container, copied.codec, copied.format)
        if stood is not None:
            self.renamed = stood.tag, copied.tag.encode()
            return stood.stream
        stream = self._container.add_stream_from_template(template, opaque=True)
        # Some wrappers state the rate, and MXF has none without it.
        stream.rate = copied.format.rate
        # And AVI counts in it: in finer units it would have frames that are not there.
        stream.time_base = 1 / copied.format.rate
        context = stream.codec_context
        assert isinstance(context, VideoCodecContext)
        context.sample_aspect_ratio = copied.format.sample_aspect
        if copied.format.alpha and formats.PICTURE[copied.codec].alpha_decoder:
            # What is clear lies beside the frames, which only this mark tells of.
            stream.metadata["alpha_mode"] = "1"
        if copied.tag and self.hides:
            context.codec_tag = copied.tag
        return stream

    def write(self, packet: Packet[Any], start: Fraction) -> None:
        """Put a coded frame in, whose time counts from a start in seconds."""
        base = Fraction(packet.time_base)
        if packet.pts is None:
            raise _no_times()
        shift = round(start / base)
        packet.pts -= shift
        if packet.dts is not None:
            # Where a wrapper states no times of decoding, the library works them out.
            packet.dts -= shift
        packet.stream = self._stream
        self.frames += 1
        try:
            self._container.mux(packet)
        except av.ArgumentError as error:
            raise _no_times() from error

    def finish(self) -> None:
        """Leave the stream: nothing is kept back."""


def _no_times() -> Impossible:
    return Impossible(
        "The master's coded frames do not say when each is shown, so they cannot be copied.",
        "Have this stream encoded instead of copied.",
    )


Template = VideoStream | AudioStream


class Templates(Protocol):
    """Gives the streams of inputs that others come from."""

    def template(self, copied: Copied) -> Template:
        """Give the one that a copied one comes from."""

    def captions(self, text: Captions) -> SubtitleStream:
        """Give the one that captions come from."""


Writer = PictureWriter | SoundWriter | Copier | TextWriter | CaptionCopier


def _encode(container: OutputContainer, coder: Coder, frame: Any) -> None:
    try:
        container.mux(list(coder.encode(frame)))
    except av.ArgumentError as error:
        raise Impossible(
            f"The encoder does not take what the route asks of it: {error.strerror}.",
            "The master is not to blame: change a choice of this route, such as its bit rate, "
            "and run again.",
        ) from error


def silence(f: SoundFormat, takes: SoundTaken, samples: int) -> Iterator[AudioFrame]:
    """Give so many samples of silence."""
    left, sample_format = samples, takes.sample_format
    planar = sample_format.endswith("p")
    while left > 0:
        count = min(SILENT_SAMPLES, left)
        shape = (f.channels, count) if planar else (1, f.channels * count)
        nothing = np.zeros(shape, SAMPLE_TYPES[sample_format])
        frame = AudioFrame.from_ndarray(nothing, format=sample_format, layout=takes.layout)
        frame.sample_rate = f.sample_rate
        left -= count
        yield frame


class Outputs:
    """The files of a plan being written, with a writer for each of its streams.

    Args:
        plan: what is made.
        outs: a path for each of its files.
        turn: which of two passes this is, if there are two.
        sources: gives the streams that others come from.
        captions: a path for each of its files of captions.
        rehearsal: whether this is the first of two passes, which writes nothing and makes only the
            picture.
    """

    def __init__(
        self,
        plan: Plan,
        outs: Sequence[str],
        turn: Pass | None,
        sources: Templates,
        captions: Sequence[str] = (),
        rehearsal: bool = False,
    ) -> None:
        self._plan, self._turn, self._sources = plan, turn, sources
        self._containers: list[OutputContainer] = []
        self._outs, self._of = list(outs), dict[str, list[PictureWriter | Copier]]()
        self.writers: dict[int, Writer] = {}
        for file, out in zip(plan.files, outs, strict=True):
            os.makedirs(os.path.dirname(out), exist_ok=True)
            codecs = [plan.streams[n].codec for n in file.streams]
            container = _opened(file, codecs, out, rehearsal)
            self._containers.append(container)
            for number in file.streams:
                stream = plan.streams[number]
                if isinstance(stream, MadePicture) or not rehearsal:
                    writer = self.writers[number] = self._writer(container, stream)
                    _speak(container, file, stream)
                    if isinstance(writer, PictureWriter | Copier):
                        self._of.setdefault(out, []).append(writer)
        files = () if rehearsal else plan.captions
        self.captions = [self._captions(*one) for one in zip(files, captions, strict=False)]

    def _captions(self, file: CaptionFile, out: str) -> tuple[CaptionFile, TextWriter]:
        container = opened(file.text, out)
        self._containers.append(container)
        return file, self._text(container, file.text)

    def _text(self, container: OutputContainer, text: Text) -> TextWriter:
        return TextWriter(container, text, self._sources.captions(text), self._within)

    def _writer(self, container: OutputContainer, stream: Stream) -> Writer:
        if isinstance(stream, MadePicture):
            return PictureWriter(container, stream, self._turn)
        if isinstance(stream, MadeSound):
            more = self._plan.seconds - self._plan.programme
            return SoundWriter(container, lengthened(stream, more))
        if isinstance(stream, Text):
            return self._text(container, stream)
        if isinstance(stream, CopiedCaptions):
            template = self._sources.captions(stream)
            return CaptionCopier(container, template, self._within)
        return Copier(container, stream, self._sources.template(stream))

    @property
    def _within(self) -> Within:
        return Within(self._plan.lead, self._plan.programme)

    @property
    def frames(self) -> int:
        """Count the frames of picture that were written."""
        streams = self._plan.streams
        mine = (w for n, w in self.writers.items() if isinstance(streams[n], AnyPicture))
        return max((w.frames for w in mine if isinstance(w, PictureWriter | Copier)), default=0)

    def mark(self, chapters: list[Chapter]) -> None:
        """Put chapters into the files that have them."""
        for container, file in zip(self._containers, self._plan.files, strict=False):
            if file.chapters and chapters and container.format.name != NOWHERE:
                put(container, chapters)

    def finish(self) -> None:
        """Write the rest of every stream, and end the files."""
        for writer in self.writers.values():
            writer.finish()
        for _, captions in self.captions:
            captions.end()
        for container, out in zip(self._containers, self._outs, strict=False):
            container.close()
            for writer in self._of.get(out, ()):
                wrappers.rename(out, writer.renamed)

    def abandon(self) -> None:
        """Let go of what is half made, which must not hide, by failing to end well, why it was not
        made.
        """
        for container in self._containers:
            with contextlib.suppress(av.FFmpegError):
                container.close()


def _speak(container: OutputContainer, file: File, stream: Stream) -> None:
    """Say of the track that was put into a file last its language and name, and whether it is
    played unasked.
    """
    made, place = container.streams[-1], formats.WRAPPERS[file.wrapper]
    if place.enables:
        shown = not isinstance(stream, AnySound) or stream.enabled
        made.disposition = Disposition.default if shown else Disposition(0)
    if isinstance(stream, AnySound) and stream.name:
        made.metadata["title"] = stream.name
    if isinstance(stream, AnyPicture) or not stream.language:
        return
    # Some of what a number stands for the library knows by its other code.
    by_number = place.languages == "numbered"
    written = numbered(stream.language) if by_number else stream.language
    made.metadata["language"] = written or stream.language


def _pattern(folder: str, images: Images) -> str:
    """Write the paths of images as the codec library wants them."""
    head = sequence.escaped(os.path.join(folder, images.head))
    return f"{head}%0{images.digits}d{images.ending}"


def _opened(file: File, codecs: Sequence[str], out: str, rehearsal: bool) -> OutputContainer:
    if rehearsal:
        return av.open(os.devnull, "w", format=NOWHERE)
    library = wrappers.ROWS[file.wrapper]
    options = library.options | (library.index_in_front if file.index_in_front else {})
    for codec in codecs:
        options |= library.with_codec.get(codec, {})
    if file.images is not None:
        options |= {"start_number": str(file.images.first)}
        out = _pattern(os.path.dirname(out), file.images)
    if file.broadcast is not None:
        options |= library.broadcast
    container = av.open(out, "w", format=library.muxer, options=options)
    if file.broadcast is not None:
        container.metadata.update(extension(file.broadcast))
    for name, text in file.about:
        container.metadata[name] = text
    if file.timecode is not None:
        container.metadata["timecode"] = file.timecode
    return container
