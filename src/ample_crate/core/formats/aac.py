"""AAC (ISO/IEC 14496-3): 1024 samples a frame, of at most 6144 bits a channel; from memory."""

from __future__ import annotations

from .codec import SoundCodec, SoundMaking, of

HERTZ = frozenset(
    {7350, 8000, 11025, 12000, 16000, 22050, 24000, 32000, 44100, 48000, 64000, 88200, 96000}
)
CODECS = (
    SoundCodec(
        "aac",
        "AAC",
        also=("AAC-LC", "MPEG-4 AAC"),
        wrappers=of("mp4", "mov", "matroska", "mpeg-ts", "adts", "m4a"),
        sample_rates=HERTZ,
        bit_rates=(8_000, 288_000 * 8),
        string="mp4a.40.2",
        frame_samples=1024,
        frame_bits=6144,
        made=SoundMaking(
            frozenset({22050, 24000, 32000, 44100, 48000}),
            frozenset({1, 2, 6, 8}),
            192_000,
            # ADTS has three bits for it, and 7.1 is the twelfth.
            eight_in=of("mp4", "mov", "matroska", "m4a"),
            delay=1024,
            flushes=True,
            even=False,
        ),
    ),
)
