"""PCM: samples as they are."""

from __future__ import annotations

from ...core.planning.plan import SoundTarget
from .setup import SoundSetup

FORMATS = {"pcm_s16le": "s16", "pcm_s24le": "s32", "pcm_dvd": "s16"}


def setup(target: SoundTarget) -> SoundSetup:
    """Give the encoder, which has no options."""
    return SoundSetup(target.codec, FORMATS[target.codec])


SOUND = {codec: setup for codec in FORMATS}
