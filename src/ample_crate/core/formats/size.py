"""How the size of coded picture comes about: few ways, and each codec has one of them."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..units.values import Size

USUAL_RATE = 8_000_000  # b/s of H.264 at 1280x720 and 25 fps; common practice
USUAL_SAMPLES = 1280 * 720 * 25  # luma samples a second


@dataclass(frozen=True)
class RateControlled:
    """The encoder is given a rate, a ceiling and a buffer, and keeps to them.

    Attributes:
        weight: bits that pictures alike take, as a multiple of those of H.264 (common practice).
        two_passes: whether the encoder can look first and spend then.
    """

    weight: Fraction = Fraction(1)
    two_passes: bool = False

    def usual(self, size: Size, rate: Fraction) -> int:
        """Give a usual bit rate in b/s: 8 Mb/s for 720p25 H.264, in proportion to samples."""
        samples = size.width * size.height * rate
        base = USUAL_RATE * samples / USUAL_SAMPLES
        return int(base * self.weight) // 1000 * 1000
