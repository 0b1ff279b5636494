"""What is delivered of a master: all of it, a range, or several joined."""

from __future__ import annotations

from fractions import Fraction
from math import ceil
from typing import cast

import numpy as np
import numpy.typing as npt
from av.audio.frame import AudioFrame
from av.container import InputContainer
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.planning.plan import Input

# Seconds before a range where decoding begins: sound may lie that far from its picture in a file.
SEEK_BEFORE = Fraction(4)
NEAR = Fraction(1, 2)  # where there is none: frames that are coded before they are shown
HALF = Fraction(1, 2)


class Selection:
    """Picks what is delivered of a master: the whole, or a range. Its times, `start` and `end`, are
    by the file's own clock, on which what is left out takes no time.

    Args:
        picture: its picture; None of sound alone.
        begin: seconds where the file begins.
        taken: how the file is read.
        seconds: length of what is delivered.
    """

    def __init__(
        self, picture: VideoStream | None, begin: Fraction, taken: Input, seconds: Fraction
    ) -> None:
        self._rate, self._first = taken.rate or Fraction(25), taken.first
        self._picture, self.begin = picture, begin
        base = picture.time_base if picture is not None else None
        self._base = Fraction(base or Fraction(1, 90000))
        self._speed, self._clock = Fraction(taken.speed), self.begin + taken.start
        self.start = self.begin + taken.start * self._speed
        self.end = self.start + seconds * self._speed
        # One frame more for what looks ahead (fields, resampling).
        self._most = ceil(seconds * self._rate) + 2
        self._given, self._input = taken.clock == "given", taken
        self._gaps = [
            (self.begin + one.start * self._speed, one.seconds * self._speed) for one in taken.gaps
        ]
        self._counted = taken.clock in {"even", "given"} or self._first > 0
        self._by_time = taken.clock == "even" and self._first > 0
        self._seen = self._passed = self._taken = 0
        self._heard: dict[int, Fraction] = {}
        self._due: dict[int, Fraction] = {}
        self._over = False

    def approach(self, container: InputContainer, silent: bool = False) -> None:
        """Go near a range that begins far inside; a file that lands late is read from its start.

        Args:
            container: the file.
            silent: whether only its picture is taken.
        """
        if not self._by_time or self._first / self._rate < 2 * SEEK_BEFORE:
            return
        picture, base = self._picture, self._base
        if picture is None:
            return
        latest = self.start - 2 / self._rate
        for before in (NEAR, SEEK_BEFORE) if silent else (SEEK_BEFORE,):
            at = int((self.start - before) / base)
            container.seek(at, stream=picture, backward=True)
            landed = next(container.decode(picture), None)
            if landed is not None and landed.pts is not None and landed.pts * base <= latest:
                break
        else:
            at = int(self.begin / base)
        container.seek(at, stream=picture, backward=True)

    def includes(self, frame: VideoFrame) -> bool:
        """Say whether the next frame is delivered, and set its clock where the file's is not to be
        used.
        """
        self._seen += 1
        if self._over or self._before(frame) or not self._kept(frame):
            return False
        if self._given or frame.pts is None:
            frame.pts = round((self._clock + self._taken / self._rate) / self._base)
        elif self._gaps:
            frame.pts = round(self._joined(frame.pts * self._base) / self._base)
        self._taken += 1
        # Frames that do not last equally long are not counted: they end when their time does.
        late = frame.pts * self._base >= self.end + 2 / self._rate
        self._over = self._taken >= self._most if self._counted else late
        return True

    def _before(self, frame: VideoFrame) -> bool:
        if self._by_time and frame.pts is not None:
            return frame.pts * self._base < self.start - HALF / self._rate
        return self._seen <= self._first

    def _kept(self, frame: VideoFrame) -> bool:
        """Say whether a frame within the range is not left out of it."""
        self._passed += 1
        if self._given or frame.pts is None:
            at = self._first + self._passed - 1
            return self._input.frame(self._input.place(at)) == at
        # By its middle: stamps are rounded.
        middle = frame.pts * self._base + HALF / self._rate
        return not any(begins <= middle < begins + length for begins, length in self._gaps)

    def _joined(self, at: Fraction) -> Fraction:
        """Give when a time of the file comes on a clock on which what is left out takes none."""
        return at - sum(max(Fraction(0), min(at - begins, gone)) for begins, gone in self._gaps)

    def sound(self, index: int, frame: AudioFrame) -> list[AudioFrame]:
        """Give the parts of a track's next frame that are not left out, at their times on a clock
        on which that takes none; and note how far the track has come.
        """
        if frame.pts is None:
            return [frame]
        begins, rate = self._begin_of(index, frame), frame.sample_rate
        self._due[index] = end = begins + Fraction(frame.samples, rate)
        self._heard[index] = self._joined(end)
        if not self._gaps:
            return [frame]
        times = [time for at, gone in self._gaps for time in (at, at + gone)]
        edges = [0, *(round((time - begins) * rate) for time in times), frame.samples]
        within = [max(0, min(edge, frame.samples)) for edge in edges]
        pairs = zip(within[::2], within[1::2], strict=True)
        return [self._part(frame, begins, a, b) for a, b in pairs if a < b]

    def _part(self, frame: AudioFrame, begins: Fraction, first: int, end: int) -> AudioFrame:
        rate, base = frame.sample_rate, _base_of(frame)
        part = frame if end - first == frame.samples else _slice(frame, first, end)
        part.pts = round(self._joined(begins + Fraction(first, rate)) / base)
        part.time_base = base
        return part

    def _begin_of(self, index: int, frame: AudioFrame) -> Fraction:
        """Give when a frame begins: where the one before it ended, as far as its rounded stamp
        allows, so that it is cut to the sample.
        """
        base = _base_of(frame)
        said = (frame.pts or 0) * base
        due = self._due.get(index, said)
        return due if abs(said - due) <= base else said

    def place(self, seconds: Fraction) -> Fraction:
        """Give when in what is delivered a time of the file's own clock comes, in seconds."""
        return (self._joined(seconds) - self.start) / self._speed

    @property
    def seen(self) -> bool:
        """Say whether all pictures have come."""
        return self._over

    def heard(self, tracks: int) -> bool:
        """Say whether all sound of so many tracks has come."""
        heard = self._heard.values()
        return len(heard) == tracks and all(at >= self.end for at in heard)


def _base_of(frame: AudioFrame) -> Fraction:
    return Fraction(frame.time_base or Fraction(1, frame.sample_rate))


def _slice(frame: AudioFrame, first: int, end: int) -> AudioFrame:
    """Give some samples of a frame; those of all channels lie in turn, or each in a row."""
    wide = 1 if frame.format.is_planar else frame.layout.nb_channels
    samples = cast("npt.NDArray[np.float32]", frame.to_ndarray())
    some = np.ascontiguousarray(samples[:, first * wide : end * wide])
    part = AudioFrame.from_ndarray(some, format=frame.format.name, layout=frame.layout.name)
    part.sample_rate = frame.sample_rate
    return part
