"""Pictures for the screen: any frame of any readable file, at its display aspect. Runs inside the
child process.
"""

from __future__ import annotations

import contextlib
import os
from bisect import bisect_right
from collections import OrderedDict
from collections.abc import Callable, Generator
from fractions import Fraction
from typing import Any

import av
from av.codec.context import ThreadType
from av.container import InputContainer
from av.video.frame import VideoFrame
from PIL import Image

from ..core.errors import BadMedia
from . import screen
from .read import decoder, open_media, packets, picture_stream

KEPT_OPEN = 4
FULL_SEARCH = 12  # frames decoded forward before a seek is tried
LARGEST = 4096
STEPS_BACK = (0, 15, 60, 300)  # frames before the wanted one that a seek aims at


class Reader:
    """An open file that gives frame n, exactly.

    Frames are found by their time where the clock is even, else by a list of all time stamps made
    at first use.
    """

    def __init__(self, path: str, even: bool) -> None:
        self.path, self.even = path, even
        self.first: int | None = None
        self.last: tuple[int, VideoFrame] | None = None
        self.stamps: dict[int, int] = {}
        self._begin()
        self.rate = Fraction(self.stream.guessed_rate or self.stream.average_rate or 25)
        if not even:
            times = sorted(
                p.pts
                for p in packets(self.container, self.stream)
                if p is not None and p.pts is not None
            )
            self.stamps = {time: number for number, time in enumerate(times)}
            self._times = times
            self._restart()

    def _begin(self) -> None:
        self.container: InputContainer = open_media(self.path)
        stream = picture_stream(self.container)
        if stream is None:
            raise BadMedia("There is no picture in this file.", "Listen to its sound instead.")
        self.stream = stream
        # Threads that take a frame each give the first one only when each has got one: where every
        # frame stands by itself, and any may be asked for, that decodes several in vain.
        alone = self.stream.codec_context.codec.intra_only
        self.stream.thread_type = ThreadType.SLICE if alone else ThreadType.AUTO
        self._search = 0 if alone else FULL_SEARCH
        self.base = Fraction(self.stream.time_base or Fraction(1, 90000))
        self._next = 0
        self._frames = self._decoded()

    def _decoded(self) -> Generator[VideoFrame, None, None]:
        decode = decoder(self.stream)
        for packet in packets(self.container, self.stream):
            with contextlib.suppress(av.FFmpegError):
                if packet is not None:
                    yield from decode(packet)

    def frame(self, number: int) -> VideoFrame:
        """Give frame `number`, counted from 0 in display order; the last one for numbers past the
        end.
        """
        if self.last is not None and self.last[0] == number:
            return self.last[1]
        if self.first is not None and self._next <= number <= self._next + self._search:
            found = self._forward(number)
            if found is not None and found[0] == number:
                return found[1]
            if found is None and self.last is not None:
                return self.last[1]  # gone through to its end
        if self.first is None:
            self._restart()
            self._forward(0)
        # Some wrappers land late, or on frames that lean on ones before: step further back until
        # the frame itself comes.
        for back in STEPS_BACK if self.timed else ():
            at = max(self.first or 0, self._time(number - back))
            with contextlib.suppress(av.FFmpegError):
                self.container.seek(at, stream=self.stream, backward=True)
                self._frames = self._decoded()
                found = self._forward(number)
                if found is not None and found[0] == number:
                    return found[1]
            if at == (self.first or 0):
                break
        self._restart()
        self._forward(number)
        if self.last is None:
            raise BadMedia("No picture could be decoded.", "Ask for the file again.")
        return self.last[1]

    @property
    def place(self) -> int:
        """Give the number of the frame that was given last."""
        return -1 if self.last is None else self.last[0]

    def time(self, number: int) -> Fraction:
        """Give the seconds at which a frame is shown, by the file's own clock."""
        if self.first is None:
            self.frame(0)
        if self.stamps:
            return self._time(number) * self.base
        # Files count in units of their own, thousandths of a second some of them.
        return ((self.first or 0) + round(number / self.rate / self.base)) * self.base

    def shown_at(self, seconds: Fraction) -> int:
        """Give the frame that is shown at a time, of a file whose clock is uneven."""
        return max(0, bisect_right(self._times, seconds / self.base) - 1)

    def _time(self, number: int) -> int:
        if self.stamps:
            return self._times[max(0, min(number, len(self._times) - 1))]
        return (self.first or 0) + int(Fraction(number) / self.rate / self.base)

    def _forward(self, number: int) -> tuple[int, VideoFrame] | None:
        """Decode on until frame `number` or one after it."""
        for frame in self._frames:
            if self.first is None:
                self.first, self.timed = frame.pts or 0, frame.pts is not None
            at = self._number(frame)
            self._next = at + 1
            self.last = (at, frame)
            if at >= number:
                return self.last
        return None

    timed = True

    def _number(self, frame: VideoFrame) -> int:
        if frame.pts is None or self.first is None:
            return self._next
        if self.stamps:
            return self.stamps.get(frame.pts, self._next)
        return round((frame.pts - self.first) * self.base * self.rate)

    def _restart(self) -> None:
        self.close()
        self._begin()

    def close(self) -> None:
        """Let go of the file, and of its decoder at once. While another file is opened what the
        library says needs the interpreter; threads of a decoder that say something meanwhile would
        wait for it, and whoever lets go of that decoder then for them.
        """
        self._frames.close()
        self.container.close()
        del self.stream


