"""Facts declared by headers. Runs inside the child process."""

from __future__ import annotations

import os
from collections.abc import Callable
from fractions import Fraction
from typing import Any

import av
import av.stream
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.video.codeccontext import VideoCodecContext
from av.video.stream import VideoStream

from ..core import formats
from ..core.facts import Facts
from ..core.facts.properties import track_key
from ..core.formats.codec import PictureCodec, StreamHead
from ..core.formats.languages import known_by
from ..core.formats.pixels import Pixels
from ..core.formats.wrapper import ABOUT, Wrapper
from ..core.units import geometry
from ..core.units.values import Size, Value, fraction
from . import iso, names, sequence, wrappers
from .read import alpha_beside, open_media, picture_stream, sound_streams

CHROMA = {(1, 1): "4:2:0", (1, 0): "4:2:2", (0, 0): "4:4:4", (2, 0): "4:1:1", (2, 2): "4:1:0"}


def handle(progress: Callable[[dict[str, Any]], None], path: str) -> dict[str, Any]:
    """Read a file's headers: {facts}."""
    with open_media(path) as container:
        return {"facts": declared(container, path).as_json()}


def declared(container: InputContainer, path: str) -> Facts:
    """Give the facts that the file's headers state."""
    wrapper = wrappers.name(container.format.name, container.metadata.get("major_brand"), path)
    place = formats.WRAPPERS.get(wrapper, Wrapper(wrapper, wrapper))
    layout = iso.read(path) if place.boxes else iso.Layout()
    stream, tracks = picture_stream(container), sound_streams(container)
    about = {key.lower(): text for key, text in container.metadata.items()}
    values: dict[str, Value | None] = {
        "file.wrapper": wrapper,
        "file.brand": _brand(about, place),
        "file.name": os.path.basename(path),
        "file.made_with": about.get("encoder")
        or about.get("application_name")
        or about.get("product_name"),
        "file.made_at": about.get("creation_time")
        or about.get("date")
        or about.get("modification_date"),
        **{f"file.{name}": about.get(name) or None for name in ABOUT},
        "file.chapters": len(container.chapters()),
        "file.captions": _captions(container),
        "sound.tracks": len(tracks),
    } | _timecode(container, layout, stream)
    if place.broadcast:
        values |= _broadcast(about, tracks)
    still = stream is not None and wrappers.still(container.format.name, path)
    if container.duration and not still:
        values["file.duration"] = Fraction(container.duration, av.time_base).limit_denominator(
            100_000
        )
    values["file.index_in_front"] = layout.index_in_front
    if stream is not None:
        values |= picture(stream, wrapper)
        boxes = layout.of("vide")
        if boxes:
            values |= _boxed(boxes[0], values)
        if still:
            values |= {
                "motion.rate": None,
                "motion.frames": 1,
                "motion.scan": "progressive",
                "motion.field_order": "none",
            }
        elif stream.frames:
            values["motion.frames"] = stream.frames
    for number, track in enumerate(tracks, 1):
        values |= {track_key(key, number): value for key, value in sound(track).items()}
        if place.enables:
            values[track_key("sound.enabled", number)] = bool(
                track.disposition & av.stream.Disposition.default
            )
    # The size is no header's word: it is counted on disk.
    counted: dict[str, Value | None] = {"file.size": os.path.getsize(path)}
    if os.path.basename(path) == sequence.DESCRIPTION:
        told = sequence.read(path)
        counted = {"file.size": told.size, "file.missing_frames": told.missing}
        values |= {"file.name": told.name, "motion.rate": told.rate, "motion.frames": told.count}
    return Facts().with_values("declared", values).with_values("measured", counted)


def _brand(about: dict[str, str], place: Wrapper) -> str | None:
    if about.get("major_brand"):
        return about["major_brand"].strip()
    mark = about.get("operational_pattern_ul", "")
    # SMPTE ST 377-1, 8.3: bytes 13 and 14 of the label give item and package complexity.
    if place.patterns and len(mark.replace(".", "")) >= 28:
        plain = mark.replace(".", "")
        item, package = int(plain[24:26], 16), int(plain[26:28], 16)
        return (
            f"OP{item}{chr(ord('a') + package - 1)}"
            if 1 <= item <= 3 and 1 <= package <= 3
            else "OP-Atom"
            if item == 0x10
            else None
        )
    return None


def _captions(container: InputContainer) -> str | None:
    said = [
        f"{s.codec_context.codec.canonical_name if s.codec_context else 'captions'} "
        f"{s.language or ''}".strip()
        for s in container.streams.subtitles
    ]
    return ", ".join(said) or None


