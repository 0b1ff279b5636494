"""Opus, by libopus."""

from __future__ import annotations

from ...core.planning.encoding import RatedSound
from .setup import SoundSetup


def opus(e: RatedSound) -> SoundSetup:
    """Give the encoder and its rate, which every frame keeps to."""
    return SoundSetup("libopus", "flt", e.bit_rate, options={"vbr": "off"})


SOUND = {"opus": opus}
