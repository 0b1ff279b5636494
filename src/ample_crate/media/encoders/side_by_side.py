"""Codes frames that each stand alone side by side, and gives their packets in order."""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from fractions import Fraction
from typing import Any

from av.packet import Packet
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from .setup import standing

Codes = Callable[[VideoFrame], bytes]


class SideBySide:
    """A coder of frames of which none needs another.

    As many are in work as there are processors, and one waits, so that memory does not grow with
    length.

    Args:
        stream: that the packets belong to.
        rate: frames a second.
        codes: gives the bytes of a frame; called from several threads.
        renamed: what the finished file calls the stream in its head, and what it is to be called.
    """

    def __init__(
        self,
        stream: VideoStream,
        rate: Fraction,
        codes: Codes,
        renamed: tuple[bytes, bytes] | None = None,
    ) -> None:
        workers = os.cpu_count() or 1
        self._stream, self._rate, self._codes, self.renamed = stream, rate, codes, renamed
        self._threads = ThreadPoolExecutor(workers)
        self._waiting: deque[Future[bytes]] = deque()
        self._most, self._count = workers + 1, 0
        self._last: VideoFrame | None = None
        self._coded: Future[bytes] = Future()

    def encode(self, frame: VideoFrame | None) -> list[Packet[Any]]:
        """Give the packets that a frame, or with None the end, makes ready."""
        if frame is None:
            made = [self._next() for _ in range(len(self._waiting))]
            self._threads.shutdown()
            return made
        # A frame that is held comes again as the same one, which two threads cannot take at once.
        if frame is not self._last:
            self._last, self._coded = frame, self._threads.submit(self._codes, frame)
        self._waiting.append(self._coded)
        made = []
        while self._waiting and (len(self._waiting) > self._most or self._waiting[0].done()):
            made.append(self._next())
        return made

    def _next(self) -> Packet[Any]:
        coded = self._waiting.popleft().result()
        packet = standing(coded, self._count, self._rate, self._stream)
        self._count += 1
        return packet
