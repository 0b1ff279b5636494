"""Declared facts over every wrapper, beside an independent parser, `pymediainfo` (the MediaInfo
library).
"""

from fractions import Fraction
from pathlib import Path

import pytest
from pymediainfo import MediaInfo

from ample_crate.media import ops
from wrappers import KINDS, SOUNDS, Kind, make, make_sound

PICTURES = {
    "h264": "AVC",
    "mpeg2video": "MPEG Video",
    "mpeg1video": "MPEG Video",
    "mjpeg": "JPEG",
    "vp9": "VP9",
    "wmv2": "WMV2",
    "dvvideo": "DV",
}


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.name)
def test_pictures(kind: Kind, tmp_path: Path) -> None:
    path = make(kind, tmp_path)
    facts, read = ops.read_facts(path), MediaInfo.parse(str(path))
    other, picture = read.general_tracks[0], read.video_tracks[0]
    assert facts.value("file.wrapper") == kind.wrapper
    assert (
        other.format in {kind.other, "MPEG-TS"}
        if kind.other == "BDAV"
        else other.format == kind.other
    )
    assert facts.value("file.size") == int(other.file_size) == path.stat().st_size
    # D-10 stores 32 lines of vertical interval above the 576; the other reader gives them as an
    # offset.
    assert (picture.width, picture.height + int(picture.height_offset or 0)) == facts.value(
        "picture.size"
    )
    assert picture.format == PICTURES[facts.value("picture.codec")]
    # Of a bare H.264 stream the other reader gives the rate of fields.
    if picture.frame_rate and kind.wrapper != "h264-es":
        assert float(picture.frame_rate) == pytest.approx(
            float(facts.value("motion.rate")), abs=0.001
        )
    if picture.chroma_subsampling and kind.wrapper != "webm":
        assert picture.chroma_subsampling.split(" ")[0] == facts.value("picture.chroma")
    if picture.bit_depth:
        assert picture.bit_depth == facts.value("picture.bit_depth")
    if picture.pixel_aspect_ratio:
        assert float(picture.pixel_aspect_ratio) == pytest.approx(
            float(facts.value("picture.pixel_aspect")), abs=0.003
        )
    if other.duration and facts.value("file.duration"):
        assert float(other.duration) / 1000 == pytest.approx(
            float(facts.value("file.duration")), abs=0.09
        )
    assert len(read.audio_tracks) == facts.value("sound.tracks")
    for sound in read.audio_tracks:
        assert sound.sampling_rate == facts.value("sound.sample_rate")
        assert sound.channel_s == facts.value("sound.channels")
        if facts.value("sound.bit_depth") is not None:
            assert sound.bit_depth == facts.value("sound.bit_depth")
    measured = ops.measure(path).facts
    assert measured.value("motion.frames") == 30 and measured.value("motion.rate") == 25
    assert measured.value("file.duration") == Fraction(30, 25)


@pytest.mark.parametrize(("name", "wrapper", "other", "codec"), SOUNDS, ids=[s[0] for s in SOUNDS])
def test_sound_alone(name: str, wrapper: str, other: str, codec: str, tmp_path: Path) -> None:
    path = make_sound(name, codec, tmp_path)
    facts, read = ops.measure(path, depth="everything").facts, MediaInfo.parse(str(path))
    sound = read.audio_tracks[0]
    assert facts.value("file.wrapper") == wrapper and read.general_tracks[0].format == other
    assert facts.value("picture.size") is None and facts.value("sound.tracks") == 1
    assert sound.sampling_rate == facts.value(
        "sound.sample_rate"
    ) and sound.channel_s == facts.value("sound.channels")
    assert float(facts.value("file.duration")) == pytest.approx(2, abs=0.06)
    assert float(facts.value("sound.loudness")) == pytest.approx(
        -23, abs=0.6 if codec == "libmp3lame" else 0.1
    )
