"""What is delivered of a master: all of it, or a range."""

from __future__ import annotations

from fractions import Fraction
from math import ceil

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
    by the file's own clock.

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
        self._given = taken.clock == "given"
        self._counted = taken.clock in {"even", "given"} or self._first > 0
        self._by_time = taken.clock == "even" and self._first > 0
        self._seen = self._taken = 0
        self._heard: dict[int, Fraction] = {}
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
        if self._over or self._before(frame):
            return False
        if self._given or frame.pts is None:
            frame.pts = round((self._clock + self._taken / self._rate) / self._base)
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

    def place(self, seconds: Fraction) -> Fraction:
        """Give when in what is delivered a time of the file's own clock comes, in seconds."""
        return (seconds - self.start) / self._speed

    @property
    def seen(self) -> bool:
        """Say whether all pictures have come."""
        return self._over

    def heard(self, tracks: int) -> bool:
        """Say whether all sound of so many tracks has come."""
        heard = self._heard.values()
        return len(heard) == tracks and all(at >= self.end for at in heard)
