"""AAC, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.encoding import RatedSound
from .setup import SoundSetup


def setup(e: RatedSound) -> SoundSetup:
    """Give the encoder and its rate."""
    return SoundSetup("aac", "fltp", e.bit_rate)


SOUND = {"aac": setup}
