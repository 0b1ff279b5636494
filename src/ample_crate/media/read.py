"""Opening media, and its streams and packets. Runs inside the child process."""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any

import av
import av.stream
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.packet import Packet
from av.stream import Stream
from av.video.codeccontext import VideoCodecContext
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core import formats
from ..core.errors import BadMedia
from . import folders, iso, limits, sequence, words, wrappers

# A name with a pattern in it ("shot%03d.png", "*.png") is one file's name, never a request for
# others.
OPENED = {
    "protocol_whitelist": "file",
    "format_whitelist": ",".join(wrappers.READ),
    "pattern_type": "none",
}


def open_media(path: str) -> InputContainer:
    """Open a media file, or an image sequence by its description, after the checks that need no
    codec. Of files that belong together the first is opened.

    Raises:
        BadMedia: the file is empty, encrypted, has no streams, or claims a picture beyond reason.
    """
    path = folders.streams_of(path)[0]
    name = os.path.basename(path)
    if os.path.getsize(path) == 0:
        raise BadMedia(f"'{name}' is empty: it has no bytes.", "Copy it again from where it came.")
    # Only local files: a playlist inside a hostile file must not reach out.
    options = dict(OPENED) | {"max_pixels": str(limits.MAX_SAMPLES)}
    try:
        # Opening decodes on one thread only, so here the library may say what it refuses (see
        # `child`).
        av.logging.set_level(av.logging.ERROR)
        container = (
            sequence.opened(path, options)
            if name == sequence.DESCRIPTION
            else av.open(path, "r", options=options, metadata_errors="replace")
        )
    except av.InvalidDataError:
        raise _unreadable(path, name) from None
    except av.FFmpegError as error:
        if any("whitelist" in str(part) for part in error.log or ()):
            raise BadMedia(
                f"'{name}' is a playlist, or of a kind that is not read here: no file may lead to "
                f"another.",
                "Hand in the media file itself.",
            ) from None
        raise _refused(error, name) from error
    finally:
        words.to_standard_error()
    try:
        _check(container, path, name)
    except BadMedia:
        container.close()
        raise
    return container


def _check(container: InputContainer, path: str, name: str) -> None:
    if wrappers.boxes(container.format.name) and iso.read(path).encrypted:
        raise BadMedia(
            f"'{name}' is encrypted.", "Ask the house that made it for a copy without protection."
        )
    if container.format.name.startswith("tty") or not (
        container.streams.video or container.streams.audio
    ):
        raise BadMedia(
            f"'{name}' holds neither picture nor sound that can be read.", "Check what the file is."
        )
    if not readable(container):
        tags = " and ".join(
            sorted({_tag(s) for s in (*container.streams.video, *container.streams.audio)})
        )
        raise BadMedia(
            f"'{name}' is coded in {tags}, for which there is no decoder here.",
            "Ask for it in another codec, ProRes or H.264 for example.",
        )
    for stream in container.streams.video:
        if not _decodes(stream):
            continue
        width, height = stream.codec_context.width, stream.codec_context.height
        if max(width, height) > limits.MAX_SIDE or width * height > limits.MAX_SAMPLES:
            raise _beyond_reason(name, f"{width}x{height}")
        if (width == 0 or height == 0) and not container.streams.audio:
            raise BadMedia(
                f"'{name}' has a picture stream whose size cannot be read.",
                "Ask for the file again.",
            )


def _decodes(stream: Stream) -> bool:
    return getattr(stream, "codec_context", None) is not None


def _tag(stream: Stream) -> str:
    context = getattr(stream, "codec_context", None)
    return f"'{context.name}'" if context is not None else f"a {stream.type} codec"


def readable(container: InputContainer) -> bool:
    """Say whether at least one picture or sound stream has a decoder."""
    return any(_decodes(s) for s in (*container.streams.video, *container.streams.audio))


def picture_stream(container: InputContainer) -> VideoStream | None:
    """Give the stream that is the picture: not a cover image beside sound, not one without a
    decoder.
    """
    attached = av.stream.Disposition.attached_pic
    return next(
        (
            s
            for s in container.streams.video
            if _decodes(s) and s.codec_context.width and not s.disposition & attached
        ),
        None,
    )