_open: OrderedDict[str, Reader] = OrderedDict()


def reader_of(path: str, even: bool, mark: str) -> Reader:
    """Give the open reader of a file, by what its bytes are known by: another file under the same
    path is another one.
    """
    told = os.stat(path)
    known = f"{path}|{told.st_ino}|{told.st_size}|{told.st_mtime_ns}|{mark}|{even}"
    if known in _open:
        _open.move_to_end(known)
        return _open[known]
    while len(_open) >= KEPT_OPEN:
        _open.popitem(last=False)[1].close()
    _open[known] = Reader(path, even)
    return _open[known]


def _image(
    path: str, frame: int, width: int, display: dict[str, Any] | None = None, mark: str = ""
) -> Image.Image:
    """Give a frame as R'G'B' for the screen.

    Args:
        path: the file.
        frame: which.
        width: of the picture to make, in screen samples; 0 for one screen sample for each stored
        one.
        display: `even`, `aspect` (pixel aspect over the file's own), `field` (woven, upper, lower),
        `alpha` (over checker,
            colour, black; or matte), `full_range`, `matrix`.
        mark: which bytes the file has, where its own size and times do not tell.
    """
    display = display or {}
    reader = reader_of(path, display.get("even", True), mark)
    made = reader.frame(frame)
    aspect = Fraction(display.get("aspect") or reader.stream.sample_aspect_ratio or 1) or Fraction(
        1
    )
    sample_for_sample, wanted = width == 0, width
    if sample_for_sample:
        width, height = min(made.width, LARGEST), made.height
    else:
        width = max(16, min(width, LARGEST))
        height = max(2, round(width / (Fraction(made.width, made.height) * aspect)))
    # Files that do not say their matrix are shown by the usual rule of their size.
    high = made.colorspace == 1 or (made.colorspace == 2 and made.height > 576)
    stated = display.get("matrix", "")
    matrix = stated if stated in screen.MATRICES else "BT.709" if high else "BT.601"
    field = display.get("field", "woven")
    image = screen.colours(
        made,
        (width, height) if field == "woven" else (made.width, made.height),
        matrix,
        full_range=bool(display.get("full_range")),
    )
    if field != "woven":
        image = screen.alone(image, field, (width, height))
    shown = screen.over(image, display.get("alpha", screen.CHECKER))
    # A file that asks to be turned is shown as a player shows it; sample for sample it is left as
    # it lies.
    turn = made.rotation % 360 if display.get("turn", True) and not sample_for_sample else 0
    if turn:
        shown = shown.rotate(turn, expand=True)
        shown = (
            shown.resize((wanted, max(2, round(wanted * shown.height / shown.width))))
            if shown.width != wanted
            else shown
        )
    return shown


def handle(
    progress: Callable[[dict[str, Any]], None],
    path: str,
    frame: int,
    width: int,
    display: dict[str, Any] | None = None,
    mark: str = "",
) -> dict[str, Any]:
    """Give frame `frame`: {jpeg (base64), width, height}; see `_image` for `display` and `mark`."""
    return screen.coded(_image(path, frame, width, display, mark))
