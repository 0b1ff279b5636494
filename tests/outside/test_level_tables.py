"""The level tables of H.265, MPEG-2 and AV1, against the levels that independent encoders choose
and write into the stream.

The encoders carry the published tables themselves: x265 those of ITU-T H.265 Annex A, SVT-AV1 those
of Annex A.3, the library's MPEG-2 encoder the frame sizes of ISO/IEC 13818-2 Table 8-12.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from ample_crate.core.formats import PICTURE, av1, hevc, mpeg_video
from ample_crate.core.formats.levels import Load
from ample_crate.core.specs.contradictions import contradictions
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.media import ops


def coded(
    codec: str,
    size: Size,
    rate: Fraction,
    options: dict[str, str],
    pixels: str = "yuv420p",
    profile: str | None = None,
) -> tuple[bytes, str]:
    """Encode two grey frames; give the stream's parameter sets and its profile."""
    context = av.CodecContext.create(codec, "w")
    context.width, context.height, context.pix_fmt, context.framerate, context.time_base = (
        *size,
        pixels,
        rate,
        1 / rate,
    )  # type: ignore[attr-defined]
    context.options = options
    if profile is not None:
        context.profile = profile  # type: ignore[attr-defined]
    frame = av.VideoFrame.from_ndarray(
        np.full((size.height, size.width), 90, np.uint8), "gray"
    ).reformat(format=pixels)
    data = b""
    for number in range(2):
        frame.pts = number
        data += b"".join(bytes(p) for p in context.encode(frame))  # type: ignore[attr-defined]
    return data + b"".join(bytes(p) for p in context.encode(None)), str(context.profile)  # type: ignore[attr-defined]


def h265_level(stream: bytes) -> Fraction:
    """Read general_level_idc / 30 from the sequence parameter set (ITU-T H.265 7.3.3)."""
    at = stream.find(b"\x00\x00\x01\x42\x01")
    rbsp = stream[at + 5 : at + 40].replace(b"\x00\x00\x03", b"\x00\x00")
    return Fraction(rbsp[1 + 11], 30)


@pytest.mark.parametrize(
    ("size", "rate"),
    [
        (Size(176, 144), Fraction(15)),
        (Size(352, 288), Fraction(30)),
        (Size(640, 360), Fraction(30)),
        (Size(720, 576), Fraction(25)),
        (Size(960, 544), Fraction(30)),
        (Size(1280, 720), Fraction(25)),
        (Size(1280, 720), Fraction(50)),
        (Size(1920, 1080), Fraction(25)),
        (Size(1920, 1080), Fraction(60)),
        (Size(1080, 1080), Fraction(24000, 1001)),
        (Size(2560, 1440), Fraction(30)),
        (Size(3840, 2160), Fraction(25)),
        (Size(3840, 2160), Fraction(50)),
        (Size(4096, 2160), Fraction(24)),
    ],
    ids=lambda v: str(v),
)
@pytest.mark.parametrize("kilobits", [1_000, 11_000])
def test_h265_levels_are_those_x265_writes(size: Size, rate: Fraction, kilobits: int) -> None:
    options = {
        "preset": "ultrafast",
        "x265-params": f"log-level=none:bitrate={kilobits}:vbv-maxrate={kilobits}:"
        f"vbv-bufsize={kilobits}:high-tier=0:ref=1:bframes=0",
    }
    stream, _ = coded("libx265", size, rate, options)
    mine = hevc.LEVELS.lowest(Load(size, rate), kilobits * 1000, "main", main_tier=True)
    assert mine is not None and mine.number == h265_level(stream)


@pytest.mark.parametrize(
    ("size", "rate", "pixels", "profile", "name"),
    [
        (Size(720, 576), Fraction(25), "yuv420p", "Main", "main@main"),
        (Size(720, 480), Fraction(30000, 1001), "yuv420p", "Main", "main@main"),
        (Size(1440, 1080), Fraction(25), "yuv420p", "Main", "main@high 1440"),
        (Size(1920, 1080), Fraction(25), "yuv420p", "Main", "main@high"),
        (Size(720, 608), Fraction(25), "yuv422p", "4:2:2", "4:2:2@main"),
        (Size(720, 512), Fraction(30000, 1001), "yuv422p", "4:2:2", "4:2:2@main"),
        (Size(1920, 1080), Fraction(25), "yuv422p", "4:2:2", "4:2:2@high"),
    ],
    ids=lambda v: str(v),
)
def test_mpeg2_levels_are_those_the_encoder_writes(
    size: Size, rate: Fraction, pixels: str, profile: str, name: str
) -> None:
    stream, _ = coded("mpeg2video", size, rate, {}, pixels)
    extension = stream[stream.find(b"\x00\x00\x01\xb5") + 4 :]
    # 6.2.2.3: four bits of identifier (1), then profile_and_level_indication.
    code = (extension[0] & 15) << 4 | extension[1] >> 4
    # Table 8-2, 8-3 and 8-4: 4:2:2 is an escape of its own.
    written = {
        0x48: "main@main",
        0x46: "main@high 1440",
        0x44: "main@high",
        0x85: "4:2:2@main",
        0x82: "4:2:2@high",
    }[code]
    mine = mpeg_video.LEVELS.lowest(Load(size, rate), 0, profile.lower())
    assert mine is not None and mine.name == written == name


