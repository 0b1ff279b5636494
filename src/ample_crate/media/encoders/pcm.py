"""PCM: samples as they are."""

from __future__ import annotations

from ...core.planning.encoding import PlainSound
from .setup import SoundSetup

FORMATS = {
    "pcm_s16le": "s16",
    "pcm_s24le": "s32",
    "pcm_s32le": "s32",
    "pcm_f32le": "flt",
    "pcm_s16be": "s16",
    "pcm_s24be": "s32",
    "pcm_dvd": "s16",
}
# The discs' encoder knows 5.1 with its surrounds at the side alone.
LAYOUTS = {"pcm_dvd": {"5.1": "5.1(side)"}}


def setup(e: PlainSound) -> SoundSetup:
    """Give the encoder, which has no rate."""
    return SoundSetup(e.codec, FORMATS[e.codec], layouts=LAYOUTS.get(e.codec, {}))


SOUND = {codec: setup for codec in FORMATS}