def _timecode(
    container: InputContainer, layout: iso.Layout, stream: VideoStream | None
) -> dict[str, Value | None]:
    """Find the timecode of the first frame wherever a wrapper keeps it."""
    tracks = [s for s in container.streams.data if s.metadata.get("timecode")]
    places = [
        container.metadata,
        *([stream.metadata] if stream is not None else []),
        *[s.metadata for s in tracks],
    ]
    start = next((p["timecode"] for p in places if p.get("timecode")), None)
    boxed = [t.drop for t in layout.tracks if t.drop is not None]
    drop = None
    if start is not None:
        drop = boxed[0] if boxed else ";" in start
    return {
        "file.start_timecode": start,
        "file.drop_frame": drop,
        "file.timecode_tracks": max(
            len(tracks), len([t for t in layout.tracks if t.entry == "tmcd"])
        ),
    }


def _broadcast(about: dict[str, str], tracks: list[AudioStream]) -> dict[str, Value | None]:
    """Give what the broadcast extension of a WAV says, which always has a time."""
    reference = about.get("time_reference")
    start = None
    if reference is not None and tracks:
        start = Fraction(int(reference), tracks[0].codec_context.sample_rate)
    return {"file.broadcast_extension": reference is not None, "file.start_time": start}


def _boxed(track: iso.Track, values: dict[str, Value | None]) -> dict[str, Value | None]:
    """Give what the wrapper's boxes say of the picture, beside the coded stream."""
    size, found = values["picture.size"], dict[str, Value | None]()
    if track.aperture is not None and isinstance(size, Size):
        wide, high = track.aperture
        if wide != size.width or high != size.height:
            found["picture.clean_aperture"] = f"{float(wide):g} x {float(high):g}"
    if track.aspect is not None and isinstance(size, Size):
        found["picture.pixel_aspect"] = track.aspect
        found["picture.display_aspect"] = geometry.display_aspect(size, track.aspect)
    return found


def picture(stream: VideoStream, wrapper: str) -> dict[str, Value | None]:
    """Give the declared facts of a picture stream."""
    context = stream.codec_context
    codec = formats.read_as(context.name)
    row = formats.PICTURE.get(codec, PictureCodec(codec, codec))
    values: dict[str, Value | None] = {
        "picture.codec": codec,
        "motion.rate": stream.guessed_rate or stream.average_rate,
    }
    values |= _shape(stream, row)
    values |= _profile(context, row)
    values |= _pixels(context)
    if row.exactly is not None and values["picture.profile"]:
        values["picture.profile"] = row.exactly(str(values["picture.profile"]), _laid_out(values))
    values |= _colour(context)
    turn = stream.metadata.get("rotate", "")
    if turn.lstrip("-").isdigit():
        values["picture.rotation"] = -int(turn) % 360
    if alpha_beside(stream):
        # VP8 and VP9 carry alpha beside the stream, where only this mark tells of it.
        values |= {"picture.alpha_mode": "straight", "picture.alpha": True}
    tag = (context.codec_tag or "").strip("\x00")
    place = formats.WRAPPERS.get(wrapper)
    if place is not None and place.tagged and tag.isprintable():
        values["picture.tag"] = tag or None
    values["picture.codec_string"] = _codec_string(context, row, values)
    second_first = place is not None and place.second_first
    orders = names.FIELD_ORDER_SECOND_FIRST if second_first else names.FIELD_ORDER
    order = orders.get(_code(context.field_order))
    said = place is not None and place.scan
    if order == "none" and row.fields_untold is not None and not said:
        # The library takes what is not said for whole frames.
        order = None if row.fields_untold(context.extradata or b"") else order
    if order is not None:
        values["motion.scan"] = "progressive" if order == "none" else "interlaced"
        values["motion.field_order"] = order
    return values | _file_head(stream.container.name, row, values)


def _shape(stream: VideoStream, row: PictureCodec) -> dict[str, Value | None]:
    """Give the size and the aspects. A codec that states the display aspect states that of the
    picture, not of the lines above it.
    """
    context = stream.codec_context
    size = Size(context.width, context.height)
    aspect = Fraction(stream.sample_aspect_ratio or context.sample_aspect_ratio or 1) or Fraction(1)
    shape, picture_size = geometry.display_aspect(size, aspect), formats.picture_of(row.key, size)
    aperture = None
    if picture_size != size:
        aperture = f"{picture_size.width} x {picture_size.height}"
        if size.width:
            aspect = geometry.pixel_aspect(shape, size.width, picture_size.height)
    return {
        "picture.clean_aperture": aperture,
        "picture.size": size,
        "picture.interval_lines": row.interval_lines(size) if row.interval else None,
        "picture.pixel_aspect": aspect,
        "picture.display_aspect": shape,
    }


