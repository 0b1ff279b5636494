"""The dialogue level that AC-3 and E-AC-3 carry (ATSC A/52, 5.3.2 and E.1.2.2, from memory)."""

from __future__ import annotations

SYNC = b"\x0b\x77"
HEAD = 12  # bytes that hold all that stands before the level
IDENTIFICATION, ENHANCED = 40, 11  # bits before it, and from which on it means E-AC-3
QUIETEST = -31  # dB; what nought stands for, too


def level(coded: bytes) -> int | None:
    """Give the level in dB of full scale that a coded frame names; None of any other coding."""
    if not coded.startswith(SYNC) or len(coded) < HEAD:
        return None
    bits = int.from_bytes(coded[:HEAD], "big")

    def read(at: int, count: int) -> int:
        return bits >> (8 * HEAD - at - count) & (1 << count) - 1

    at = IDENTIFICATION + 5
    if read(IDENTIFICATION, 5) < ENHANCED:
        channels = read(at + 3, 3)
        at += 6
        # What a fold takes of a centre and of surrounds, or whether stereo is a matrix of four.
        at += 2 * (channels & 1 and channels != 1) + 2 * (channels & 4 > 0) + 2 * (channels == 2)
        at += 1
    value = read(at, 5)
    return -value if value else QUIETEST
