"""The wrappers that are read, asked for or made."""

from __future__ import annotations

from fractions import Fraction
from math import ceil

from ..units.values import Size
from .size import Amount
from .wrapper import Contents, Wrapper

# A program stream of 2048-byte packs (ISO/IEC 13818-1): pack header 14, PES header 9 + 5 or 10.
PACK, PACK_PAYLOAD = 2048, 2018


def _boxes(contents: Contents, payload: int) -> Amount:
    """Estimate the boxes of MP4 and MOV (ISO/IEC 14496-12).

    4 bytes a sample in stsz, 8 a picture frame in ctts where frames are reordered, 4 a key frame in
    stss; pictures and sound alternate, so each run of samples costs a chunk offset (4) and, for
    sound, an stsc entry (12).
    """
    each = 4 + 4 + (8 if contents.reordered else 0)
    picture = contents.frames * each + contents.key_frames * 4
    sound = contents.sound_frames * 4 + min(contents.frames, contents.sound_frames) * 16
    expected = 1200 + 700 * contents.tracks + picture + sound
    # How sound is gathered into chunks is the muxer's affair, and so are the boxes that say more.
    return Amount(0, expected, 2 * expected + 4096)


def _packs(contents: Contents, payload: int) -> Amount:
    """Estimate packs: every coded picture ends in a part-filled one, on average half empty."""
    full = ceil(payload / PACK_PAYLOAD)
    frames = contents.frames + contents.sound_frames
    least, expected, most = (full + more for more in (0, contents.frames // 2, frames + 16))
    return Amount(*(max(0, packs * PACK - payload) for packs in (least, expected, most)))


# SMPTE ST 379-2 and ST 377-1: every element is a key, a length and its bytes, filled up to the next
# 512 by a filler that is itself at least a key and a length.
KLV, GRID = 20, 512
SYSTEM_ITEM, INDEX_ENTRY, PARTITIONS = 512, 11, 9000


def _klv(contents: Contents, payload: int) -> Amount:
    """Estimate an MXF file of one picture a content package, sound beside it."""
    sound = sum(_filled(ceil(n / contents.frames)) for n in contents.sound_bytes if contents.frames)
    package = SYSTEM_ITEM + INDEX_ENTRY + KLV + sound
    head = PARTITIONS + 700 * contents.tracks
    fills = (KLV, KLV + GRID // 2, KLV + GRID)
    return Amount(*(head + contents.frames * (package + fill) for fill in fills))


# SMPTE ST 331: eight channels of 32 bit a sample, however many are used, after a head of 4 bytes.
AES_HEAD, AES_SAMPLE, HERTZ = 4, 32, 48_000


def _d10(contents: Contents, payload: int) -> Amount:
    """Estimate a D-10 file (SMPTE ST 386): content packages of one size."""
    frames = contents.frames or 1
    picture = (payload - sum(contents.sound_bytes)) // frames
    sound = AES_HEAD + AES_SAMPLE * ceil(HERTZ * contents.seconds / frames)
    package = SYSTEM_ITEM + picture + _filled(picture) + sound + _filled(sound)
    own = frames * package - payload
    return Amount(own + PARTITIONS // 2, own + PARTITIONS * 4 // 5, own + 2 * PARTITIONS)


def _filled(size: int) -> int:
    """Give what an element of a size takes besides itself."""
    bare = size + KLV
    whole = -(-bare // GRID) * GRID
    return (whole if whole == bare or whole - bare >= KLV else whole + GRID) - size


def _avi(contents: Contents, payload: int) -> Amount:
    """Estimate the chunks of an AVI file: 8 bytes before each, 16 in the index at its end and 8 in
    that of OpenDML, and lists that are padded.
    """
    chunks = contents.frames + 2 * contents.sound_frames + contents.tracks
    expected = 20_000 + 32 * chunks
    return Amount(2_000, expected, 2 * expected + 4096)


def _nothing(contents: Contents, payload: int) -> Amount:
    """Give the bytes of a file that is what is coded, and nothing else."""
    return Amount(0, 0, 0)


def _riff(contents: Contents, payload: int) -> Amount:
    """Give the chunks of a WAV file (RIFF, EBU Tech 3306): 12 of the form, 24 of the format, 24
    more where it names loudspeakers or a depth, 36 kept for sizes over 4 GiB, 34 that name the
    writer, 8 before the samples; 12 that count them where they are no whole numbers.
    """
    return Amount(114, 138, 150)


def _aiff(contents: Contents, payload: int) -> Amount:
    """Give the chunks of an AIFF file (its specification 1.3): 12 of the form, 26 of the format, 16
    before the samples, and where it names loudspeakers 20 more.
    """
    return Amount(54, 54, 120)


MPEG_TICK = Fraction(1, 90_000)  # ISO/IEC 13818-1
# SMPTE RP 224 has one label for the first two: the transfers are the same (ISO/IEC 23091-2). For
# logarithms the codec library writes none.
TRANSFERS = {"picture.transfer": {"BT.601": "BT.709", "log": None}}
ALL_TITLES = frozenset({"title", "artist", "comment"})
# What picture and sound that come apart are put into, each for itself.
APART = {
    "mpeg2video": "mpeg-es",
    "h264": "h264-es",
    "hevc": "hevc-es",
    "ac3": "ac3",
    "eac3": "eac3",
    "mp2": "mp2",
    "mp3": "mp3",
    "aac": "adts",
    "pcm_s16le": "wav",
    "pcm_s24le": "wav",
}
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
        primes=True,
        usual_sound="aac",
        own_bytes=_boxes,
        titles=ALL_TITLES,
        languages="all",
        chapters=True,
        track_names=True,
        text="mov_text",
        made=True,
    ),
    Wrapper(
        "mov",
        "MOV",
        ".mov",
        timecode=True,
        also=("QT",),
        media_type="video/quicktime",
        index=True,
        tagged=True,
        boxes=True,
        enables=True,
        primes=True,
        own_bytes=_boxes,
        titles=ALL_TITLES,
        languages="numbered",
        chapters=True,
        track_names=True,
        text="mov_text",
        made=True,
    ),
    Wrapper(
        "mxf",
        "MXF",
        ".mxf",
        patterns=True,
        timecode=True,
        scan=True,
        second_first=True,
        names_speakers=False,
        states=TRANSFERS,
        own_bytes=_klv,
        made=True,
    ),
    Wrapper(
        "mxf d10",
        "D-10 in MXF",
        ".mxf",
        kind_of="mxf",
        frames={"mpeg2video": frozenset({Size(720, 608), Size(720, 512)})},
        one_track=frozenset({4, 8}),
        patterns=True,
        timecode=True,
        scan=True,
        second_first=True,
        names_speakers=False,
        states=TRANSFERS,
        own_bytes=_d10,
        made=True,
    ),
    Wrapper(
        "mpeg-ps",
        "MPEG program stream",
        ".mpg",
        also=("program stream", "MPEG-2 program stream", "PS", "VOB", "MPG"),
        usual_sound="mp2",
        tick=MPEG_TICK,
        own_bytes=_packs,
        made=True,
    ),
    Wrapper(
        "mpeg-ts",
        "MPEG transport stream",
        ".ts",
        also=("transport stream", "MPEG-2 transport stream", "TS", "M2TS"),
        usual_sound="mp2",
        tick=MPEG_TICK,
        languages="all",
        made=True,
    ),
    Wrapper(
        "matroska",
        "Matroska",
        ".mkv",
        also=("MKV",),
        scan=True,
        enables=True,
        names_speakers=False,
        primes=True,
        trims=True,
        tick=Fraction(1, 1000),
        titles=frozenset({"title"}),
        languages="all",
        chapters=True,
        track_names=True,
        text="subrip",
        pictured=frozenset({"dvd_subtitle", "hdmv_pgs_subtitle", "dvb_subtitle"}),
        made=True,
    ),
    Wrapper(
        "webm",
        "WebM",
        ".webm",
        media_type="video/webm",
        browsers=True,
        scan=True,
        enables=True,
        primes=True,
        trims=True,
        tick=Fraction(1, 1000),
        usual_sound="opus",
        titles=frozenset({"title"}),
        languages="all",
        chapters=True,
        track_names=True,
        text="webvtt",
        made=True,
    ),
    Wrapper(
        "avi",
        "AVI",
        ".avi",
        tagged=True,
        own_bytes=_avi,
        titles=ALL_TITLES,
        made=True,
    ),
    Wrapper(
        "mpeg-es",
        "MPEG video stream",
        ".m2v",
        also=("MPEG elementary stream", "M2V"),
        sound=False,
        bare=True,
        own_bytes=_nothing,
        made=True,
    ),
    Wrapper(
        "h264-es", "H.264 stream", ".264", sound=False, bare=True, own_bytes=_nothing, made=True
    ),
    Wrapper(
        "hevc-es", "HEVC stream", ".265", sound=False, bare=True, own_bytes=_nothing, made=True
    ),
    Wrapper(
        "separate streams",
        "separate streams",
        also=("elementary streams",),
        bare=True,
        usual_sound="ac3",
        carries=frozenset(APART),
        parts=APART,
        own_bytes=_nothing,
        made=True,
    ),
    Wrapper("mpeg4-es", "mpeg4-es", sound=False),
    Wrapper(
        "still image",
        "still image",
        also=("still",),
        sound=False,
        still=True,
        own_bytes=_nothing,
        made=True,
    ),
    Wrapper(
        "image sequence",
        "image sequence",
        also=("sequence",),
        sound=False,
        numbered=True,
        own_bytes=_nothing,
        made=True,
    ),
    Wrapper(
        "wav",
        "WAV",
        ".wav",
        also=("WAVE", "BWF", "RF64"),
        picture=False,
        broadcast=True,
        own_bytes=_riff,
        titles=ALL_TITLES,
        made=True,
    ),
    Wrapper(
        "aiff",
        "AIFF",
        ".aiff",
        also=("AIF",),
        titles=frozenset({"title", "comment"}),
        made=True,
        picture=False,
        # The codec library crashes where it reads eight of them.
        channels=6,
        own_bytes=_aiff,
    ),
    Wrapper(
        "m4a",
        "M4A",
        ".m4a",
        media_type="audio/mp4",
        browsers=True,
        picture=False,
        boxes=True,
        enables=True,
        primes=True,
        usual_sound="aac",
        own_bytes=_boxes,
        titles=ALL_TITLES,
        languages="all",
        made=True,
    ),
    Wrapper(
        "flac", "FLAC", ".flac", picture=False, usual_sound="flac", titles=ALL_TITLES, made=True
    ),
    Wrapper(
        "mp3",
        "MP3",
        ".mp3",
        picture=False,
        usual_sound="mp3",
        primes=True,
        trims=True,
        titles=ALL_TITLES,
        made=True,
    ),
    Wrapper(
        "ogg", "Ogg", ".ogg", picture=False, usual_sound="opus", primes=True, trims=True, made=True
    ),
    Wrapper(
        "mp2",
        "MPEG-1 layer 2 stream",
        ".mp2",
        picture=False,
        usual_sound="mp2",
        made=True,
    ),
    Wrapper("ac3", "AC-3 stream", ".ac3", picture=False, usual_sound="ac3", made=True),
    Wrapper("eac3", "E-AC-3 stream", ".ec3", picture=False, usual_sound="eac3", made=True),
    Wrapper("adts", "AAC stream", ".aac", picture=False, usual_sound="aac", made=True),
    Wrapper("flv", "FLV"),
    Wrapper("asf", "ASF", also=("WMV",)),
    Wrapper("gxf", "GXF"),
    Wrapper("dv", "DV"),
    Wrapper("realmedia", "RealMedia"),
)
