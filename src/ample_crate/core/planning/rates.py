"""Sizes and rates: what a wrapper adds, and the picture rate that fits a size cap."""

from __future__ import annotations

from fractions import Fraction

from ..errors import Impossible
from ..formats import WRAPPERS
from ..formats.wrapper import Contents, one_per_cent
from ..units.values import show_bit_rate, show_bytes


def overhead(wrapper: str, contents: Contents, payload: int) -> int:
    """Estimate the wrapper's own bytes; `payload` counts those of coded picture and sound."""
    row = WRAPPERS.get(wrapper)
    own_bytes = row.own_bytes if row is not None else one_per_cent
    return own_bytes(contents, payload).expected


def solve_picture_rate(
    cap: int, sound_bytes: int, wrapper_bytes: int, seconds: Fraction, whose: str = "the file's cap"
) -> int:
    """Find the picture bit rate that fills a cap, rounded down to 1000 b/s; `whose` names the cap
    to a reader.

    One per cent is kept back; a run that still lands over the cap is run again at a corrected rate.

    Raises:
        Impossible: sound and wrapper alone fill the cap.
    """
    left = Fraction(cap) * Fraction(99, 100) - sound_bytes - wrapper_bytes
    rate = int(left * 8 / seconds) if seconds > 0 else 0
    rate -= rate % 1000
    if rate < 10_000:
        raise Impossible(
            f"{whose[0].upper()}{whose[1:]}, {show_bytes(cap)}, is {show_bit_rate(max(0, rate))} "
            f"for {float(seconds):.0f} s of picture.",
            "Lower the sound's bit rate, deliver a shorter cut or fewer of them, or ask the "
            "recipient for a larger cap.",
        )
    return rate


KEPT_BACK = (Fraction(1, 100), Fraction(5, 100))
"""What a corrected rate keeps back of a cap, by how many corrections missed before it; common
practice.
"""


def corrected_rate(
    rate: int, cap: int, file_bytes: int, picture_bytes: int, missed: int = 0
) -> int:
    """Give the picture rate for the next try after a file landed over its cap.

    The bytes that are not picture stay; the picture shrinks in proportion, with 1 % kept back. An
    encoder does not follow small steps (of a short or noisy picture it may spend 3 % more at a rate
    1 % lower), so that 5 % are kept back once a corrected rate has missed.

    Args:
        missed: how many corrected rates have landed over the cap already.
    """
    rest = file_bytes - picture_bytes
    kept_back = KEPT_BACK[min(missed, len(KEPT_BACK) - 1)]
    left = max(0, int(cap * (1 - kept_back)) - rest)
    return int(Fraction(rate) * left / max(1, picture_bytes)) // 1000 * 1000
