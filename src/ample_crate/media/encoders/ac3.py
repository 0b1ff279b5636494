"""AC-3 and E-AC-3, by the library's own encoders."""

from __future__ import annotations

from ...core.planning.encoding import RatedSound
from .setup import SoundSetup

# The library's words for what sound is for.
MODES = {
    "": "ma",
    "complete main": "ma",
    "music and effects": "ef",
    "visually impaired": "vi",
    "hearing impaired": "hi",
    "dialogue": "di",
    "commentary": "co",
    "emergency": "em",
    "voice over": "vo",
    "karaoke": "ka",
}


def setup(e: RatedSound) -> SoundSetup:
    """Give the encoder and its rate."""
    return SoundSetup("ac3", "fltp", e.bit_rate, options=_said(e))


def enhanced(e: RatedSound) -> SoundSetup:
    """Give the encoder of E-AC-3 and its rate."""
    return SoundSetup("eac3", "fltp", e.bit_rate, options=_said(e))


def _said(e: RatedSound) -> dict[str, str]:
    made = {"audio_service_type": MODES[e.mode]}
    return made if e.dialogue is None else made | {"dialnorm": str(e.dialogue)}


SOUND = {"ac3": setup, "eac3": enhanced}
