"""Writers: one a stream of a file that is being made."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import Any

import av
import numpy as np
from av.audio.frame import AudioFrame
from av.container import OutputContainer
from av.video.frame import PictureType, VideoFrame

from ..core.errors import Impossible
from ..core.planning.plan import File, MadePicture, MadeSound, Plan
from ..core.planning.steps import SoundFormat
from . import encoders, wrappers
from .encoders.setup import Coder, Options
from .lowering import SoundTaken

SILENT_SAMPLES = 4800  # of a frame of silence
SAMPLE_TYPES = {"fltp": np.float32, "s16": np.int16, "s32": np.int32}


class PictureWriter:
    """Encodes frames into a stream, and counts them: their place gives their time."""

    def __init__(self, container: OutputContainer, made: MadePicture, passing: Options) -> None:
        self._container, self._rate = container, made.format.rate
        self._coder = encoders.picture(made).open(container, made.format, passing)
        self.frames = 0

    def write(self, frame: VideoFrame) -> None:
        """Encode the next frame."""
        frame.pts, frame.time_base = self.frames, 1 / self._rate
        frame.pict_type = PictureType.NONE
        self.frames += 1
        _encode(self._container, self._coder, frame)

    def finish(self) -> None:
        """Encode what the encoder has kept back."""
        _encode(self._container, self._coder, None)


class SoundWriter:
    """Encodes samples into a stream, and counts them."""

    def __init__(self, container: OutputContainer, made: MadeSound) -> None:
        setup = encoders.sound(made)
        self._container, self._format = container, made.format
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
        end = min(int(time * self._format.sample_rate), self._format.samples or 0)
        for frame in silence(self._format, self.takes, end - self.samples):
            self.write(frame)

    def finish(self) -> None:
        """Encode what the encoder has kept back; where nothing came, silence."""
        if not self.samples:
            for frame in silence(self._format, self.takes, self._format.samples or 0):
                self.write(frame)
        _encode(self._container, self._coder, None)


Writer = PictureWriter | SoundWriter


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
        passing: options of a pass.
        rehearsal: whether this is the first of two passes, which writes nothing and makes only the
            picture.
    """

    def __init__(
        self, plan: Plan, outs: Sequence[str], passing: Options, rehearsal: bool = False
    ) -> None:
        self._containers: list[OutputContainer] = []
        self.writers: dict[int, Writer] = {}
        for file, out in zip(plan.files, outs, strict=True):
            container = _opened(file, out, rehearsal)
            self._containers.append(container)
            for number in file.streams:
                self._add(container, number, plan, passing, rehearsal)

    def _add(
        self,
        container: OutputContainer,
        number: int,
        plan: Plan,
        passing: Options,
        rehearsal: bool,
    ) -> None:
        stream = plan.streams[number]
        if isinstance(stream, MadePicture):
            self.writers[number] = PictureWriter(container, stream, passing)
        elif not rehearsal:
            self.writers[number] = SoundWriter(container, stream)

    @property
    def frames(self) -> int:
        """Count the frames of picture that were written."""
        mine = (w.frames for w in self.writers.values() if isinstance(w, PictureWriter))
        return max(mine, default=0)

    def finish(self) -> None:
        """Write the rest of every stream, and end the files."""
        for writer in self.writers.values():
            writer.finish()
        for container in self._containers:
            container.close()

    def abandon(self) -> None:
        """Let go of what is half made, which must not hide, by failing to end well, why it was not
        made.
        """
        for container in self._containers:
            with contextlib.suppress(av.FFmpegError):
                container.close()


def _opened(file: File, out: str, rehearsal: bool) -> OutputContainer:
    if rehearsal:
        return av.open(os.devnull, "w", format="null")
    library = wrappers.ROWS[file.wrapper]
    options = library.options | (library.index_in_front if file.index_in_front else {})
    return av.open(out, "w", format=library.muxer, options=options)
