"""What frames of AC-3 and E-AC-3 say of their sound: the level of its dialogue, and what it is for
(ATSC A/52, 5.3.2 and E.1.2.2, from memory).
"""

from __future__ import annotations

from typing import NamedTuple

from ...core.formats.ac3 import MAIN, MODES, VOICE_OVER
from ...core.formats.bitstream import Bits

SYNC = b"\x0b\x77"
HEAD = 64  # bytes that hold all that is read here
ENHANCED = 11  # the identification from which on it means E-AC-3
QUIETEST = -31  # dB; what nought stands for, too
ALONE, MONO = 0, 1  # codes of two programmes of one channel each, and of one channel
BLOCKS = (1, 2, 3, 6)  # of samples in a frame, by their code
WHOLE = 3  # the code of six, and of a rate that is halved
DEPENDENT = 1  # the type of a stream that adds channels to another


class Told(NamedTuple):
    """What a coded frame says; None for what it leaves open, or any other coding.

    Attributes:
        dialogue: level in dB of full scale.
        mode: what the sound is for.
    """

    dialogue: int | None = None
    mode: str | None = None


def told(coded: bytes) -> Told:
    """Read the head of a coded frame; a head that is cut short says nothing."""
    if not coded.startswith(SYNC):
        return Told()
    bits = Bits(coded[:HEAD])
    try:
        bits.skip(40)
        plain = bits.read(5) < ENHANCED
        return _plain(bits) if plain else _enhanced(Bits(coded[:HEAD]))
    except IndexError:
        return Told()


def _plain(bits: Bits) -> Told:
    mode, channels = bits.read(3), bits.read(3)
    # What a fold takes of a centre and of surrounds, or whether stereo is a matrix of four.
    bits.skip(2 * (channels & 1 and channels != MONO))
    bits.skip(2 * (channels & 4 > 0) + 2 * (channels == 2))
    bits.skip(1)
    return Told(_level(bits), _mode(mode, channels))


def _enhanced(bits: Bits) -> Told:
    bits.skip(16)
    kind = bits.read(2)
    bits.skip(3 + 11)
    rate, more = bits.read(2), bits.read(2)
    # The fourth code is followed by another for the rate, and means six blocks.
    blocks = WHOLE if rate == WHOLE else more
    channels, low = bits.read(3), bits.read(1)
    bits.skip(5)
    level = _level(bits)
    _optional(bits, 8)
    if channels == ALONE:
        bits.skip(5)
        _optional(bits, 8)
    if kind == DEPENDENT:
        _optional(bits, 16)
    if bits.read(1):
        _mixing(bits, kind, blocks, channels, low)
    # Where nothing more is said it is taken for the main programme (common practice).
    return Told(level, _mode(bits.read(3), channels) if bits.read(1) else MAIN)


def _mixing(bits: Bits, kind: int, blocks: int, channels: int, low: int) -> None:
    """Pass over what is said of mixing."""
    bits.skip(2 * (channels > 2))
    bits.skip(6 * (channels & 1 and channels > 2) + 6 * (channels & 4 > 0))
    if low:
        _optional(bits, 5)
    if kind == DEPENDENT:
        return
    _optional(bits, 6)
    if channels == ALONE:
        _optional(bits, 6)
    _optional(bits, 6)
    more = bits.read(2)
    if more == 3:
        bits.skip(8 * (bits.read(5) + 2))
    else:
        bits.skip((0, 5, 12)[more])
    for _ in range(max(0, 2 - channels)):
        _optional(bits, 14)
    if bits.read(1):
        if blocks == 0:
            bits.skip(5)
        else:
            for _ in range(BLOCKS[blocks]):
                _optional(bits, 5)


def _optional(bits: Bits, count: int) -> None:
    if bits.read(1):
        bits.skip(count)


def _level(bits: Bits) -> int:
    value = bits.read(5)
    return -value if value else QUIETEST


def _mode(code: int, channels: int) -> str:
    return VOICE_OVER if code == len(MODES) - 1 and channels == MONO else MODES[code]
