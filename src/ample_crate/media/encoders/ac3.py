"""AC-3 and E-AC-3, by the library's own encoders."""

from __future__ import annotations

from ...core.planning.encoding import RatedSound
from .setup import SoundSetup


def setup(e: RatedSound) -> SoundSetup:
    """Give the encoder and its rate."""
    return SoundSetup("ac3", "fltp", e.bit_rate, options=_dialogue(e))


def enhanced(e: RatedSound) -> SoundSetup:
    """Give the encoder of E-AC-3 and its rate."""
    return SoundSetup("eac3", "fltp", e.bit_rate, options=_dialogue(e))


def _dialogue(e: RatedSound) -> dict[str, str]:
    return {} if e.dialogue is None else {"dialnorm": str(e.dialogue)}


SOUND = {"ac3": setup, "eac3": enhanced}
