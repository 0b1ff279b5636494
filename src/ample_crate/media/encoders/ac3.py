"""AC-3, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.encoding import RatedSound
from .setup import SoundSetup


def setup(e: RatedSound) -> SoundSetup:
    """Give the encoder and its rate."""
    return SoundSetup("ac3", "fltp", e.bit_rate)


SOUND = {"ac3": setup}