def _profile(context: VideoCodecContext, row: PictureCodec) -> dict[str, Value | None]:
    profile = (context.profile or "").lower()
    profile = names.PROFILES.get(profile, profile)
    values: dict[str, Value | None] = {"picture.profile": profile or _by_tag(context, row)}
    number = int(getattr(context, "level", 0) or 0)
    levels = row.levels
    if levels is None or levels.number is None or number < 0:
        return values
    level = levels.number(profile, number)
    if levels.named_with_profile:
        values[levels.key] = level if profile else None
    elif level is not None and Fraction(level) > 0:
        values[levels.key] = Fraction(level)
    return values


def _by_tag(context: VideoCodecContext, row: PictureCodec) -> str | None:
    """Give the profile that four characters tell, where the stream does not."""
    codec, profile = formats.TAGS.get(context.codec_tag or "", ("", ""))
    return profile if codec == row.key and profile else None


def _pixels(context: VideoCodecContext) -> dict[str, Value | None]:
    """Give how the samples lie."""
    if context.format is None:
        return {}
    values: dict[str, Value | None] = {}
    components = context.format.components
    if any(c.is_chroma for c in components):
        pix = av.VideoFormat(context.format.name, 16, 16)
        c = next(c for c in pix.components if c.is_chroma)
        values["picture.chroma"] = CHROMA.get(
            ((16 // c.width).bit_length() - 1, (16 // c.height).bit_length() - 1)
        )
    elif context.format.name.startswith(("yuv", "yuva")):
        values["picture.chroma"] = "4:4:4"  # no plane is smaller than another
    elif context.format.is_rgb:
        values["picture.chroma"] = "R'G'B'"
    values["picture.bit_depth"] = components[0].bits
    values["picture.alpha"] = any(c.is_alpha for c in components)
    return values


def _laid_out(values: dict[str, Value | None]) -> Pixels:
    """Give how samples lie, as far as it is known."""
    depth = int(fraction(values.get("picture.bit_depth") or 0))
    return Pixels(str(values.get("picture.chroma") or ""), depth)


def _colour(context: VideoCodecContext) -> dict[str, Value | None]:
    matrix = _code(context.colorspace)
    return {
        "picture.range": names.RANGE.get(int(context.color_range or 0)),
        "picture.matrix": names.MATRIX.get(matrix) if matrix else None,
        "picture.primaries": names.PRIMARIES.get(_code(context.color_primaries)),
        "picture.transfer": names.TRANSFER.get(_code(context.color_trc)),
    }


def _codec_string(
    context: VideoCodecContext, row: PictureCodec, values: dict[str, Value | None]
) -> str | None:
    """Name the codec as RFC 6381 does, from what the file itself says."""
    size = values["picture.size"]
    if row.codec_string is None or not isinstance(size, Size):
        return None
    head = StreamHead(
        bytes(context.extradata or b""),
        context.profile or "",
        size,
        fraction(values["motion.rate"] or 25),
        int(fraction(values.get("picture.bit_depth") or 8)),
    )
    return row.codec_string(head)


def _file_head(
    path: str, row: PictureCodec, values: dict[str, Value | None]
) -> dict[str, Value | None]:
    """Give what the head of a file tells, where the library tells nothing."""
    if row.file_head is None:
        return {}
    try:
        with open(path.replace("%08d", f"{0:08d}"), "rb") as file:
            told = row.file_head.read(file.read(row.file_head.size))
    except OSError:
        return {}
    return {key: value for key, value in told.items() if values.get(key) is None}


def _code(value: Any) -> int:
    return int(value) if value is not None else 0


def _name(stream: AudioStream) -> str | None:
    """Give what a file calls a track."""
    about = {key.lower(): text for key, text in stream.metadata.items()}
    return about.get("title") or about.get("name")


def sound(stream: AudioStream) -> dict[str, Value | None]:
    """Give the declared facts of a sound stream."""
    context = stream.codec_context
    layout = stream.layout.name if stream.layout is not None else None
    codec = formats.read_as(context.name)
    row = formats.SOUND.get(codec)
    depth = row.depth if row is not None else None
    if row is not None and row.depths and context.format is not None:
        depth = row.depths.get(context.format.name)
    return {
        "sound.codec": codec,
        "sound.sample_rate": context.sample_rate or None,
        "sound.channels": context.channels or None,
        "sound.layout": names.LAYOUTS.get(layout, layout) if layout else None,
        "sound.speakers": names.speakers(stream),
        "sound.bit_depth": depth,
        # What a quality usually takes says nothing of what is there.
        "sound.bit_rate": None if row is not None and row.qualities else context.bit_rate or None,
        "sound.language": known_by(stream.language),
        "sound.name": _name(stream),
    }
