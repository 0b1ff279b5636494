"""Pictures for the screen: any frame of any readable file, at its display aspect. Runs inside the child process."""

from __future__ import annotations

import base64
import io
from collections import OrderedDict
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any

import av
import numpy as np
from av.codec.context import ThreadType
from av.container import InputContainer
from av.video.frame import VideoFrame
from PIL import Image, ImageChops

from ..core.errors import BadMedia
from .read import open_media

KEPT_OPEN = 4
FULL_SEARCH = 60  # frames decoded forward before a seek is tried
STEPS_BACK = (0, 15, 60, 300)  # frames before the wanted one that a seek aims at


class _Reader:
    """An open file that gives frame n, exactly."""

    def __init__(self, path: str) -> None:
        self.container: InputContainer = open_media(path)
        self.stream = self.container.streams.video[0]
        self.stream.thread_type = ThreadType.AUTO
        self.base = Fraction(self.stream.time_base or Fraction(1, 90000))
        self.rate = Fraction(self.stream.guessed_rate or self.stream.average_rate or 25)
        self._frames: Iterator[VideoFrame] = self.container.decode(self.stream)
        self._next = 0
        self.first: int | None = None
        self.last: tuple[int, VideoFrame] | None = None

    def frame(self, number: int) -> VideoFrame:
        """Give frame `number`, counted from 0 in display order."""
        if self.last is not None and self.last[0] == number:
            return self.last[1]
        if self.first is not None and self._next <= number <= self._next + FULL_SEARCH:
            found = self._forward(number)
            if found is not None and found[0] == number:
                return found[1]
        if self.first is None:
            self._restart()
            self._forward(0)
        # Some wrappers land late, or on frames that lean on ones before: step further back until the frame itself comes.
        for back in STEPS_BACK:
            at = (self.first or 0) + int((Fraction(number) - back) / self.rate / self.base)
            if at <= (self.first or 0):
                break
            self.container.seek(at, stream=self.stream, backward=True)
            self._frames = self.container.decode(self.stream)
            found = self._forward(number)
            if found is not None and found[0] == number:
                return found[1]
        self._restart()
        self._forward(number)
        if self.last is None:
            raise BadMedia("No picture could be decoded.", "Ask for the file again.")
        return self.last[1]

    def _forward(self, number: int) -> tuple[int, VideoFrame] | None:
        """Decode on until frame `number` or one after it."""
        for frame in self._frames:
            if self.first is None:
                self.first = frame.pts or 0
            at = self._number(frame)
            self._next = at + 1
            if at >= number:
                self.last = (at, frame)
                return self.last
        return None

    def _number(self, frame: VideoFrame) -> int:
        if frame.pts is None or self.first is None:
            return self._next
        return round((frame.pts - self.first) * self.base * self.rate)

    def _restart(self) -> None:
        self.container.close()
        self.__dict__.update(_Reader._fresh(self.container.name, self.first))

    @staticmethod
    def _fresh(path: str, first: int | None) -> dict[str, Any]:
        made = _Reader(path)
        made.first = first
        return made.__dict__


_open: OrderedDict[str, _Reader] = OrderedDict()


def _reader(path: str) -> _Reader:
    if path in _open:
        _open.move_to_end(path)
        return _open[path]
    while len(_open) >= KEPT_OPEN:
        _open.popitem(last=False)[1].container.close()
    _open[path] = _Reader(path)
    return _open[path]


def _image(path: str, frame: int, width: int) -> Image.Image:
    made = _reader(path).frame(frame)
    aspect = Fraction(_reader(path).stream.sample_aspect_ratio or 1) or Fraction(1)
    shape = Fraction(made.width, made.height) * aspect
    width = max(16, min(width, 1920))
    height = max(2, round(width / shape))
    # Files that do not say their matrix are shown by the usual rule of their size.
    matrix = "ITU709" if made.colorspace == 1 or (made.colorspace == 2 and made.height > 576) else "ITU601"
    shown = made.reformat(width=width, height=height, format="rgb24", src_colorspace=matrix, interpolation="BICUBIC")
    return Image.fromarray(shown.to_ndarray())


def _coded(image: Image.Image) -> dict[str, Any]:
    buffer = io.BytesIO()
    image.save(buffer, "JPEG", quality=88)
    return {"jpeg": base64.b64encode(buffer.getvalue()).decode(), "width": image.width, "height": image.height}


def answer(progress: Callable[[dict[str, Any]], None], path: str, frame: int, width: int) -> dict[str, Any]:
    """Give frame `frame` at its display aspect: {jpeg (base64), width, height}."""
    return _coded(_image(path, frame, width))


def answer_difference(
    progress: Callable[[dict[str, Any]], None], path: str, other: str, frame: int, other_frame: int, width: int
) -> dict[str, Any]:
    """Give what differs between two frames, eight times amplified about mid grey."""
    one, two = _image(path, frame, width), _image(other, other_frame, width)
    if one.size != two.size:
        two = two.resize(one.size)
    gap = np.asarray(ImageChops.difference(one, two), np.int16)
    return _coded(Image.fromarray(np.clip(gap * 8, 0, 255).astype(np.uint8))) | {"mean": float(gap.mean())}


__all__ = ["answer", "answer_difference", "av"]
