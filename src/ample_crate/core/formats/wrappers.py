"""The wrappers that are read, asked for or made."""

from __future__ import annotations

from math import ceil

from .wrapper import Contents, Wrapper

# A program stream of 2048-byte packs (ISO/IEC 13818-1): pack header 14, PES header 9 + 5 or 10.
PACK, PACK_PAYLOAD = 2048, 2018


def _boxes(contents: Contents, payload: int) -> int:
    """Estimate the boxes of MP4 and MOV (ISO/IEC 14496-12).

    4 bytes a sample in stsz, 8 a picture frame in ctts where frames are reordered, 4 a key frame in
    stss; pictures and sound alternate, so each run of samples costs a chunk offset (4) and, for
    sound, an stsc entry (12).
    """
    each = 4 + 4 + (8 if contents.reordered else 0)
    picture = contents.frames * each + contents.key_frames * 4
    sound = contents.sound_frames * 4 + min(contents.frames, contents.sound_frames) * 16
    return 1200 + 700 * contents.tracks + picture + sound


def _packs(contents: Contents, payload: int) -> int:
    """Estimate packs: every coded picture ends in a part-filled one, on average half empty."""
    packs = ceil(payload / PACK_PAYLOAD) + contents.frames // 2
    return max(0, packs * PACK - payload)


WRAPPERS = (
    Wrapper(
        "mp4",
        "MP4",
        ".mp4",
        media_type="video/mp4",
        browsers=True,
        index=True,
        tagged=True,
        boxes=True,
        enables=True,
        usual_sound="aac",
        own_bytes=_boxes,
    ),
    Wrapper(
        "mov",
        "MOV",
        ".mov",
        also=("QT",),
        media_type="video/quicktime",
        index=True,
        tagged=True,
        boxes=True,
        enables=True,
        own_bytes=_boxes,
    ),
    Wrapper("mxf", "MXF", ".mxf", patterns=True),
    Wrapper(
        "mpeg-ps",
        "MPEG program stream",
        ".mpg",
        also=("program stream", "MPEG-2 program stream", "PS", "VOB", "MPG"),
        usual_sound="mp2",
        own_bytes=_packs,
    ),
    Wrapper(
        "mpeg-ts",
        "MPEG transport stream",
        ".ts",
        also=("transport stream", "MPEG-2 transport stream", "TS", "M2TS"),
        usual_sound="mp2",
    ),
    Wrapper("matroska", "Matroska", ".mkv", also=("MKV",), enables=True),
    Wrapper(
        "webm",
        "WebM",
        ".webm",
        media_type="video/webm",
        browsers=True,
        enables=True,
        usual_sound="opus",
    ),
    Wrapper("avi", "AVI", ".avi", tagged=True),
    Wrapper(
        "mpeg-es",
        "MPEG video stream",
        ".m2v",
        also=("MPEG elementary stream", "M2V"),
        sound=False,
    ),
    Wrapper("h264-es", "H.264 stream", ".264", sound=False),
    Wrapper("hevc-es", "HEVC stream", sound=False),
    Wrapper("mpeg4-es", "mpeg4-es", sound=False),
    Wrapper("still image", "still image", also=("still",), sound=False, still=True),
    Wrapper("image sequence", "image sequence", also=("sequence",), sound=False),
    Wrapper("wav", "WAV", ".wav", also=("WAVE", "BWF", "RF64"), picture=False),
    Wrapper("aiff", "AIFF", ".aiff", also=("AIF",), picture=False),
    Wrapper("flac", "FLAC", picture=False, usual_sound="flac"),
    Wrapper("mp3", "MP3", picture=False, usual_sound="mp3"),
    Wrapper("ogg", "Ogg", picture=False, usual_sound="vorbis"),
    Wrapper("ac3", "AC-3 stream", picture=False, usual_sound="ac3"),
    Wrapper("adts", "AAC stream", picture=False, usual_sound="aac"),
    Wrapper("flv", "FLV"),
    Wrapper("asf", "ASF", also=("WMV",)),
    Wrapper("gxf", "GXF"),
    Wrapper("dv", "DV"),
    Wrapper("realmedia", "RealMedia"),
)
