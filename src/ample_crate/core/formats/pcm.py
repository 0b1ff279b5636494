"""PCM of every kind: samples as they are."""

from __future__ import annotations

from .codec import SoundCodec, SoundMaking, of

# Program and transport streams have no plain PCM: discs and studios each put their own kind into
# them.
PLACES = of("mov", "mxf", "avi", "matroska", "wav", "aiff", "gxf", "mp4")
RATES, CHANNELS = frozenset({44100, 48000, 96000}), frozenset({1, 2, 6, 8})
# The least significant byte first, as most put it; AIFF and MOV take the other order.
MADE = SoundMaking(
    RATES,
    CHANNELS | {4},
    wrappers=of("mov", "mxf", "mxf d10", "matroska", "mp4", "wav", "avi", "separate streams"),
)
MADE_BIG_ENDIAN = SoundMaking(RATES, CHANNELS, wrappers=of("mov", "aiff"))
MADE_DEEP = SoundMaking(RATES, CHANNELS, wrappers=of("mov", "matroska", "wav"))
ALSO = ("PCM", "LPCM", "linear PCM", "uncompressed")


def _plain(key: str, label: str, depth: int, made: SoundMaking | None = None) -> SoundCodec:
    return SoundCodec(key, label, also=ALSO, wrappers=PLACES, channels=32, depth=depth, made=made)


CODECS = (
    # DVD-Video, from memory: 48 or 96 kHz, at most eight channels and 6.144 Mb/s. Of 20 and 24 bit
    # the codec library gives samples of 32.
    SoundCodec(
        "pcm_dvd",
        "PCM of a DVD",
        wrappers=of("mpeg-ps"),
        sample_rates=frozenset({48000, 96000}),
        depths={"s16": 16, "s32": 24},
        # The codec library fills a pack of 2,048 bytes with each packet.
        packets=(2008, 3),
        made=SoundMaking(frozenset({48000}), frozenset({1, 2, 6, 8}), depth=16),
    ),
    _plain("pcm_s16le", "PCM 16 bit", 16, MADE),
    _plain("pcm_s16be", "PCM 16 bit", 16, MADE_BIG_ENDIAN),
    _plain("pcm_s24le", "PCM 24 bit", 24, MADE),
    _plain("pcm_s24be", "PCM 24 bit", 24, MADE_BIG_ENDIAN),
    _plain("pcm_s32le", "PCM 32 bit", 32, MADE_DEEP),
    _plain("pcm_f32le", "PCM 32 bit float", 32, MADE_DEEP),
    SoundCodec("pcm_u8", "PCM 8 bit", depth=8),
    SoundCodec("pcm_s32be", "PCM 32 bit", depth=32),
    SoundCodec("pcm_f32be", "PCM 32 bit float", depth=32),
    SoundCodec("pcm_bluray", "PCM of a Blu-ray", depths={"s16": 16, "s32": 24}),
)
