"""AC-3 and E-AC-3 (ATSC A/52)."""

from __future__ import annotations

from .codec import SoundCodec, SoundMaking, of

HERTZ = frozenset({32000, 44100, 48000})
# Table 5.7, what the sound is for; the last code means another thing of one channel.
MODES = (
    "complete main",
    "music and effects",
    "visually impaired",
    "hearing impaired",
    "dialogue",
    "commentary",
    "emergency",
    "karaoke",
)
MAIN, KARAOKE, VOICE_OVER = MODES[0], MODES[-1], "voice over"
# What is laid over a main programme is one channel, and what leaves room for a singer is not.
ONE_CHANNEL, SEVERAL = frozenset({"commentary", "emergency", VOICE_OVER}), frozenset({KARAOKE})
# Table 5.18, kb/s.
KILOBITS = (
    32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384, 448, 512, 576, 640,
)  # fmt: skip
CODECS = (
    SoundCodec(
        "ac3",
        "AC-3",
        wrappers=of("mpeg-ps", "mpeg-ts", "mp4", "mov", "matroska", "avi", "ac3"),
        sample_rates=HERTZ,
        channels=6,
        bit_rates=tuple(k * 1000 for k in KILOBITS),
        fixed=True,
        string="ac-3",
        dialogue=True,
        frame_samples=1536,
        # AVI has no time at which the sound begins, and would hide the coder's delay.
        made=SoundMaking(
            HERTZ,
            frozenset({1, 2, 6}),
            448_000,
            wrappers=of("mpeg-ps", "mpeg-ts", "mp4", "mov", "matroska", "ac3", "separate streams"),
            delay=256,
        ),
    ),
    SoundCodec(
        "eac3",
        "E-AC-3",
        also=("EC-3",),
        wrappers=of("mpeg-ts", "mp4", "mov", "matroska", "eac3"),
        sample_rates=HERTZ,
        channels=16,
        bit_rates=(32_000, 6_144_000),
        string="ec-3",
        dialogue=True,
        frame_samples=1536,
        made=SoundMaking(HERTZ, frozenset({1, 2, 6}), 384_000, delay=256),
    ),
)
