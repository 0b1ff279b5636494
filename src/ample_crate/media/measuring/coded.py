"""What coded frames show without being decoded: their slices, and the rate buffer that a header
names.
"""

from __future__ import annotations

from ...core import formats
from ...core.formats.bitstream import RateBuffer, with_start_codes

HEADERS_SOUGHT = 100  # frames in which a header is looked for


class CodedFrames:
    """Looks into the coded frames of one stream; a codec without a reader has nothing to show."""

    def __init__(self, codec: str, extradata: bytes) -> None:
        row = formats.PICTURE.get(codec)
        self._reader = row.bitstream if row is not None else None
        self._length_size = self._reader.length_size(extradata) if self._reader else 0
        self.slices: int | None = None
        self.buffer: RateBuffer | None = self._promise(extradata)
        self._asks = 0 if self.buffer is not None else HEADERS_SOUGHT

    def take(self, data: bytes) -> None:
        """Take one coded frame."""
        if self._reader is None:
            return
        count = self._reader.slices(data, self._length_size)
        if count:
            self.slices = count if self.slices is None else min(self.slices, count)
        if self._asks and self.buffer is None:
            # Streams outside MP4 carry their header with a frame, and one that was cut off at its
            # start not with the first.
            self._asks -= 1
            self.buffer = self._promise(with_start_codes(data, self._length_size))

    def _promise(self, data: bytes) -> RateBuffer | None:
        try:
            return self._reader.rate_buffer(data) if self._reader else None
        except IndexError:  # the header ends before it is whole
            return None
