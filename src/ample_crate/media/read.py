"""Facts declared by headers. Runs inside the child process."""

from __future__ import annotations

import os
import re
import struct
from collections.abc import Callable
from fractions import Fraction
from typing import Any

import av
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.video.stream import VideoStream

from ..core import geometry
from ..core.errors import BadMedia
from ..core.facts import Facts
from ..core.properties import track_key
from ..core.values import Size, Value
from . import limits, names

CHROMA = {(1, 1): "4:2:0", (1, 0): "4:2:2", (0, 0): "4:4:4", (2, 0): "4:1:1", (2, 2): "4:1:0"}


def answer(progress: Callable[[dict[str, Any]], None], path: str) -> dict[str, Any]:
    """Read a file's headers: {facts}."""
    with open_media(path) as container:
        return {"facts": declared(container, path).as_json()}


def open_media(path: str) -> InputContainer:
    """Open a media file after the checks that need no codec.

    Raises:
        BadMedia: the file is empty, has no streams, or claims a picture beyond reason.
    """
    name = os.path.basename(path)
    if os.path.getsize(path) == 0:
        raise BadMedia(f"'{name}' is empty: it has no bytes.", "Copy it again from where it came.")
    # Only local files: a playlist inside a hostile file must not reach out.
    options = {"protocol_whitelist": "file", "max_pixels": str(limits.MAX_SAMPLES)}
    try:
        # Opening decodes on one thread only, so here the library may say what it refuses (see `child`).
        av.logging.set_level(av.logging.ERROR)
        container = av.open(path, "r", options=options)
    except av.InvalidDataError:
        raise _unreadable(path, name) from None
    except av.FFmpegError as error:
        raise _refused(error, name) from error
    finally:
        av.logging.set_level(None)
    if not container.streams.video and not container.streams.audio:
        container.close()
        raise BadMedia(f"'{name}' holds neither picture nor sound that can be read.", "Check what the file is.")
    for stream in container.streams.video:
        width, height = stream.codec_context.width, stream.codec_context.height
        if max(width, height) > limits.MAX_SIDE or width * height > limits.MAX_SAMPLES:
            container.close()
            raise _beyond_reason(name, f"{width}x{height}")
        if (width == 0 or height == 0) and not container.streams.audio:
            container.close()
            raise BadMedia(f"'{name}' has a picture stream whose size cannot be read.", "Ask for the file again.")
    return container


def _refused(error: av.FFmpegError, name: str) -> Exception:
    """Name the size where a picture beyond reason is what the library refused; else pass its error on."""
    said = " ".join(str(part) for part in error.log or ())
    sizes = re.search(r"(\d+)x(\d+)", said)
    if sizes is None or (max(int(sizes[1]), int(sizes[2])) <= limits.MAX_SIDE and int(sizes[1]) * int(sizes[2]) <= limits.MAX_SAMPLES):
        return error
    return _beyond_reason(name, sizes[0])


def _beyond_reason(name: str, size: str) -> BadMedia:
    return BadMedia(
        f"'{name}' claims a picture of {size}, which is beyond reason.", "Its header is damaged or forged; ask for the file again."
    )


def _unreadable(path: str, name: str) -> BadMedia:
    with open(path, "rb") as file:
        head = file.read(4096)
    if b"ftyp" in head[:16] and not any(kind == b"moov" for kind, _, _ in boxes(path)):
        return BadMedia(
            f"'{name}' is cut short: it begins as MP4 or MOV, but its index (moov) is missing.",
            "The copy or recording stopped before its end; copy it again from where it came.",
        )
    if head and all(b in b"\t\n\r\f" or 32 <= b < 127 or b >= 128 for b in head) and _is_text(head):
        return BadMedia(f"'{name}' is a text file, whatever its name says.", "Hand in the media file itself.")
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


def boxes(path: str) -> list[tuple[bytes, int, int]]:
    """List the top-level boxes of an ISO base media file (ISO/IEC 14496-12): (type, start, size)."""
    found: list[tuple[bytes, int, int]] = []
    end = os.path.getsize(path)
    with open(path, "rb") as file:
        at = 0
        while at + 8 <= end and len(found) < 4096:
            file.seek(at)
            size, kind = struct.unpack(">I4s", file.read(8))
            if size == 1:
                wide = file.read(8)
                size = struct.unpack(">Q", wide)[0] if len(wide) == 8 else 0
            elif size == 0:
                size = end - at
            if size < 8:
                break
            found.append((kind, at, size))
            at += size
    return found


