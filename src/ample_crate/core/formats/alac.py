"""ALAC: 4096 samples a frame, each coded so that it comes back as it was."""

from __future__ import annotations

from .codec import SoundCodec, SoundMaking, of

CODECS = (
    SoundCodec(
        "alac",
        "ALAC",
        wrappers=of("mp4", "mov", "matroska", "m4a"),
        depths={"s16p": 16, "s32p": 24},
        string="alac",
        frame_samples=4096,
        lossless=True,
        made=SoundMaking(
            frozenset({44100, 48000, 96000}),
            frozenset({1, 2, 6}),
            depths=(16, 24),
            even=False,
        ),
    ),
)
