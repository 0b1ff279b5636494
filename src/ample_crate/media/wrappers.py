"""How the codec library reads and writes each wrapper: one row a wrapper."""

from __future__ import annotations

import os
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, NamedTuple

from av.container import OutputContainer
from av.video.stream import VideoStream

from ..core.formats import WRAPPERS
from .sequence import DESCRIPTION

if TYPE_CHECKING:  # to read a file no plan is needed
    from ..core.planning.steps import PictureFormat


@dataclass(frozen=True)
class Library:
    """The codec library's names for a wrapper.

    Attributes:
        demuxers: by which it is read.
        muxer: by which it is written; empty where it is not made here.
        options: of the muxer.
        broadcast: options that have it write a broadcast extension.
        with_codec: more of them, by a codec that is in it.
        index_in_front: options that put the index in front.
        stand_ins: for codecs that its writer has no name for, one that it has, and the four
            characters by which that is named.
    """

    demuxers: tuple[str, ...] = ()
    muxer: str = ""
    options: dict[str, str] = field(default_factory=dict)
    broadcast: dict[str, str] = field(default_factory=dict)
    with_codec: dict[str, dict[str, str]] = field(default_factory=dict)
    index_in_front: dict[str, str] = field(default_factory=dict)
    stand_ins: dict[str, tuple[str, bytes]] = field(default_factory=dict)


TAKES_ALL = "matroska"  # the muxer that takes pictures of every kind
FAST_START = {"movflags": "+faststart"}
# Else the library names intra frames of H.264 by codes under which their lengths are start codes.
NAMED_AS_ASKED = {"h264": {"strict": "unofficial"}}
ROWS: dict[str, Library] = {
    # MP4, MOV and M4A are told apart by their brand, Matroska and WebM by their name: see `name`.
    "mp4": Library(muxer="mp4", index_in_front=FAST_START),
    "mov": Library(muxer="mov", with_codec=NAMED_AS_ASKED, index_in_front=FAST_START),
    "matroska": Library(muxer="matroska"),
    "webm": Library(muxer="webm"),
    # Room for the multiplex: packs, headers and sound beside a constant picture.
    "mpeg-ps": Library(("mpeg",), "vob", {"packetsize": "2048", "preload": "500000"}),
    "mpeg-ts": Library(("mpegts",), "mpegts"),
    "mxf": Library(("mxf",), "mxf"),
    "mxf d10": Library(muxer="mxf_d10"),
    "still image": Library(muxer="image2", options={"update": "1"}),
    "image sequence": Library(muxer="image2"),
    "avi": Library(("avi",), "avi", stand_ins={"hap": ("mjpeg", b"MJPG")}),
    # Over 4 GiB the sizes of the header no longer hold: then it is written as RF64.
    "wav": Library(("wav", "w64"), "wav", {"rf64": "auto"}, broadcast={"write_bext": "1"}),
    "aiff": Library(("aiff",), "aiff"),
    "m4a": Library(muxer="ipod"),
    "flac": Library(("flac",), "flac"),
    "mp3": Library(("mp3",), "mp3"),
    "ogg": Library(("ogg",), "ogg"),
    "flv": Library(("flv",)),
    "asf": Library(("asf",)),
    "gxf": Library(("gxf",)),
    "dv": Library(("dv",)),
    "mpeg-es": Library(("mpegvideo",), "mpeg2video"),
    "h264-es": Library(("h264",), "h264"),
    "hevc-es": Library(("hevc",), "hevc"),
    "mpeg4-es": Library(("m4v",)),
    "mp2": Library(muxer="mp2"),
    "ac3": Library(("ac3",), "ac3"),
    "eac3": Library(("eac3",), "eac3"),
    "adts": Library(("aac",), "adts"),
    "realmedia": Library(("rm",)),
}
DEMUXERS = {demuxer: key for key, row in ROWS.items() for demuxer in row.demuxers}