def declared(container: InputContainer, path: str) -> Facts:
    """Give the facts that the file's headers state."""
    wrapper = names.wrapper(container.format.name, container.metadata.get("major_brand"))
    values: dict[str, Value | None] = {
        "file.wrapper": wrapper,
        "file.name": os.path.basename(path),
        "file.start_timecode": container.metadata.get("timecode"),
        "sound.tracks": len(container.streams.audio),
    }
    if container.duration:
        values["file.duration"] = Fraction(container.duration, av.time_base).limit_denominator(100_000)
    if wrapper in {"mp4", "mov"}:
        order = [kind for kind, _, _ in boxes(path)]
        if b"moov" in order and b"mdat" in order:
            values["file.index_in_front"] = order.index(b"moov") < order.index(b"mdat")
    if container.streams.video:
        values |= picture(container.streams.video[0], wrapper)
        timecode = container.streams.video[0].metadata.get("timecode")
        values["file.start_timecode"] = values["file.start_timecode"] or timecode
    for number, stream in enumerate(container.streams.audio, 1):
        values |= {track_key(key, number): value for key, value in sound(stream).items()}
    # The size is no header's word: it is counted on disk.
    return Facts().with_values("declared", values).with_values("measured", {"file.size": os.path.getsize(path)})


def picture(stream: VideoStream, wrapper: str) -> dict[str, Value | None]:
    """Give the declared facts of a picture stream."""
    context = stream.codec_context
    codec, size = context.name, Size(context.width, context.height)
    codec = {"libdav1d": "av1"}.get(codec, codec)
    aspect = Fraction(stream.sample_aspect_ratio or context.sample_aspect_ratio or 1) or Fraction(1)
    values: dict[str, Value | None] = {
        "picture.codec": codec,
        "picture.size": size,
        "picture.pixel_aspect": aspect,
        "picture.display_aspect": geometry.display_aspect(size, aspect),
        "picture.level": names.level(codec, getattr(context, "level", None)),
        "motion.rate": stream.guessed_rate or stream.average_rate,
    }
    profile = (context.profile or "").lower()
    profile = names.PROFILES.get(profile, profile)
    values["picture.profile"] = profile or None
    if codec == "mpeg2video" and profile:
        level = names.MPEG2_LEVEL.get(int(getattr(context, "level", 0) or 0))
        values["picture.profile_level"] = f"{profile}@{level}" if level else None
    tag = (context.codec_tag or "").strip("\x00")
    if wrapper in {"mp4", "mov", "avi"} and tag.isprintable():
        values["picture.tag"] = tag or None
    if context.format is not None:
        components = context.format.components
        chroma = [c for c in components if c.is_chroma]
        if chroma:
            pix = av.VideoFormat(context.format.name, 16, 16)
            c = next(c for c in pix.components if c.is_chroma)
            values["picture.chroma"] = CHROMA.get(((16 // c.width).bit_length() - 1, (16 // c.height).bit_length() - 1))
        elif context.format.is_rgb:
            values["picture.chroma"] = "R'G'B'"
        values["picture.bit_depth"] = components[0].bits
        values["picture.alpha"] = any(c.is_alpha for c in components)
    values["picture.range"] = names.RANGE.get(int(context.color_range or 0))
    values["picture.matrix"] = names.MATRIX.get(_code(context.colorspace)) if _code(context.colorspace) else None
    values["picture.primaries"] = names.PRIMARIES.get(_code(context.color_primaries))
    values["picture.transfer"] = names.TRANSFER.get(_code(context.color_trc))
    order = names.FIELD_ORDER.get(_code(context.field_order))
    if order is not None:
        values["motion.scan"] = "progressive" if order == "none" else "interlaced"
        values["motion.field_order"] = order
    return values


def _code(value: Any) -> int:
    return int(value) if value is not None else 0


def sound(stream: AudioStream) -> dict[str, Value | None]:
    """Give the declared facts of a sound stream."""
    context = stream.codec_context
    layout = stream.layout.name if stream.layout is not None else None
    codec = {"mp3float": "mp3", "mp2float": "mp2", "mp1float": "mp1"}.get(context.name, context.name)
    depth = None
    if codec.startswith("pcm_"):
        depth = int("".join(c for c in codec.split("_")[1] if c.isdigit()) or 0) or None
    return {
        "sound.codec": codec,
        "sound.sample_rate": context.sample_rate or None,
        "sound.channels": context.channels or None,
        "sound.layout": names.LAYOUTS.get(layout, layout) if layout else None,
        "sound.bit_depth": depth,
        "sound.bit_rate": context.bit_rate or None,
        "sound.language": stream.language if stream.language and stream.language != "und" else None,
    }
