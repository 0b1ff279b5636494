"""MPEG-1 audio: layer 2 by the library's own encoder, layer 3 by LAME."""

from __future__ import annotations

from ...core.planning.encoding import RatedSound
from .setup import SoundSetup


def mp2(e: RatedSound) -> SoundSetup:
    """Give the encoder and its rate."""
    return SoundSetup("mp2", "s16", e.bit_rate)


def mp3(e: RatedSound) -> SoundSetup:
    """Give the encoder and its rate."""
    return SoundSetup("libmp3lame", "fltp", e.bit_rate)


SOUND = {"mp2": mp2, "mp3": mp3}
