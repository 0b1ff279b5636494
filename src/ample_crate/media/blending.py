"""Mixes frames that follow each other, so that another rate keeps the pace of what moves; in the
very samples that the encoder gets.
"""

from __future__ import annotations

from fractions import Fraction

import numpy as np
from av.video.frame import VideoFrame

from ..core.planning.steps import PictureFormat
from .burning import copied


class Blender:
    """Gives frames of one rate for frames of another, in order.

    Args:
        have: frames a second that come in.
        f: of what comes out.
    """

    def __init__(self, have: Fraction, f: PictureFormat) -> None:
        self._each, self._f = have / f.rate, f
        self._before: VideoFrame | None = None
        self._taken = self._given = 0

    def push(self, frame: VideoFrame) -> list[VideoFrame]:
        """Take the next frame, and give those that lie between it and the one before."""
        made = []
        if self._before is not None:
            made = self._until(self._taken, self._before, frame)
        self._before = frame
        self._taken += 1
        return made

    def finish(self) -> list[VideoFrame]:
        """Give those that the last frame is shown in alone."""
        if self._before is None:
            return []
        return self._until(self._taken, self._before, self._before)

    def _until(self, end: int, one: VideoFrame, other: VideoFrame) -> list[VideoFrame]:
        made = []
        while self._given * self._each < end:
            share = self._given * self._each - (end - 1)
            made.append(mixed(one, other, share, self._f))
            self._given += 1
        return made


def mixed(one: VideoFrame, other: VideoFrame, share: Fraction, f: PictureFormat) -> VideoFrame:
    """Mix two frames.

    Args:
        one, other: in the format.
        share: of the other in it, from 0 to 1.
        f: of both.
    """
    made = copied(one)
    if not share:
        return made
    kind = np.uint8 if f.depth <= 8 else np.uint16
    for plane, mine, next_one in zip(made.planes, one.planes, other.planes, strict=True):
        first, second = (
            np.frombuffer(memoryview(p), np.uint8).reshape(-1, p.line_size).view(kind)
            for p in (mine, next_one)
        )
        room = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size).view(kind)
        wide = min(first.shape[1], second.shape[1], room.shape[1])
        # In whole numbers of 16 bit: the same on every machine.
        weight = round(share * 65536)
        parts = (first[:, :wide].astype(np.uint64), second[:, :wide].astype(np.uint64))
        mix = (parts[0] * (65536 - weight) + parts[1] * weight + 32768) >> 16
        room[:, :wide] = mix.astype(kind)
    return made
