"""A small file in every wrapper that can be handed in, made by the codec library."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

from clips import Clip, moving_bar
from tones import sine, write

SD, D10 = moving_bar((720, 576), 200), moving_bar((720, 608), 200)
MPEG2, INTRA = {"b": "4000000", "g": "12"}, {"b": "20000000", "g": "1"}
D10_RATE = {
    "b": "30000000",
    "maxrate": "30000000",
    "minrate": "30000000",
    "bufsize": "1200000",
    "rc_init_occupancy": "1200000",
    "g": "1",
    "intra_vlc": "0",
    "qmax": "8",
    "dc": "10",
}


@dataclass(frozen=True)
class Kind:
    """A wrapper: its muxer where the name does not say, what goes in, and what it is called by us
    and by a second reader.
    """

    name: str
    wrapper: str
    other: str
    muxer: str | None = None
    clip: dict[str, Any] = field(default_factory=dict)


KINDS = [
    Kind("a.mov", "mov", "MPEG-4"),
    Kind("a.mp4", "mp4", "MPEG-4"),
    Kind("a.m4v", "mp4", "MPEG-4", "mp4"),
    Kind(
        "op1a.mxf",
        "mxf",
        "MXF",
        None,
        {
            "draw": SD,
            "codec": "mpeg2video",
            "pixels": "yuv422p",
            "sound_codec": "pcm_s16le",
            "options": MPEG2,
        },
    ),
    Kind(
        "d10.mxf",
        "mxf",
        "MXF",
        "mxf_d10",
        {
            "draw": D10,
            "codec": "mpeg2video",
            "pixels": "yuv422p",
            "tones": None,
            "options": D10_RATE,
        },
    ),
    Kind(
        "a.avi",
        "avi",
        "AVI",
        None,
        {"codec": "mjpeg", "pixels": "yuvj420p", "sound_codec": "pcm_s16le", "options": {}},
    ),
    Kind("a.mkv", "matroska", "Matroska", None, {"sound_codec": "flac"}),
    Kind(
        "a.webm",
        "webm",
        "WebM",
        None,
        {
            "codec": "libvpx-vp9",
            "sound_codec": "libopus",
            "options": {"deadline": "realtime", "b": "1000000"},
        },
    ),
    Kind(
        "a.mpg",
        "mpeg-ps",
        "MPEG-PS",
        "vob",
        {"codec": "mpeg2video", "sound_codec": "mp2", "options": MPEG2},
    ),
    Kind(
        "a.vob",
        "mpeg-ps",
        "MPEG-PS",
        "vob",
        {"codec": "mpeg2video", "sound_codec": "ac3", "options": MPEG2},
    ),
    Kind(
        "mpeg1.mpg",
        "mpeg-ps",
        "MPEG-PS",
        "mpeg",
        {"codec": "mpeg1video", "sound_codec": "mp2", "options": {"b": "2000000"}},
    ),
    Kind("a.ts", "mpeg-ts", "MPEG-TS", "mpegts", {"sound_codec": "mp2"}),
    Kind(
        "a.m2t",
        "mpeg-ts",
        "MPEG-TS",
        "mpegts",
        {"codec": "mpeg2video", "sound_codec": "mp2", "options": MPEG2},
    ),
    Kind("a.m2ts", "mpeg-ts", "BDAV", "mpegts", {"sound_codec": "ac3"}),
    Kind(
        "a.m2v",
        "mpeg-es",
        "MPEG Video",
        "mpeg2video",
        {"codec": "mpeg2video", "tones": None, "options": MPEG2},
    ),
    Kind("a.264", "h264-es", "AVC", "h264", {"tones": None}),
    Kind("a.flv", "flv", "Flash Video"),
    Kind(
        "a.asf",
        "asf",
        "Windows Media",
        "asf",
        {"codec": "wmv2", "sound_codec": "libmp3lame", "options": {"b": "2000000"}},
    ),
    Kind(
        "a.dv",
        "dv",
        "DV",
        None,
        {"draw": SD, "codec": "dvvideo", "sound_codec": "pcm_s16le", "options": {}},
    ),
    Kind(
        "a.gxf",
        "gxf",
        "GXF",
        None,
        {
            "draw": SD,
            "codec": "mpeg2video",
            "pixels": "yuv422p",
            "sound_codec": "pcm_s16le",
            "layout": "mono",
            "tones": (1000,),
            "options": {"b": "20000000", "g": "12"},
        },
    ),
]

SOUNDS = [
    ("a.wav", "wav", "Wave", "pcm_s24le"),
    ("a.aiff", "aiff", "AIFF", "pcm_s24be"),
    ("a.flac", "flac", "FLAC", "flac"),
    ("a.mp3", "mp3", "MPEG Audio", "libmp3lame"),
    ("a.aac", "adts", "ADTS", "aac"),
    ("a.ac3", "ac3", "AC-3", "ac3"),
]


def make(kind: Kind, folder: Path, frames: int = 30) -> Path:
    """Write a clip in this wrapper."""
    return Clip(frames=frames, rate=Fraction(25), **kind.clip).write(folder / kind.name, kind.muxer)


def make_sound(name: str, codec: str, folder: Path) -> Path:
    """Write two seconds of sound alone."""
    return write(folder / name, [sine(-23, 2)] * 2, codec=codec)


def all_of_them(folder: Path, frames: int = 12) -> list[Path]:
    """Write one file in every wrapper."""
    makers: list[Callable[[], Path]] = [lambda k=k: make(k, folder, frames) for k in KINDS]  # type: ignore[misc]
    makers += [lambda n=n, c=c: make_sound(n, c, folder) for n, _, _, c in SOUNDS]  # type: ignore[misc]
    return [made() for made in makers]
