"""The rate buffer in real streams: what the header names by a second reader, and what the frames
need.
"""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
import pytest
from pymediainfo import MediaInfo

from ample_crate.media import ops
from clips import moving_bar, noise

Make = Callable[..., Path]
MPEG2 = {"codec": "mpeg2video", "sound_codec": "mp2"}
CONSTANT = {"b": "4000000", "minrate": "4000000", "maxrate": "4000000", "bufsize": "1835008"}
# name, how it is coded, b/s into the buffer, bits of the buffer
NAMED: list[tuple[str, dict[str, Any], int, int]] = [
    (
        "dvd.mpg",
        MPEG2 | {"options": {"b": "3000000", "maxrate": "7840000", "bufsize": "1835008"}},
        7_840_000,
        1_835_008,
    ),
    ("constant.m2v", MPEG2 | {"tones": None, "options": CONSTANT}, 4_000_000, 1_835_008),
    (
        "vbr.mp4",
        {
            "options": {
                "preset": "fast",
                "b": "2000000",
                "maxrate": "3000000",
                "bufsize": "4000000",
                "nal-hrd": "vbr",
            }
        },
        3_000_000,
        4_000_000,
    ),
    (
        "cbr.ts",
        {
            "options": {
                "preset": "fast",
                "b": "2000000",
                "minrate": "2000000",
                "maxrate": "2000000",
                "bufsize": "1000000",
                "nal-hrd": "cbr",
            }
        },
        2_000_000,
        1_000_000,
    ),
    (
        "main.mov",
        {
            "options": {
                "preset": "fast",
                "profile": "main",
                "b": "1500000",
                "maxrate": "2000000",
                "bufsize": "2000000",
                "nal-hrd": "vbr",
            },
            "tones": None,
        },
        2_000_000,
        2_000_000,
    ),
]


@pytest.mark.parametrize(("name", "how", "rate", "size"), NAMED, ids=[n[0] for n in NAMED])
def test_what_the_header_names_is_read_and_kept(
    name: str, how: dict[str, Any], rate: int, size: int, clip: Make
) -> None:
    path = clip(f"buffer_{name}", draw=noise((320, 180)), frames=40, **how)
    facts = ops.measure(path).facts
    assert (facts.value("picture.vbv_rate"), facts.fact("picture.vbv").declared) == (rate, size)
    # The encoder says that it kept to the buffer; the frames must show it. The largest must fit in
    # at the least.
    need = facts.fact("picture.vbv").measured
    with av.open(str(path)) as container:
        largest = max(packet.size for packet in container.demux(video=0)) * 8
    assert isinstance(need, int) and largest <= need <= size
    assert not facts.contradicts("picture.vbv")
    # MediaInfo gives bytes of MPEG-2, and bits of H.264.
    said = str(MediaInfo.parse(str(path)).video_tracks[0].buffer_size)
    assert said == str(size // 8 if "codec" in how else size)


def test_a_stream_that_needs_more_than_its_header_names_is_a_contradiction(clip: Make) -> None:
    # At a fixed quantiser the encoder spends what the noise costs, whatever the header says.
    how = {
        "b": "1000000",
        "maxrate": "1000000",
        "bufsize": "327680",
        "flags": "+qscale",
        "global_quality": "236",
    }
    facts = ops.measure(
        clip("overrun.mpg", draw=noise((320, 180)), frames=40, **(MPEG2 | {"options": how}))
    ).facts
    assert facts.fact("picture.vbv").declared == 327_680
    assert facts.value("picture.vbv") > 2 * 327_680 and facts.contradicts("picture.vbv")


def test_a_stream_that_was_cut_off_at_its_start_still_names_its_buffer(
    clip: Make, tmp_path: Path
) -> None:
    whole = clip(
        "from_the_middle.ts",
        draw=noise((320, 180)),
        frames=40,
        **(MPEG2 | {"options": CONSTANT | {"g": "12"}}),
    ).read_bytes()
    cut = tmp_path / "cut.ts"
    cut.write_bytes(whole[len(whole) // 5 // 188 * 188 :])
    facts = ops.measure(cut).facts
    assert (facts.value("picture.vbv_rate"), facts.fact("picture.vbv").declared) == (
        4_000_000,
        1_835_008,
    )


def test_no_promise_is_read_where_none_is_made(clip: Make) -> None:
    facts = ops.measure(clip("plain.mp4")).facts
    assert facts.value("picture.vbv") is None and facts.value("picture.vbv_rate") is None


@pytest.mark.parametrize(
    ("name", "how", "slices"),
    [
        (
            "four.mp4",
            {"options": {"preset": "fast", "x264-params": "slices=4:sliced-threads=0"}},
            4,
        ),
        ("four.ts", {"options": {"preset": "fast", "x264-params": "slices=4:sliced-threads=0"}}, 4),
        ("one.mkv", {"options": {"preset": "fast", "x264-params": "slices=1:sliced-threads=0"}}, 1),
        # MPEG-2 has a slice a row: 180 lines are twelve rows of sixteen.
        ("rows.mpg", MPEG2 | {"options": {"b": "2000000"}}, 12),
        (
            "three.mp4",
            {
                "codec": "libx265",
                "options": {"preset": "ultrafast", "x265-params": "slices=3:log-level=none"},
            },
            3,
        ),
    ],
)
def test_slices_are_counted(name: str, how: dict[str, Any], slices: int, clip: Make) -> None:
    size = (320, 320) if "x265" in str(how) else (320, 180)
    assert (
        ops.measure(clip(f"slices_{name}", draw=moving_bar(size), frames=12, **how)).facts.value(
            "picture.slices"
        )
        == slices
    )
