"""ALAC, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.encoding import LosslessSound
from .setup import SoundSetup

FORMATS = {16: "s16p", 24: "s32p"}


def setup(e: LosslessSound) -> SoundSetup:
    """Give the encoder, which takes 24 bits in the upper part of 32."""
    return SoundSetup("alac", FORMATS[e.depth])


SOUND = {"alac": setup}
