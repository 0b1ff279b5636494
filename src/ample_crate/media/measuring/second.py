"""A second reader of finished files: another library's parser, which shares nothing with the first.

Only what it reads of the file itself is taken; what it works out (a length, a rate from rounded
times) says nothing that decoding did not.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Collection, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

from pymediainfo import MediaInfo

from ...core import formats
from ...core.errors import BadValue
from ...core.facts import Facts
from ...core.facts.properties import lookup, track_key
from ...core.formats.ac3 import KARAOKE, VOICE_OVER
from ...core.units.values import Size, Value
from .. import folders, sequence

SCANS = {"Progressive": "progressive", "Interlaced": "interlaced", "MBAFF": "interlaced"}
PICTURES = {"Video", "Image"}
# Its abbreviations of one letter for what AC-3 is for.
MODES = {"D": "dialogue", "C": "commentary", "E": "emergency"}
Values = dict[str, Value | None]


def handle(progress: Callable[[dict[str, Any]], None], path: str) -> dict[str, Any]:
    """Read a file, or the first image of a sequence: {facts}."""
    values: Values = {}
    sounds, wrapper = 0, None
    for track in tracks_of(path):
        if track.track_type == "General":
            wrapper = track.format
        elif track.track_type in PICTURES:
            values |= picture(track)
            if wrapper == track.format:
                # Of a bare stream whose frames are never fields it takes the rate of fields.
                values["motion.rate"] = None
        elif track.track_type == "Audio":
            sounds += 1
            values |= {track_key(key, sounds): value for key, value in sound(track)}
    values["sound.tracks"] = sounds
    return {"facts": Facts().with_values("second", values).as_json()}


def tracks_of(path: str) -> Iterator[Any]:
    """Give the tracks of a file, of a sequence's first image, or of files that belong together."""
    if os.path.basename(path) == sequence.DESCRIPTION:
        path = str(sequence.images_of(Path(path))[0])
    for one in folders.streams_of(path):
        yield from MediaInfo.parse(one).tracks


def picture(track: Any) -> Values:
    """Give what is read of a picture."""
    height = track.sampled_height or track.height
    rate = None
    if track.framerate_num and track.framerate_den:
        rate = Fraction(int(track.framerate_num), int(track.framerate_den))
    chroma = (track.chroma_subsampling or "").removesuffix(":4") or None
    if chroma is not None and chroma.count(":") != 2:
        chroma = None
    return {
        "picture.codec": _codec("picture.codec", track, formats.PICTURE),
        "picture.size": Size(int(track.width), int(height)) if track.width and height else None,
        "picture.chroma": chroma,
        # Of ProRes it tells the wrapper's label, where there is one; the profile has no other.
        "picture.bit_depth": _number(track.bit_depth) if track.format != "ProRes" else None,
        "motion.scan": SCANS.get(track.scan_type),
        "motion.rate": rate,
    }


def sound(track: Any) -> Iterator[tuple[str, Value | None]]:
    """Give what is read of a sound track."""
    yield "sound.codec", _codec("sound.codec", track, formats.SOUND)
    yield "sound.channels", _number(track.channel_s)
    yield "sound.sample_rate", _number(track.sampling_rate)
    level = str(track.dialog_normalization or "")
    yield "sound.dialogue_level", Fraction(level) if level.lstrip("-").isdecimal() else None
    yield "sound.bitstream_mode", _mode(str(track.service_kind or ""), track.channel_s)
    yield "sound.bit_depth", _number(track.bit_depth) if track.format == "PCM" else None


def _codec(key: str, track: Any, known: Collection[str]) -> str | None:
    """Give the codec that a name means, where it means one."""
    name, version = str(track.format), (track.format_version or "").removeprefix("Version ")
    if name.startswith("MPEG") and version:
        name = name.replace("MPEG", f"MPEG-{version}", 1)
    try:
        codec = lookup(key).read(name)
    except BadValue:
        return None
    return str(codec) if codec in known else None


def _mode(name: str, channels: Any) -> str | None:
    """Give what sound is for, by the abbreviation of a name; of several channels there is no voice
    over (ATSC A/52, Table 5.7), which it is called all the same.
    """
    if not name:
        return None
    try:
        mode = str(lookup("sound.bitstream_mode").read(MODES.get(name, name)))
    except BadValue:
        return None
    several = str(channels) != "1"
    return KARAOKE if mode == VOICE_OVER and several else mode


def _number(value: Any) -> int | None:
    return int(value) if str(value).isdecimal() else None