# What else is read, by the library's names of demuxers; they name themselves where no row does.
READ_BESIDES = [
    "nut",
    "ivf",
    "yuv4mpegpipe",
    "av1",
    "obu",
    "vc1",
    "mjpeg",
    "dnxhd",
    "caf",
    "au",
    "dts",
    "truehd",
    "loas",
    "image2",
    "png_pipe",
    "jpeg_pipe",
    "dpx_pipe",
    "exr_pipe",
    "tiff_pipe",
    "bmp_pipe",
    "webp_pipe",
    "j2k_pipe",
    "jpegls_pipe",
    "jpegxl_pipe",
    "psd_pipe",
    "sgi_pipe",
    "sunrast_pipe",
    "pam_pipe",
    "ppm_pipe",
    "pgm_pipe",
    "pbm_pipe",
    "qdraw_pipe",
    "gif_pipe",
    "gif",
    "apng",
    "tty",
]
# What a master or a deliverable may be. Playlists, manifests, scripts and devices are none of them:
# they would open other files, or the network. References to other files inside MOV are off by
# default.
READ = ("mov", "matroska", *DEMUXERS, *READ_BESIDES)


# Major brands that are not those of MP4 (ISO/IEC 14496-12; the registration authority's list).
BRANDS = {"qt": "mov", "M4A": "m4a"}


def name(format_name: str, brand: str | None, path: str = "") -> str:
    """Name the wrapper from the demuxer's name and, for the ISO family, its major brand."""
    kinds = format_name.split(",")
    if "mov" in kinds:
        return BRANDS.get((brand or "qt  ")[:3].strip(), "mp4")
    if "matroska" in kinds:
        webm = path.lower().endswith(WRAPPERS["webm"].extension)
        return "webm" if webm else "matroska"
    if still(format_name, path):
        return "still image"
    if format_name == "image2":
        return "image sequence"
    key = DEMUXERS.get(format_name, kinds[0])
    # Layers of MPEG-1 audio are streams of one kind, told apart by their name.
    layer_2 = key == "mp3" and path.lower().endswith(WRAPPERS["mp2"].extension)
    return "mp2" if layer_2 else key


class StoodIn(NamedTuple):
    """A stream under another codec's name, and the four characters that the file then has."""

    stream: VideoStream
    tag: bytes


def stood_in(container: OutputContainer, codec: str, f: PictureFormat) -> StoodIn | None:
    """Add a stream under another codec's name, where a writer has none for it."""
    rows = (row for row in ROWS.values() if row.muxer == container.format.name)
    found = next((row.stand_ins[codec] for row in rows if codec in row.stand_ins), None)
    if found is None:
        return None
    size = {"width": f.width, "height": f.height}
    stream = container.add_mux_stream(found[0], rate=f.rate, time_base=1 / f.rate, **size)
    assert isinstance(stream, VideoStream)
    return StoodIn(stream, found[1])


HEAD = 4096  # bytes of a file in which its streams are named
Renaming = tuple[bytes, bytes] | None


def rename(path: str, names: Renaming) -> None:
    """Call a stream otherwise in the head of a finished file."""
    if names is None:
        return
    with open(path, "r+b") as file:
        head = file.read(HEAD)
        file.seek(0)
        file.write(head.replace(*names))


def tagged(muxer: str) -> bool:
    """Say whether a muxer names codecs by four characters that can be asked for."""
    return any(row.muxer == muxer and WRAPPERS[key].boxes for key, row in ROWS.items())


def still(format_name: str, path: str) -> bool:
    """Say whether the demuxer's name means one image."""
    return format_name.endswith("_pipe") or (
        format_name == "image2" and os.path.basename(path) != DESCRIPTION
    )


def boxes(format_name: str) -> bool:
    """Say whether the demuxer's name means a file built of ISO base media or QuickTime boxes."""
    return "mov" in format_name.split(",")
