"""MPEG-1 audio, layers 1 to 3 (ISO/IEC 11172-3)."""

from __future__ import annotations

from .codec import SoundCodec, SoundMaking, of

HERTZ = frozenset({32000, 44100, 48000})
LAYER_2 = (32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384)  # kb/s
LAYER_3 = (32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320)  # kb/s
CODECS = (
    SoundCodec(
        "mp2",
        "MPEG-1 layer 2",
        also=("MPEG-1 layer II", "MPEG layer 2", "layer 2", "MPEG-1 audio layer 2"),
        decoders=("mp2float",),
        wrappers=of("mpeg-ps", "mpeg-ts", "mov", "matroska", "avi", "mp4", "mp2"),
        sample_rates=HERTZ,
        channels=2,
        bit_rates=tuple(k * 1000 for k in LAYER_2),
        fixed=True,
        frame_samples=1152,
        made=SoundMaking(
            HERTZ,
            frozenset({1, 2}),
            384_000,
            # MP4 has one name for all layers, and is read as layer 3.
            wrappers=of("mpeg-ps", "mpeg-ts", "mov", "matroska", "mp2", "separate streams"),
            delay=481,
        ),
    ),
    SoundCodec(
        "mp3",
        "MPEG-1 layer 3",
        also=("layer 3", "MPEG-1 layer III"),
        decoders=("mp3float",),
        wrappers=of("mp3", "mp4", "mov", "avi", "matroska"),
        sample_rates=HERTZ | {16000, 22050, 24000},
        channels=2,
        bit_rates=tuple(k * 1000 for k in LAYER_3),
        fixed=True,
        string="mp4a.6B",
        frame_samples=1152,
        made=SoundMaking(
            HERTZ,
            frozenset({1, 2}),
            192_000,
            wrappers=of("mp4", "mov", "matroska", "mp3", "separate streams"),
            delay=1105,
            flushes=True,
            trims=True,
        ),
    ),
    SoundCodec("mp1", "MPEG-1 layer 1", decoders=("mp1float",), frame_samples=384),
)
