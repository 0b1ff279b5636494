"""H.264 levels against ITU-T H.264 (2021-08) Table A-1 and against the level libav's own filter
derives.

The table's rows were written from memory; the filter carries its own copy of the table, which is
the outside check.
"""

import io
import itertools
from collections.abc import Iterator
from fractions import Fraction

import av
import numpy as np
import pytest
from av.bitstream import BitStreamFilterContext

from ample_crate.core.formats.h264 import LEVELS, TABLE_A_1, macroblocks
from ample_crate.core.formats.levels import Load
from ample_crate.core.units.values import Size

SIZES = [
    Size(176, 144),
    Size(352, 288),
    Size(640, 360),
    Size(720, 576),
    Size(1024, 576),
    Size(1080, 1080),
    Size(1280, 720),
    Size(1440, 1080),
    Size(1920, 1080),
    Size(2560, 1440),
]
RATES = [Fraction(10), Fraction(25), Fraction(30000, 1001), Fraction(50), Fraction(60)]


def derived_level(size: Size, rate: Fraction, bit_rate: int) -> Fraction:
    """Encode three frames with HRD rates, let `h264_metadata=level=auto` guess, and read the level
    it wrote.
    """
    context = av.CodecContext.create("libx264", "w")
    context.width, context.height, context.pix_fmt = size.width, size.height, "yuv420p"
    context.time_base, context.framerate = 1 / rate, rate
    context.options = {
        "preset": "ultrafast",
        "profile": "high",
        "refs": "4",
        "bf": "2",
        "level": "6.2",
        "nal-hrd": "vbr",
        "b": str(bit_rate),
        "maxrate": str(bit_rate),
        "bufsize": str(bit_rate // 4),
        "x264-params": "ref=4:bframes=2:b-pyramid=none:cabac=1:8x8dct=1",
    }
    frame = av.VideoFrame.from_ndarray(
        np.full((size.height * 3 // 2, size.width), 90, np.uint8), format="yuv420p"
    )
    packets = []
    for number in range(3):
        frame.pts, frame.time_base = number, 1 / rate
        packets += context.encode(frame)
    packets += context.encode(None)
    data = b"".join(bytes(p) for p in packets)
    return _rewritten(data)


def _rewritten(data: bytes) -> Fraction:
    with av.open(io.BytesIO(data), format="h264") as container:
        stream = container.streams.video[0]
        adapt = BitStreamFilterContext("h264_metadata=level=auto", stream)
        out = b""
        for packet in container.demux(stream):
            if packet.size:
                out += b"".join(bytes(p) for p in adapt.filter(packet))
        out += b"".join(bytes(p) for p in adapt.filter(None))
    at = out.index(b"\x00\x00\x01\x67")
    return Fraction(out[at + 6], 10)  # level_idc is the third byte of the sequence parameter set


def cases() -> Iterator[tuple[Size, Fraction, int]]:
    for (n, size), (m, rate) in itertools.product(enumerate(SIZES), enumerate(RATES)):
        yield size, rate, [400_000, 3_000_000, 11_000_000, 18_000_000, 55_000_000][(n + m) % 5]


@pytest.mark.parametrize(("size", "rate", "bit_rate"), list(cases()), ids=str)
def test_the_level_is_what_the_library_derives(size: Size, rate: Fraction, bit_rate: int) -> None:
    # Table A-2: the filter judges the NAL rate (cpbBrNalFactor 1500), we plan by the VCL rate
    # (cpbBrVclFactor 1250).
    mine = LEVELS.lowest(Load(size, rate, kept=4), bit_rate * 1250 // 1500, "high")
    assert mine is not None
    assert mine.number == derived_level(size, rate, bit_rate)


def test_square_1080_does_not_fit_level_3_1() -> None:
    # ITU-T H.264 Table A-1: MaxFS of level 3.1 is 3,600 macroblocks; 1080x1080 has 68 x 68 = 4,624.
    row = next(row for row in TABLE_A_1 if row.number == Fraction("3.1"))
    assert row.max_fs == 3600
    assert macroblocks(Size(1080, 1080)) == 4624
    level = LEVELS.by_name("3.1")
    assert level is not None
    assert not level.holds(Load(Size(1080, 1080), Fraction(24000, 1001)))


def test_4096x2336_is_above_level_5_2() -> None:
    # 256 x 146 = 37,376 macroblocks against 36,864 (Table A-1).
    assert macroblocks(Size(4096, 2336)) == 37376
    level = LEVELS.lowest(Load(Size(4096, 2336), Fraction(24)), 20_000_000, "high")
    assert level is not None and level.number == 6


def test_high_profile_carries_a_quarter_more() -> None:
    # Table A-2: cpbBrVclFactor 1250 for High, 1000 for Main.
    high, main = LEVELS.by_name("3.1", "high"), LEVELS.by_name("3.1", "main")
    assert high is not None and high.bit_rate == 17_500_000
    assert main is not None and main.bit_rate == 14_000_000


def level_that_the_encoder_names(size: Size, bit_rate: int, fields: bool) -> Fraction:
    context = av.CodecContext.create("libx264", "w")
    context.width, context.height, context.pix_fmt = size.width, size.height, "yuv420p"
    context.time_base, context.framerate = Fraction(1, 25), Fraction(25)
    context.options = {
        "preset": "ultrafast",
        "profile": "high",
        "b": str(bit_rate),
        "maxrate": str(bit_rate),
        "bufsize": str(bit_rate // 4),
        "x264-params": f"ref=1:bframes=0:8x8dct=1:{'tff=1' if fields else 'interlaced=0'}",
    }
    frame = av.VideoFrame.from_ndarray(
        np.full((size.height * 3 // 2, size.width), 90, np.uint8), format="yuv420p"
    )
    frame.pts, frame.time_base = 0, Fraction(1, 25)
    data = b"".join(bytes(p) for p in [*context.encode(frame), *context.encode(None)])
    at = data.index(b"\x00\x00\x01\x67")
    return Fraction(data[at + 6], 10)


@pytest.mark.parametrize(
    ("size", "bit_rate"),
    [
        (Size(128, 96), 50_000),
        (Size(352, 288), 500_000),
        (Size(720, 576), 6_000_000),
        (Size(1920, 1080), 20_000_000),
    ],
    ids=str,
)
def test_fields_begin_at_the_level_at_which_the_encoder_begins_them(
    size: Size, bit_rate: int
) -> None:
    # Table A-4, frame_mbs_only_flag: x264 has its own copy, and raises the level until fields are
    # allowed.
    for fields in (False, True):
        mine = LEVELS.lowest(Load(size, Fraction(25), fields), bit_rate, "high")
        assert mine is not None and mine.number == level_that_the_encoder_names(
            size, bit_rate, fields
        ), fields


def test_fields_end_at_level_4_1() -> None:
    # 1080 lines in fields at 70 Mb/s would ask for level 5 (Table A-1), which has none (Table A-4).
    whole = Load(Size(1920, 1080), Fraction(25))
    level = LEVELS.lowest(whole, 70_000_000, "high")
    assert level is not None and level.number == 5
    fields = Load(whole.size, whole.rate, interlaced=True)
    assert LEVELS.lowest(fields, 70_000_000, "high") is None