def sound_streams(container: InputContainer) -> list[AudioStream]:
    """Give the sound streams that have a decoder, and channels at all."""
    return [
        s
        for s in container.streams.audio
        if _decodes(s) and s.codec_context.channels and s.codec_context.sample_rate
    ]


def begins(container: InputContainer, stream: VideoStream | AudioStream) -> Fraction:
    """Give the seconds at which a stream begins, by its file's own clock.

    A bare stream says nothing of it; some count from its second frame on, which the first one
    tells.
    """
    if stream.time_base is None:
        return Fraction(0)
    if stream.start_time is not None:
        return Fraction(stream.start_time) * stream.time_base
    with av.open(container.name, "r", options=OPENED) as bare:
        first = next(packets(bare, bare.streams[stream.index]), None)
    at = None if first is None else first.pts
    return Fraction(at or 0) * stream.time_base


def _refused(error: av.FFmpegError, name: str) -> Exception:
    """Name the size where a picture beyond reason is what the library refused; else pass its error
    on.
    """
    said = " ".join(str(part) for part in error.log or ())
    sizes = re.search(r"(\d+)x(\d+)", said)
    if sizes is None or (
        max(int(sizes[1]), int(sizes[2])) <= limits.MAX_SIDE
        and int(sizes[1]) * int(sizes[2]) <= limits.MAX_SAMPLES
    ):
        return error
    return _beyond_reason(name, sizes[0])


def _beyond_reason(name: str, size: str) -> BadMedia:
    return BadMedia(
        f"'{name}' claims a picture of {size}, which is beyond reason.",
        "Its header is damaged or forged; ask for the file again.",
    )


def _unreadable(path: str, name: str) -> BadMedia:
    with open(path, "rb") as file:
        head = file.read(4096)
    if b"ftyp" in head[:16] and b"moov" not in iso.read(path).top:
        return BadMedia(
            f"'{name}' is cut short: it begins as MP4 or MOV, but its index (moov) is missing.",
            "The copy or recording stopped before its end; copy it again from where it came.",
        )
    if head and all(b in b"\t\n\r\f" or 32 <= b < 127 or b >= 128 for b in head) and _is_text(head):
        return BadMedia(
            f"'{name}' is a text file, whatever its name says.", "Hand in the media file itself."
        )
    return BadMedia(
        f"'{name}' is not a readable media file: its bytes follow no format that can be read.",
        "Check that it is whole and what it says it is, and hand it in again.",
    )


def _is_text(head: bytes) -> bool:
    try:
        head[:-3].decode("utf-8") if len(head) == 4096 else head.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


def packets(container: InputContainer, *streams: Stream) -> Iterator[Packet[Any] | None]:
    """Give the packets of streams; None where the file is damaged, and what comes after the damage
    as far as it can be read.
    """
    torn = 0
    source = container.demux(*streams)
    while True:
        try:
            yield next(source)
        except StopIteration:
            return
        except (av.FFmpegError, IndexError):  # IndexError: a stream that turns up in mid-file
            torn += 1
            yield None
            if torn >= 20:
                return
            source = container.demux(*streams)


def alpha_beside(stream: VideoStream) -> bool:
    """Say whether a WebM stream carries alpha beside its picture (the mark may be an element or a
    tag of the file).
    """
    return any(stream.metadata.get(name) == "1" for name in ("alpha_mode", "ALPHA_MODE"))


def decoder(stream: VideoStream) -> Callable[[Packet[Any]], list[VideoFrame]]:
    """Give what decodes the packets of a picture stream; VP8 and VP9 with alpha need a decoder that
    knows of it.
    """
    row = formats.PICTURE.get(formats.read_as(stream.codec_context.name))
    with_alpha = row.alpha_decoder if row is not None else ""
    if not with_alpha or not alpha_beside(stream):
        return lambda packet: list(packet.decode())
    context = av.CodecContext.create(with_alpha, "r")
    assert isinstance(context, VideoCodecContext)

    def decode(packet: Packet[Any]) -> list[VideoFrame]:
        frames = context.decode(packet if packet.size else None)
        for frame in frames:
            frame.time_base = packet.time_base or Fraction(1, 1000)
        return frames

    return decode
