"""Where a copy of a range begins and ends: at a key frame, and where all that it needs is in it.

Runs inside the child process.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any, NamedTuple

import av
from av.container import InputContainer
from av.video.stream import VideoStream

from ..core.errors import BadMedia
from .read import begins, open_media, packets, picture_stream

BEFORE = Fraction(2)  # seconds by which a search goes further back each time, doubled


class Coded(NamedTuple):
    """A coded frame: its place in the order of showing, counted from 0, and whether it is a key
    frame.
    """

    number: int
    key: bool


def handle(
    progress: Callable[[dict[str, Any]], None], path: str, first: int, frames: int, rate: str
) -> dict[str, Any]:
    """Give the least part of a file's coded frames that holds a range: {first, frames}.

    Args:
        progress: told of nothing; it is over soon.
        path: the file.
        first: frame, counted from 0.
        frames: how many.
        rate: frames a second, as a fraction.
    """
    with open_media(path) as container:
        picture = picture_stream(container)
        if picture is None:
            raise BadMedia("The master has no picture.", "Hand in a master with picture.")
        begin, end = _around(container, picture, first, first + frames, Fraction(rate))
    return {"first": begin, "frames": end - begin}


def _around(
    container: InputContainer, picture: VideoStream, first: int, end: int, rate: Fraction
) -> tuple[int, int]:
    base = Fraction(picture.time_base or Fraction(1, 90_000))
    start = begins(container, picture)
    back = Fraction(0)
    at = start + 1
    while at > start:
        at = start + first / rate - back
        # Where the wrapper's index knows of no key frame there, it is no place to look.
        with contextlib.suppress(av.FFmpegError):
            container.seek(int(max(at, start) / base), stream=picture, backward=True)
        cut = holding(_coded(container, picture, start, rate), first, end)
        if cut is not None:
            return cut
        back = max(BEFORE, 2 * back)
    raise BadMedia("No key frame stands before the range.", "Have the picture encoded instead.")


def holding(coded: Iterator[Coded], first: int, end: int) -> tuple[int, int] | None:
    """Find where a copy of frames `first` to `end`, not included, begins and ends.

    Args:
        coded: frames in the order of coding.
        first, end: the range.

    Returns:
        first frame, and the one after the last; None where no key frame stands before the range.
    """
    begin, last, count = -1, -1, 0
    for frame in coded:
        if frame.key and frame.number <= first:
            begin, last, count = frame.number, frame.number, 1
        elif begin >= 0 and frame.number > begin:
            count += 1
            last = max(last, frame.number)
        # All that is shown up to the last one has come: nothing leans on what is left out.
        if begin >= 0 and last >= end - 1 and count == last - begin + 1:
            return begin, last + 1
    return (begin, last + 1) if begin >= 0 else None


def _coded(
    container: InputContainer, picture: VideoStream, start: Fraction, rate: Fraction
) -> Iterator[Coded]:
    for packet in packets(container, picture):
        if packet is not None and packet.size and packet.pts is not None:
            at = packet.pts * Fraction(packet.time_base) - start
            yield Coded(round(at * rate), packet.is_keyframe)
