"""Properties of the file."""

from __future__ import annotations

from ... import formats
from ..words import TIMECODE, Words, of_rows
from .model import Flag, row

PROPERTIES = (
    row(
        "file.wrapper",
        "wrapper",
        "name",
        "declared",
        "the container",
        chosen=True,
        rewrap=True,
        draft="exactly",
        words=of_rows(w for w in formats.WRAPPERS.values() if not w.kind_of),
    ),
    row(
        "file.brand",
        "brand",
        "text",
        "declared",
        "the wrapper's own kind or operational pattern",
        rewrap=True,
    ),
    row(
        "file.bit_rate",
        "overall bit rate",
        "bit_rate",
        "measured",
        "all bytes over the whole length",
        of_whole=True,
        plausible=(10000, 20000000000),
    ),
    row("file.made_with", "made with", "text", "declared", "the program that the file names"),
    row("file.made_at", "made at", "text", "declared", "time of making that the file names"),
    row("file.chapters", "chapters", "count", "declared", "chapter marks", of_whole=True),
    row(
        "file.timecode_tracks", "timecode tracks", "count", "declared", "tracks that carry timecode"
    ),
    row(
        "file.captions",
        "captions and subtitles",
        "text",
        "declared",
        "caption and subtitle tracks by kind and language",
    ),
    row(
        "file.missing_frames",
        "missing frames",
        "count",
        "measured",
        "numbers that an image sequence leaves out",
    ),
    row(
        "file.size",
        "file size",
        "bytes",
        "measured",
        "bytes on disk",
        of_whole=True,
        draft="at most",
        seldom=True,
        plausible=(1000, 1000000000000000),
        predicted="about",
    ),
    row(
        "file.duration",
        "duration",
        "seconds",
        "measured",
        "length of the picture, or of the sound alone",
        of_whole=True,
        moving=True,
        draft="nearly",
        tolerance="1/25 s",
        seldom=True,
    ),
    row(
        "file.index_in_front",
        "index in front",
        "flag",
        "declared",
        "plays before it is all there",
        chosen=True,
        rewrap=True,
        draft="exactly",
        phrase="The index {verb} stand in front, so that the file plays before it is all there",
        flag=Flag(
            "The index stands in front",
            "The index does not stand in front",
            "it in front",
            "it elsewhere",
        ),
    ),
    row(
        "file.start_timecode",
        "start timecode",
        "text",
        "declared",
        "timecode of the first frame",
        rewrap=True,
        draft="exactly",
        seldom=True,
        # Not to be folded: what stands before the frames tells drop-frame counting.
        words=Words(
            ("00:00:00:00", "01:00:00:00", "10:00:00:00"),
            form=(TIMECODE, "Write hh:mm:ss:ff, or hh:mm:ss;ff with drop-frame."),
            strict=True,
        ),
    ),
    row(
        "file.drop_frame",
        "drop-frame",
        "flag",
        "declared",
        "whether timecode leaves numbers out to follow the clock",
        draft="exactly",
        seldom=True,
        phrase="The timecode {verb} be drop-frame",
        flag=Flag(
            "The timecode is drop-frame",
            "The timecode is not drop-frame",
            "drop-frame",
            "timecode that leaves no numbers out",
        ),
    ),
    row(
        "file.name",
        "file name",
        "text",
        "declared",
        "name under which it is handed over",
        rewrap=True,
    ),
)
