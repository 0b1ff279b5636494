"""AAC, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.plan import SoundTarget
from .setup import SoundSetup, rated


def setup(target: SoundTarget) -> SoundSetup:
    """Give the encoder and its options."""
    return rated("aac", "fltp", target)


SOUND = {"aac": setup}
