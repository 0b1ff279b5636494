"""Encoders of the machine's own hardware, where one opens.

None could be tried where this was written: what is known of their options is the codec library's
own documentation, and a trial says what comes of them (`trial`).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import av
from av.video.codeccontext import VideoCodecContext

from ...core.errors import Impossible
from ...core.planning.encoding import RatedPicture
from ...core.planning.steps import PictureFormat
from .setup import PictureSetup, pixels_of, rated

PROFILES = {"main 10": "main10", "high 10": "high10"}


@dataclass(frozen=True)
class Row:
    """A family of encoders.

    Attributes:
        encoders: the library's names by codec.
        options: that it takes besides those of every encoder with a rate.
        pixels: how it takes samples, by the library's name of what is made; else as they are.
        profiles: whether it is told the profile.
    """

    encoders: Mapping[str, str]
    options: Mapping[str, str] = field(default_factory=dict)
    pixels: Mapping[str, str] = field(default_factory=dict)
    profiles: bool = True


SEMI_PLANAR = {"yuv420p": "nv12", "yuv420p10le": "p010le"}


def _named(family: str, *codecs: str) -> dict[str, str]:
    return {codec: f"{codec}_{family}" for codec in codecs}


ROWS: tuple[Row, ...] = (
    Row(
        _named("nvenc", "h264", "hevc", "av1"),
        {"rc": "vbr", "preset": "p5"},
        {"yuv420p10le": "p010le"},
    ),
    Row(_named("qsv", "h264", "hevc", "av1"), {"preset": "medium"}, SEMI_PLANAR),
    Row(_named("amf", "h264", "hevc", "av1"), {"rc": "vbr_peak"}, SEMI_PLANAR),
    Row(_named("v4l2m2m", "h264", "hevc"), {}, {"yuv420p": "nv12"}, profiles=False),
)


def setups(e: RatedPicture, f: PictureFormat) -> list[PictureSetup]:
    """List what could be opened, in the order in which it is tried."""
    made = []
    for row in ROWS:
        encoder = row.encoders.get(e.codec)
        if encoder is None:
            continue
        options = rated(e, f) | dict(row.options)
        if row.profiles:
            options["profile"] = PROFILES.get(e.profile, e.profile)
        pixels = pixels_of(f)
        taken = row.pixels.get(pixels, pixels)
        made.append(PictureSetup(encoder, options, bit_rate=e.bit_rate, pixels=taken))
    return made


def opens(one: PictureSetup, f: PictureFormat) -> bool:
    """Say whether an encoder opens for a picture here."""
    try:
        context = av.CodecContext.create(one.encoder, "w")
        assert isinstance(context, VideoCodecContext)
        context.width, context.height = f.width, f.height
        context.pix_fmt, context.time_base = one.pixels, 1 / f.rate
        context.framerate = f.rate
        context.bit_rate = one.bit_rate or 0
        context.options = dict(one.options)
        context.open()
    except (av.FFmpegError, ValueError, OSError):
        return False
    return True


def setup(e: RatedPicture, f: PictureFormat) -> PictureSetup:
    """Give the first encoder that opens here.

    Raises:
        Impossible: none does.
    """
    for one in setups(e, f):
        if opens(one, f):
            return replace(one, tag="hvc1" if e.codec == "hevc" else "")
    raise Impossible(
        f"No hardware of this machine opens for {e.row.label} in {f.width}x{f.height}.",
        "Choose another pace, and run again.",
    )
