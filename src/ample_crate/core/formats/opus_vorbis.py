"""Opus (RFC 6716: coded at its own rates and no others), Vorbis, FLAC (RFC 9639)."""

from __future__ import annotations

from fractions import Fraction

from .codec import SoundCodec, SoundMaking, of

# Nominal b/s of two channels at 44.1 kHz by quality (the coder's own table; from memory).
QUALITIES = tuple(
    (Fraction(step, 10), 1000 * kilobits)
    for step, kilobits in enumerate((64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 500))
)
CODECS = (
    SoundCodec(
        "opus",
        "Opus",
        wrappers=of("webm", "matroska", "ogg", "mp4", "mpeg-ts"),
        sample_rates=frozenset({8000, 12000, 16000, 24000, 48000}),
        bit_rates=(6_000, 510_000 * 4),
        string="opus",
        frame_samples=960,
        made=SoundMaking(
            frozenset({48000}),
            frozenset({1, 2, 6, 8}),
            128_000,
            wrappers=of("webm", "matroska", "mp4", "ogg"),
            delay=312,
            flushes=True,
            trims=True,
        ),
    ),
    SoundCodec(
        "vorbis",
        "Vorbis",
        wrappers=of("webm", "matroska", "ogg"),
        bit_rates=(16_000, 2_000_000),
        string="vorbis",
        qualities=QUALITIES,
        made=SoundMaking(
            frozenset({22050, 44100, 48000}),
            frozenset({1, 2}),
            128_000,
            wrappers=of("webm", "matroska", "ogg"),
            even=False,
        ),
    ),
    SoundCodec(
        "flac",
        "FLAC",
        wrappers=of("flac", "matroska", "ogg", "mp4"),
        depths={"s16": 16, "s32": 24},
        string="flac",
        frame_samples=4608,
        lossless=True,
        made=SoundMaking(
            frozenset({44100, 48000, 96000}),
            frozenset({1, 2, 6, 8}),
            depths=(16, 24),
            wrappers=of("flac", "matroska", "mp4", "ogg"),
            even=False,
        ),
    ),
)
