"""MPEG-1 audio, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.plan import SoundTarget
from .setup import SoundSetup, rated


def mp2(target: SoundTarget) -> SoundSetup:
    """Give the encoder and its options."""
    return rated("mp2", "s16", target)


SOUND = {"mp2": mp2}
