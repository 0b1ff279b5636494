"""AC-3, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.plan import SoundTarget
from .setup import SoundSetup, rated


def setup(target: SoundTarget) -> SoundSetup:
    """Give the encoder and its options."""
    return rated("ac3", "fltp", target)


SOUND = {"ac3": setup}
