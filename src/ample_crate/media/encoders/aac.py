"""AAC, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.encoding import RatedSound
from .setup import SoundSetup

# ISO/IEC 14496-3, Table 1.19 (from memory): four bits after nine say which channels there are. The
# library says 7 for 7.1, which is a front of five loudspeakers there; the elements that it writes,
# in their order, are those of 12: a front of three, two at the side, two at the back.
AT, BITS = 9, 4
FRONT_OF_FIVE, BACK_AND_SIDE = 7, 12


def setup(e: RatedSound) -> SoundSetup:
    """Give the encoder and its rate."""
    return SoundSetup("aac", "fltp", e.bit_rate, configured=_named)


def _named(configuration: bytes) -> bytes:
    """Have the configuration name the loudspeakers that its elements are for."""
    size = 8 * len(configuration)
    shift = size - AT - BITS
    bits = int.from_bytes(configuration)
    if bits >> shift & (1 << BITS) - 1 != FRONT_OF_FIVE:
        return configuration
    bits += (BACK_AND_SIDE - FRONT_OF_FIVE) << shift
    return bits.to_bytes(len(configuration))


SOUND = {"aac": setup}
