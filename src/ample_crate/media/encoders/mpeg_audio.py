"""MPEG-1 audio, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.encoding import RatedSound
from .setup import SoundSetup


def mp2(e: RatedSound) -> SoundSetup:
    """Give the encoder and its rate."""
    return SoundSetup("mp2", "s16", e.bit_rate)


SOUND = {"mp2": mp2}
