"""Delivered files read by an independent parser, `pymediainfo` (the MediaInfo library)."""

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import pytest
from pymediainfo import MediaInfo

from ample_crate.core.facts import Facts
from ample_crate.work.deliver import Delivered

WRAPPERS = {"mp4": "MPEG-4", "mov": "MPEG-4", "mpeg-ps": "MPEG-PS"}
PICTURES = {"h264": "AVC", "mpeg2video": "MPEG Video"}
SOUNDS = {"aac": "AAC", "mp2": "MPEG Audio"}


def tracks(path: Path) -> tuple[object, object, object]:
    read = MediaInfo.parse(str(path))
    return read.general_tracks[0], read.video_tracks[0], read.audio_tracks[0]


def agree(facts: Facts, path: Path) -> None:
    general, picture, sound = tracks(path)
    assert general.format == WRAPPERS[facts.value("file.wrapper")]
    assert int(general.file_size) == facts.value("file.size")
    assert picture.format == PICTURES[facts.value("picture.codec")]
    assert (picture.width, picture.height) == facts.value("picture.size")
    assert float(picture.display_aspect_ratio) == pytest.approx(
        float(facts.value("picture.display_aspect")), abs=0.002
    )
    assert float(picture.pixel_aspect_ratio) == pytest.approx(
        float(facts.value("picture.pixel_aspect")), abs=0.002
    )
    assert Fraction(
        int(picture.framerate_num or 25), int(picture.framerate_den or 1)
    ) == facts.value("motion.rate")
    assert int(picture.frame_count) == facts.value("motion.frames")
    assert picture.chroma_subsampling == facts.value(
        "picture.chroma"
    ) and picture.bit_depth == facts.value("picture.bit_depth")
    assert picture.scan_type.lower() in {
        facts.value("motion.scan"),
        "mbaff" if facts.value("motion.scan") == "interlaced" else "progressive",
    }
    if facts.value("motion.scan") == "interlaced":
        assert (
            picture.scan_order
            == {"upper first": "TFF", "lower first": "BFF"}[facts.value("motion.field_order")]
        )
    expected = {"BT.709": "BT.709", "BT.601": "BT.470 System B/G"}[facts.value("picture.matrix")]
    assert picture.matrix_coefficients == expected
    if facts.value("picture.codec") == "h264":
        assert picture.format_profile.lower() == f"high@l{float(facts.value('picture.level')):g}"
    else:
        assert picture.format_profile.lower() == facts.value("picture.profile_level")
    assert sound.format == SOUNDS[facts.value("sound.codec")] or sound.format.startswith("AAC")
    assert sound.sampling_rate == facts.value(
        "sound.sample_rate"
    ) and sound.channel_s == facts.value("sound.channels")
    if general.isstreamable is not None and facts.value("file.wrapper") in {"mp4", "mov"}:
        assert (general.isstreamable == "Yes") == facts.value("file.index_in_front")


@pytest.mark.parametrize("id", ["skerry-sd625", "pinfold-720p", "tannery-list"])
def test_a_second_reader_agrees_on_every_delivery(
    id: str, hd_fields: Path, delivered: Callable[[Path, str], Delivered]
) -> None:
    made = delivered(hd_fields, id)
    agree(made.facts, made.path)
    assert made.facts.value("file.size") == made.path.stat().st_size
