"""The decoder's rate buffer (VBV, coded picture buffer): how large it must be for a stream."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction


def least_buffer(frames: Iterable[int], rate: int, step: Fraction) -> int:
    """Give the smallest buffer out of which no frame comes too late.

    The buffer is full when the first frame is taken out; it is filled at `rate` until it is full
    again, and each frame is taken out whole at its time (the model of ISO/IEC 13818-2 Annex C.3 for
    a variable rate, and of the leaky bucket of ITU-T H.264 Annex C). A stream for a constant rate
    must meet it too.

    Args:
        frames: coded bits of each frame, in coding order.
        rate: b/s into the buffer.
        step: seconds from one frame to the next.

    Returns:
        Bits; 0 without frames.
    """
    comes, scale = rate * step.numerator, step.denominator
    owed = most = 0
    for bits in frames:
        owed = max(owed - comes, 0) + bits * scale
        most = max(most, owed)
    return -(-most // scale)
