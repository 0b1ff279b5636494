"""What codecs and wrappers are able to carry by their own standards, whether they can be made here
or not.

Used to tell whether a spec contradicts itself. Sources beside each table; where none is named the
value is from memory of the standard named in the heading.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Picture:
    """A picture codec by its standard.

    Attributes:
        profiles: profile name to the (chroma, greatest depth) it carries; empty where the codec has
        none that specs name.
        wrappers: containers that have a standard mapping for it.
        alpha: the profiles that carry transparency; "*" for any.
        interlaced: whether it can code fields.
        rated: whether its bit rate can be asked for; False where it follows from the size.
        intra: whether every frame always decodes by itself.
    """

    profiles: dict[str, tuple[frozenset[str], int]]
    wrappers: frozenset[str]
    alpha: frozenset[str] = frozenset()
    interlaced: bool = True
    rated: bool = True
    intra: bool = False


@dataclass(frozen=True)
class Sound:
    """A sound codec by its standard.

    Attributes:
        sample_rates: allowed sample rates in Hz; None for any.
        channels: the most channels of a track.
        bit_rates: allowed bit rates in b/s, as a range or a list; None where they follow from the
        samples.
        fixed: whether `bit_rates` is a list of the only ones.
    """

    sample_rates: frozenset[int] | None
    channels: int
    bit_rates: tuple[int, ...] | None
    fixed: bool
    wrappers: frozenset[str]

    @property
    def compressed(self) -> bool:
        """Say whether the codec has a bit rate of its own."""
        return self.bit_rates is not None


def _of(*words: str) -> frozenset[str]:
    return frozenset(words)


Y20, Y22, Y24 = _of("4:2:0"), _of("4:2:0", "4:2:2"), _of("4:2:0", "4:2:2", "4:4:4")
PICTURE: dict[str, Picture] = {
    # ITU-T H.264 Annex A; ISO/IEC 14496-15, 13818-1, SMPTE ST 381-3.
    "h264": Picture(
        {
            "baseline": (Y20, 8),
            "main": (Y20, 8),
            "extended": (Y20, 8),
            "high": (Y20, 8),
            "high 10": (Y20, 10),
            "high 4:2:2": (Y22, 10),
            "high 10 intra": (Y20, 10),
            "high 4:2:2 intra": (Y22, 10),
            "high 4:4:4 predictive": (Y24, 14),
        },
        _of("mp4", "mov", "matroska", "mpeg-ts", "mpeg-ps", "mxf", "avi", "h264-es"),
    ),
    # ITU-T H.265 Annex A; 4:2:2 and above are range extensions.
    "hevc": Picture(
        {
            "main": (Y20, 8),
            "main 10": (Y20, 10),
            "rext": (Y24, 16),
            "main 4:2:2 10": (Y22, 10),
            "main 4:4:4 10": (Y24, 10),
        },
        _of("mp4", "mov", "matroska", "mpeg-ts", "hevc-es"),
    ),
    # ISO/IEC 13818-2; SMPTE ST 381, ST 386.
    "mpeg2video": Picture(
        {"simple": (Y20, 8), "main": (Y20, 8), "4:2:2": (Y22, 8), "high": (Y22, 8)},
        _of("mpeg-ps", "mpeg-ts", "mxf", "mov", "matroska", "mpeg-es", "avi"),
    ),
    # SMPTE RDD 36; profile names as the library reads them.
    "prores": Picture(
        {
            "proxy": (_of("4:2:2"), 10),
            "lt": (_of("4:2:2"), 10),
            "standard": (_of("4:2:2"), 10),
            "hq": (_of("4:2:2"), 10),
            "4444": (_of("4:4:4"), 12),
            "xq": (_of("4:4:4"), 12),
        },
        _of("mov", "mxf"),
        alpha=_of("4444", "xq"),
        intra=True,
    ),
    "dnxhd": Picture(
        {
            "dnxhd": (_of("4:2:2", "4:4:4"), 10),
            "dnxhr hq": (_of("4:2:2"), 8),
            "dnxhr hqx": (_of("4:2:2"), 12),
            "dnxhr 444": (_of("4:4:4"), 12),
        },
        _of("mxf", "mov"),
        intra=True,
    ),
    "vp8": Picture({}, _of("webm", "matroska"), alpha=_of("*"), interlaced=False),
    "vp9": Picture(
        {
            "profile 0": (Y20, 8),
            "profile 1": (Y24, 8),
            "profile 2": (Y20, 12),
            "profile 3": (Y24, 12),
        },
        _of("webm", "matroska", "mp4"),
        alpha=_of("*"),
        interlaced=False,
    ),
    "av1": Picture(
        {"main": (Y20, 10), "high": (Y24, 10), "professional": (Y24, 12)},
        _of("webm", "matroska", "mp4"),
        interlaced=False,
    ),
    # The open HAP format: texture blocks of fixed size, so the rate follows from the frame.
    "hap": Picture(
        {}, _of("mov", "avi", "matroska"), alpha=_of("*"), interlaced=False, rated=False, intra=True
    ),
    "mjpeg": Picture({}, _of("mov", "avi", "matroska", "mp4"), intra=True),
    "ffv1": Picture({}, _of("matroska", "avi", "mov"), alpha=_of("*"), rated=False, intra=True),
    "dvvideo": Picture({}, _of("dv", "avi", "mov", "mxf"), rated=False, intra=True),
    "png": Picture(
        {},
        _of("mov", "avi", "still image", "image sequence"),
        alpha=_of("*"),
        rated=False,
        intra=True,
        interlaced=False,
    ),
    "dpx": Picture(
        {},
        _of("still image", "image sequence"),
        alpha=_of("*"),
        rated=False,
        intra=True,
        interlaced=False,
    ),
    "tiff": Picture(
        {},
        _of("still image", "image sequence"),
        alpha=_of("*"),
        rated=False,
        intra=True,
        interlaced=False,
    ),
}

# Program and transport streams have no plain PCM: discs and studios each put their own kind into
# them.
PCM_WRAPPERS = _of("mov", "mxf", "avi", "matroska", "wav", "aiff", "gxf", "mp4")
LAYER_2 = tuple(k * 1000 for k in (32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384))
LAYER_3 = tuple(k * 1000 for k in (32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320))
AC3_RATES = tuple(
    k * 1000
    for k in (
        32,
        40,
        48,
        56,
        64,
        80,
        96,
        112,
        128,
        160,
        192,
        224,
        256,
        320,
        384,
        448,
        512,
        576,
        640,
    )
)
HERTZ_3 = frozenset({32000, 44100, 48000})
AAC_HERTZ = frozenset(
    {7350, 8000, 11025, 12000, 16000, 22050, 24000, 32000, 44100, 48000, 64000, 88200, 96000}
)
SOUND: dict[str, Sound] = {
    # ISO/IEC 14496-3: 6144 bits a channel in each frame of 1024 samples.
    "aac": Sound(
        AAC_HERTZ, 8, (8_000, 288_000 * 8), False, _of("mp4", "mov", "matroska", "mpeg-ts", "adts")
    ),
    # ISO/IEC 11172-3, layer II.
    "mp2": Sound(
        HERTZ_3, 2, LAYER_2, True, _of("mpeg-ps", "mpeg-ts", "mov", "matroska", "avi", "mp4")
    ),
    "mp3": Sound(
        HERTZ_3 | {16000, 22050, 24000},
        2,
        LAYER_3,
        True,
        _of("mp3", "mp4", "mov", "avi", "matroska"),
    ),
    # ATSC A/52 Table 5.18.
    "ac3": Sound(
        HERTZ_3,
        6,
        AC3_RATES,
        True,
        _of("mpeg-ps", "mpeg-ts", "mp4", "mov", "matroska", "avi", "ac3"),
    ),
    "eac3": Sound(
        HERTZ_3, 16, (32_000, 6_144_000), False, _of("mpeg-ts", "mp4", "mov", "matroska")
    ),
    # RFC 6716: Opus is coded at these rates and no others.
    "opus": Sound(
        frozenset({8000, 12000, 16000, 24000, 48000}),
        8,
        (6_000, 510_000 * 4),
        False,
        _of("webm", "matroska", "ogg", "mp4", "mpeg-ts"),
    ),
    "vorbis": Sound(None, 8, (16_000, 2_000_000), False, _of("webm", "matroska", "ogg")),
    # DVD-Video, from memory: 48 or 96 kHz, at most eight channels and 6.144 Mb/s.
    "pcm_dvd": Sound(frozenset({48000, 96000}), 8, None, False, _of("mpeg-ps")),
    "flac": Sound(None, 8, None, False, _of("flac", "matroska", "ogg", "mp4")),
    **{
        name: Sound(None, 32, None, False, PCM_WRAPPERS)
        for name in ("pcm_s16le", "pcm_s16be", "pcm_s24le", "pcm_s24be", "pcm_s32le", "pcm_f32le")
    },
}
DEPTHS = {
    "pcm_s16le": 16,
    "pcm_s16be": 16,
    "pcm_s24le": 24,
    "pcm_s24be": 24,
    "pcm_s32le": 32,
    "pcm_f32le": 32,
}
CHANNELS = {
    "mono": 1,
    "stereo": 2,
    "2.1": 3,
    "3.0": 3,
    "quad": 4,
    "4.0": 4,
    "5.0": 5,
    "5.1": 6,
    "5.1(side)": 6,
    "7.1": 8,
}
# Wrappers that may have their index in front, and those that name their codecs by four characters.
INDEXED, TAGGED = frozenset({"mp4", "mov"}), frozenset({"mp4", "mov", "avi"})
# What four characters say: the codec, and its profile where they tell it (registered at the MP4
# registration authority; ProRes: SMPTE RDD 36; from memory).
TAGS: dict[str, tuple[str, str]] = {
    "avc1": ("h264", ""),
    "avc3": ("h264", ""),
    "hvc1": ("hevc", ""),
    "hev1": ("hevc", ""),
    "vp08": ("vp8", ""),
    "vp09": ("vp9", ""),
    "av01": ("av1", ""),
    "apco": ("prores", "proxy"),
    "apcs": ("prores", "lt"),
    "apcn": ("prores", "standard"),
    "apch": ("prores", "hq"),
    "ap4h": ("prores", "4444"),
    "ap4x": ("prores", "xq"),
    "Hap1": ("hap", ""),
    "Hap5": ("hap", ""),
    "HapY": ("hap", ""),
    "AVdn": ("dnxhd", ""),
    "m2v1": ("mpeg2video", ""),
}
# How the codec strings of RFC 6381 begin.
STRINGS = {
    "avc1": "h264",
    "avc3": "h264",
    "hvc1": "hevc",
    "hev1": "hevc",
    "vp8": "vp8",
    "vp08": "vp8",
    "vp09": "vp9",
    "av01": "av1",
}
# Wrappers of a picture stream alone, or of stills.
SOUNDLESS = frozenset(
    {"mpeg-es", "h264-es", "hevc-es", "mpeg4-es", "still image", "image sequence"}
)
IN_BROWSERS = frozenset({"mp4", "webm"})
