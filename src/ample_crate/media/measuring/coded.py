"""What coded frames of MPEG-2, H.264 and H.265 show without being decoded: their slices, and the
rate buffer that the header names.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

HEADERS_SOUGHT = 100  # frames in which a header is looked for
START = re.compile(rb"\x00\x00\x01")
MPEG2_SLICES = re.compile(rb"\x00\x00\x01[\x01-\xaf]", re.DOTALL)  # ISO/IEC 13818-2, Table 6-1
H264_SPS, H264_SLICES = 7, {1, 5}  # ITU-T H.264, Table 7-1
H265_LAST_SLICE = 31  # ITU-T H.265, Table 7-1: coded slices are 0 to 31
# Profiles whose sequence parameter set says more of the chroma: ITU-T H.264, 7.3.2.1.1.
H264_CHROMA_PROFILES = {100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135}


@dataclass(frozen=True)
class RateBuffer:
    """What a stream's header promises its decoder: b/s into the buffer, and the buffer's bits."""

    rate: int
    size: int


class CodedWatch:
    """Looks into the coded frames of one stream; a codec that it does not know has nothing to
    show.
    """

    def __init__(self, codec: str, extradata: bytes) -> None:
        self.codec = codec
        # MP4 and its kin put a length before each unit, and say in their own header how long that
        # is.
        boxed = extradata[:1] == b"\x01"
        self._length_size = 0
        if boxed and codec == "h264" and len(extradata) > 6:
            self._length_size = (extradata[4] & 3) + 1
        elif boxed and codec == "hevc" and len(extradata) > 22:
            self._length_size = (extradata[21] & 3) + 1
        self.slices: int | None = None
        self.buffer: RateBuffer | None = self._promise(
            extradata, self._boxed_sets(extradata) if boxed and codec == "h264" else None
        )
        self._asks = 0 if self.buffer is not None else HEADERS_SOUGHT

    def take(self, data: bytes) -> None:
        """Take one coded frame."""
        if self.codec == "mpeg2video":
            count = len(MPEG2_SLICES.findall(data))
        elif self.codec == "h264":
            count = sum(unit[0] & 31 in H264_SLICES for unit in self._units(data))
        elif self.codec == "hevc":
            count = sum(unit[0] >> 1 & 63 <= H265_LAST_SLICE for unit in self._units(data))
        else:
            return
        if count:
            self.slices = count if self.slices is None else min(self.slices, count)
        if self._asks and self.buffer is None:
            # Streams outside MP4 carry their header with a frame, and one that was cut off at its
            # start not with the first.
            self._asks -= 1
            self.buffer = self._promise(data, None)

    def _units(self, data: bytes) -> Iterator[bytes]:
        """Give the first bytes of each unit."""
        if not self._length_size:
            for found in START.finditer(data):
                if found.end() < len(data):
                    yield data[found.end() : found.end() + 2]
            return
        at, size = 0, self._length_size
        while at + size < len(data):
            yield data[at + size : at + size + 2]
            at += size + int.from_bytes(data[at : at + size])

    def _promise(self, data: bytes, sets: list[bytes] | None) -> RateBuffer | None:
        try:
            if self.codec == "mpeg2video":
                return _mpeg2(data)
            if self.codec == "h264":
                return next(
                    (
                        found
                        for one in (sets if sets is not None else _plain_sets(data))
                        if (found := _h264(one))
                    ),
                    None,
                )
        except IndexError:  # the header ends before it is whole
            pass
        return None

    @staticmethod
    def _boxed_sets(extradata: bytes) -> list[bytes]:
        """Give the sequence parameter sets of an AVC decoder configuration record (ISO/IEC
        14496-15, 5.3.3.1).
        """
        made, at = [], 6
        for _ in range(extradata[5] & 31 if len(extradata) > 5 else 0):
            size = int.from_bytes(extradata[at : at + 2])
            made.append(extradata[at + 2 : at + 2 + size])
            at += 2 + size
        return made


def _plain_sets(data: bytes) -> list[bytes]:
    starts = [found.end() for found in START.finditer(data)]
    return [
        data[a : b - 3]
        for a, b in pairwise([*starts, len(data) + 3])
        if a < len(data) and data[a] & 31 == H264_SPS
    ]


def _mpeg2(data: bytes) -> RateBuffer | None:
    """Read the sequence header and its extension: ISO/IEC 13818-2, 6.2.2.1 and 6.2.2.3."""
    head = data.find(b"\x00\x00\x01\xb3")
    if head < 0:
        return None
    bits = Bits(data[head + 4 : head + 12])
    bits.skip(12 + 12 + 4 + 4)
    rate = bits.read(18)
    bits.skip(1)
    size = bits.read(10)
    extension = data.find(b"\x00\x00\x01\xb5", head)
    if extension >= 0 and data[extension + 4] >> 4 == 1:
        more = Bits(data[extension + 4 : extension + 10])
        more.skip(4 + 8 + 1 + 2 + 2 + 2)
        rate |= more.read(12) << 18
        more.skip(1)
        size |= more.read(8) << 10
    return RateBuffer(rate * 400, size * 16 * 1024) if rate and size else None


def _h264(unit: bytes) -> RateBuffer | None:
    """Read the hypothetical reference decoder's first figures: ITU-T H.264, 7.3.2.1.1, E.1.1, E.1.2
    and E.2.2.
    """
    bits = Bits(unit[1:].replace(b"\x00\x00\x03", b"\x00\x00"))
    profile = bits.read(8)
    bits.skip(16)
    bits.golomb()
    if profile in H264_CHROMA_PROFILES:
        chroma = bits.golomb()
        bits.skip(chroma == 3)
        bits.golomb()
        bits.golomb()
        bits.skip(1)
        if bits.read(1):
            for number in range(12 if chroma == 3 else 8):
                if bits.read(1):
                    _skip_scaling(bits, 16 if number < 6 else 64)
    bits.golomb()
    order = bits.golomb()
    if order == 0:
        bits.golomb()
    elif order == 1:
        bits.skip(1)
        for _ in range(2):
            bits.golomb()
        for _ in range(bits.golomb()):
            bits.golomb()
    bits.golomb()
    bits.skip(1)
    bits.golomb()
    bits.golomb()
    if not bits.read(1):  # frame_mbs_only_flag
        bits.skip(1)
    bits.skip(1)
    if bits.read(1):  # cropping
        for _ in range(4):
            bits.golomb()
    if not bits.read(1):  # vui_parameters_present_flag
        return None
    if bits.read(1) and bits.read(8) == 255:
        bits.skip(32)
    if bits.read(1):
        bits.skip(1)
    if bits.read(1):
        bits.skip(4)
        if bits.read(1):
            bits.skip(24)
    if bits.read(1):
        bits.golomb()
        bits.golomb()
    if bits.read(1):
        bits.skip(65)
    if not bits.read(1) and not bits.read(1):  # neither a NAL's nor a VCL's model
        return None
    bits.golomb()
    rate_scale, size_scale = bits.read(4), bits.read(4)
    rate, size = bits.golomb() + 1, bits.golomb() + 1
    return RateBuffer(rate << (6 + rate_scale), size << (4 + size_scale))


def _skip_scaling(bits: Bits, count: int) -> None:
    last = following = 8
    for _ in range(count):
        if following:
            coded = bits.golomb()
            delta = (coded + 1) // 2 if coded & 1 else -(coded // 2)
            following = (last + delta) % 256
        last = following or last


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
