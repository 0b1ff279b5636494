"""What the codecs that can be made are able to carry, in the trade's terms."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class PictureCodec:
    """A picture codec that can be made.

    Attributes:
        profiles: profile name to the chroma and depth it carries.
        wrappers: containers that carry it.
        usual: profile taken where the spec asks for none.
        two_passes: whether the encoder can look first and spend then.
    """

    label: str
    profiles: dict[str, tuple[str, int]]
    wrappers: frozenset[str]
    usual: str
    two_passes: bool = False


@dataclass(frozen=True)
class SoundCodec:
    """A sound codec that can be made: its sample rates, channel counts and usual bit rate (None if
    uncompressed).
    """

    label: str
    sample_rates: frozenset[int]
    channels: frozenset[int]
    usual_rate: int | None
    frame_samples: int
    bit_depth: int | None = None


PICTURE: dict[str, PictureCodec] = {
    "h264": PictureCodec(
        "H.264",
        {
            "baseline": ("4:2:0", 8),
            "main": ("4:2:0", 8),
            "high": ("4:2:0", 8),
            "high 10": ("4:2:0", 10),
            "high 4:2:2": ("4:2:2", 10),
        },
        frozenset({"mp4", "mov", "matroska", "mpeg-ts"}),
        "high",
        True,
    ),
    "mpeg2video": PictureCodec(
        "MPEG-2",
        {"main": ("4:2:0", 8), "4:2:2": ("4:2:2", 8)},
        frozenset({"mpeg-ps", "mpeg-ts", "mov", "matroska"}),
        "main",
    ),
}

SOUND: dict[str, SoundCodec] = {
    "aac": SoundCodec(
        "AAC", frozenset({22050, 24000, 32000, 44100, 48000}), frozenset({1, 2, 6}), 192_000, 1024
    ),
    "mp2": SoundCodec(
        "MPEG-1 layer 2", frozenset({32000, 44100, 48000}), frozenset({1, 2}), 384_000, 1152
    ),
    "ac3": SoundCodec(
        "AC-3", frozenset({32000, 44100, 48000}), frozenset({1, 2, 6}), 448_000, 1536
    ),
    "pcm_s16le": SoundCodec(
        "PCM 16 bit", frozenset({44100, 48000}), frozenset({1, 2, 6, 8}), None, 1024, 16
    ),
    "pcm_s24le": SoundCodec(
        "PCM 24 bit", frozenset({44100, 48000}), frozenset({1, 2, 6, 8}), None, 1024, 24
    ),
    "pcm_dvd": SoundCodec(
        "PCM of a DVD", frozenset({48000}), frozenset({1, 2, 6, 8}), None, 1024, 16
    ),
}

LAYOUT_CHANNELS = {"mono": 1, "stereo": 2, "5.1": 6, "5.1(side)": 6, "7.1": 8}
CHANNEL_LAYOUT = {1: "mono", 2: "stereo", 6: "5.1", 8: "7.1"}
WRAPPER_LABELS = {
    "mp4": "MP4",
    "mov": "MOV",
    "mpeg-ps": "MPEG program stream",
    "mpeg-ts": "MPEG transport stream",
    "mxf": "MXF",
    "matroska": "Matroska",
    "avi": "AVI",
}
SOUND_ALONE = {"wav", "aiff", "flac", "mp3", "adts", "ogg"}
HDR_TRANSFERS = {"PQ", "HLG"}
# The names people use, for codecs and wrappers that can be read or made.
SPOKEN = {
    "h264": "H.264",
    "hevc": "HEVC",
    "mpeg2video": "MPEG-2",
    "mpeg1video": "MPEG-1",
    "prores": "ProRes",
    "av1": "AV1",
    "vp8": "VP8",
    "vp9": "VP9",
    "dnxhd": "VC-3",
    "mjpeg": "Motion JPEG",
    "dvvideo": "DV",
    "aac": "AAC",
    "ac3": "AC-3",
    "dpx": "DPX",
    "png": "PNG",
    "tiff": "TIFF",
    "exr": "OpenEXR",
    "hap": "HAP",
    "ffv1": "FFV1",
    "mpeg4": "MPEG-4 Visual",
    "wmv2": "WMV 8",
    "pcm_s24be": "PCM 24 bit",
    "pcm_f32le": "PCM 32 bit float",
    "wmav2": "WMA",
    "alac": "ALAC",
    "still image": "still image",
    "webm": "WebM",
    "mpeg-es": "MPEG video stream",
    "h264-es": "H.264 stream",
    "hevc-es": "HEVC stream",
    "wav": "WAV",
    "aiff": "AIFF",
    "flv": "FLV",
    "asf": "ASF",
    "gxf": "GXF",
    "dv": "DV",
    "adts": "AAC stream",
    "image sequence": "image sequence",
    "mp2": "MPEG-1 layer 2",
    "mp3": "MPEG-1 layer 3",
    "opus": "Opus",
    "vorbis": "Vorbis",
    "flac": "FLAC",
    "pcm_s16le": "PCM 16 bit",
    "pcm_s24le": "PCM 24 bit",
    "pcm_s16be": "PCM 16 bit",
    "pcm_dvd": "PCM of a DVD",
} | WRAPPER_LABELS