@pytest.mark.parametrize(
    ("codec", "level", "size", "rate", "held"),
    [
        # 108 000 macroblocks a second: just what Table A-1 allows
        ("h264", "3.1", Size(1280, 720), Fraction(30), True),
        ("h264", "3.1", Size(1280, 720), Fraction(31), False),
        ("h264", "3.1", Size(1080, 1080), Fraction(24000, 1001), False),
        ("h264", "5.2", Size(4096, 2304), Fraction(24), True),  # 36 864 macroblocks
        ("h264", "5.2", Size(4096, 2336), Fraction(24), False),  # 37 376 (handbook of the trade)
        ("hevc", "4.1", Size(1920, 1080), Fraction(60), True),
        ("hevc", "5", Size(3840, 2160), Fraction(30), True),
        ("hevc", "5", Size(3840, 2160), Fraction(60), False),
        # 10 368 000 samples a second: just what Table 8-13 allows
        ("mpeg2video", "main@main", Size(720, 576), Fraction(25), True),
        ("mpeg2video", "main@main", Size(720, 578), Fraction(25), False),
        ("mpeg2video", "4:2:2@main", Size(720, 608), Fraction(25), True),
        ("mpeg2video", "4:2:2@main", Size(720, 608), Fraction(30000, 1001), False),
    ],
)
def test_limits_on_both_sides(
    codec: str, level: str, size: Size, rate: Fraction, held: bool
) -> None:
    levels = PICTURE[codec].levels
    found = levels.by_name(level) if levels is not None else None
    assert found is not None and found.holds(Load(size, rate)) is held


@pytest.mark.parametrize(
    ("size", "rate", "name"),
    [
        (Size(320, 180), 25, "2"),
        (Size(640, 360), 30, "2.1"),
        (Size(1280, 720), 25, "3.1"),
        (Size(1280, 720), 50, "4"),
        (Size(1920, 1080), 60, "4.1"),
    ],
    ids=str,
)
def test_av1_levels_are_those_the_encoder_writes(
    size: Size, rate: int, name: str, tmp_path: Path
) -> None:
    path = tmp_path / "a.mp4"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libsvtav1", rate=rate)
        stream.width, stream.height, stream.pix_fmt = size.width, size.height, "yuv420p"
        stream.options = {"preset": "11", "crf": "55"}
        grey = np.full((size.height * 3 // 2, size.width), 90, np.uint8)
        container.mux(stream.encode(av.VideoFrame.from_ndarray(grey, format="yuv420p")))
        container.mux(stream.encode(None))
    # The encoder chooses seq_level_idx by itself; the reader finds it in the header.
    mine = av1.LEVELS.lowest(Load(size, Fraction(rate)), main_tier=True)
    read = ops.read_facts(path).value("picture.level")
    assert mine is not None and mine.name == name and read == mine.number


def test_what_no_table_gives_is_not_judged() -> None:
    """A peak is held against level and buffer only where the buffer is known."""
    for codec, judged in (("h264", True), ("av1", False)):
        spec = Spec.model_validate(
            {
                "id": "one",
                "version": 1,
                "recipient": "someone",
                "title": "One",
                "requirements": [
                    {"property": "picture.codec", "rule": {"is": codec}},
                    {"property": "picture.level", "rule": {"at_most": 4}},
                    {"property": "picture.peak_bit_rate", "rule": {"at_most": "900 Mb/s"}},
                ],
            }
        )
        kinds = {c.kind for c in contradictions(spec)}
        assert ("level ceiling" in kinds) is judged, codec


def test_levels_that_do_not_exist_are_not_found_and_each_names_its_source() -> None:
    with_levels = {key: c.levels for key, c in PICTURE.items() if c.levels is not None}
    assert set(with_levels) == {"h264", "hevc", "mpeg2video", "vp9", "av1"}
    for levels in with_levels.values():
        assert levels.by_name("17") is None
        assert levels.source and all(level.says for level in levels.table(""))
        rates = [level.bit_rate for level in levels.mine("")]
        assert rates == sorted(rates), "lowest first"
