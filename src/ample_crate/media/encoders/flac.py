"""FLAC, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.encoding import LosslessSound
from .setup import SoundSetup

FORMATS = {16: "s16", 24: "s32"}


def setup(e: LosslessSound) -> SoundSetup:
    """Give the encoder, which takes 24 bits in the upper part of 32."""
    return SoundSetup("flac", FORMATS[e.depth])


SOUND = {"flac": setup}
