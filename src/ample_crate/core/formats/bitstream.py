"""What coded frames show without being decoded: their slices, and the rate buffer that a header
names.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Protocol

START = re.compile(rb"\x00\x00\x01")


@dataclass(frozen=True)
class RateBuffer:
    """What a stream's header promises its decoder: b/s into the buffer, and the buffer's bits."""

    rate: int
    size: int


class Bitstream(Protocol):
    """Reads the coded frames of one codec. Bytes may be cut short: IndexError says so."""

    def length_size(self, extradata: bytes) -> int:
        """Give how many bytes of length stand before each unit; 0 where start codes do."""

    def slices(self, frame: bytes, length_size: int) -> int:
        """Count the slices of a coded frame."""

    def rate_buffer(self, data: bytes) -> RateBuffer | None:
        """Read the rate buffer from a stream's configuration or the head of a frame."""


def units(data: bytes, length_size: int) -> Iterator[bytes]:
    """Give the first bytes of each unit (NAL) of a coded frame."""
    if not length_size:
        for found in START.finditer(data):
            if found.end() < len(data):
                yield data[found.end() : found.end() + 2]
        return
    at = 0
    while at + length_size < len(data):
        yield data[at + length_size : at + length_size + 2]
        at += length_size + int.from_bytes(data[at : at + length_size])


def with_start_codes(data: bytes, length_size: int) -> bytes:
    """Put start codes in the place of lengths: a length may look like a start code, and what is
    within a unit never does.
    """
    if not length_size:
        return data
    parts, at = [], 0
    while at + length_size < len(data):
        size = int.from_bytes(data[at : at + length_size])
        at += length_size
        parts.append(b"\x00\x00\x01" + data[at : at + size])
        at += size
    return b"".join(parts)


class Bits:
    """Reads bits, highest first; IndexError past the end."""

    def __init__(self, data: bytes) -> None:
        self._value, self._left = int.from_bytes(data), len(data) * 8

    def read(self, count: int) -> int:
        """Read an unsigned number of `count` bits."""
        self.skip(count)
        return self._value >> self._left & (1 << count) - 1

    def skip(self, count: int) -> None:
        """Pass over bits."""
        if count > self._left:
            raise IndexError("the data ends")
        self._left -= count

    def golomb(self) -> int:
        """Read an Exp-Golomb number (ITU-T H.264, 9.1)."""
        zeros = 0
        while not self.read(1):
            zeros += 1
            if zeros > 32:
                raise IndexError("not a number")
        return (1 << zeros) - 1 + self.read(zeros)

    def skip_golomb(self, count: int = 1) -> None:
        """Pass over Exp-Golomb numbers."""
        for _ in range(count):
            self.golomb()
