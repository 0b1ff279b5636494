"""Colour bars, slate and black before the programme. The bars are libavfilter's own sources, a
reference from outside.
"""

from __future__ import annotations

import itertools
from fractions import Fraction
from pathlib import Path

import av.filter
import numpy as np
import pytest
from av.video.frame import VideoFrame
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.facts.events import Event
from ample_crate.media import ops
from ample_crate.media.measuring.grids import grid
from ample_crate.media.measuring.opening import Opening, colour_bars, opening
from clips import Clip, moving_bar, plain

BARS = (
    "smptebars",
    "smptehdbars",
    "pal75bars",
    "pal100bars",
)  # SMPTE ECR 1-1978, RP 219-2002, EBU 75 % and 100 %
OTHERS = ("rgbtestsrc", "testsrc", "testsrc2", "yuvtestsrc", "colorspectrum")


def source(name: str, size: str, pixels: str) -> VideoFrame:
    graph = av.filter.Graph()
    made, shaped, sink = (
        graph.add(name, f"size={size}"),
        graph.add("format", f"pix_fmts={pixels}"),
        graph.add("buffersink"),
    )
    made.link_to(shaped)
    shaped.link_to(sink)
    graph.configure()
    frame = graph.pull()
    assert isinstance(frame, VideoFrame)
    return frame


@pytest.mark.parametrize("pixels", ["yuv420p", "yuv422p10le", "yuv444p", "gbrp"])
@pytest.mark.parametrize("size", ["320x180", "720x576", "1920x1080"])
def test_bars_are_told_from_other_charts(size: str, pixels: str) -> None:
    assert [colour_bars(grid(source(name, size, pixels))) for name in BARS] == [True] * 4
    assert [colour_bars(grid(source(name, size, pixels))) for name in OTHERS] == [False] * 5


def test_stripes_in_another_order_or_lying_down_are_no_bars() -> None:
    bars = source("pal75bars", "720x576", "yuv420p").to_ndarray(format="rgb24")
    for other in (bars[:, ::-1], np.rot90(bars), bars[..., ::-1], np.roll(bars, 270, axis=1)):
        frame = VideoFrame.from_ndarray(np.ascontiguousarray(other), format="rgb24").reformat(
            format="yuv420p"
        )
        assert not colour_bars(grid(frame)), other.shape
    assert not colour_bars(
        grid(VideoFrame.from_ndarray(np.zeros((64, 64), np.uint8), format="gray"))
    )


def test_the_opening_is_sorted_by_hand() -> None:
    """Ten black, bars to 40 with a stretch of black inside their count, a slate to 60, then it
    moves and freezes once more.
    """
    barred = [False] * 10 + [True] * 30 + [False] * 60
    assert opening([(0, 9)], [(10, 39), (40, 59), (80, 99)], barred) == Opening(60, 30, 20)
    assert opening([], [(5, 20)], barred) == Opening(0, 0, 0), (
        "what stands still later is no leader"
    )
    assert opening([(0, 9)], [], barred) == Opening(10, 0, 0)
    # Two stretches may share the frame at which one turns into the other.
    assert opening([(0, 9)], [(9, 39)], barred) == Opening(40, 30, 0)


@given(
    st.lists(
        st.tuples(st.sampled_from(["black", "bars", "slate", "film"]), st.integers(2, 40)),
        min_size=1,
        max_size=8,
    )
)
def test_the_parts_of_an_opening_add_up(scenes: list[tuple[str, int]]) -> None:
    """Whatever scenes follow each other, the leader is its black, bars and slates, and ends where
    the film begins.
    """
    black, frozen, barred, at = [], [], list[bool](), 0
    for kind, length in scenes:
        if kind != "film":
            (black if kind == "black" else frozen).append((at, at + length - 1))
        barred += [kind == "bars"] * length
        at += length
    found = opening(black, frozen, barred)
    before = list(itertools.takewhile(lambda scene: scene[0] != "film", scenes))
    assert found.leader == sum(length for _, length in before)
    assert found.bars == sum(length for kind, length in before if kind == "bars")
    assert found.slate == sum(length for kind, length in before if kind == "slate")


@pytest.mark.parametrize(
    ("bars", "codec", "matrix", "options"),
    [
        ("smptebars", "mpeg2video", "smpte170m", {"b": "1500000", "g": "12"}),
        ("smptehdbars", "libx264", "bt709", {"preset": "ultrafast", "crf": "30"}),
    ],
)
def test_bars_slate_and_black_are_measured_to_the_frame(
    bars: str, codec: str, matrix: str, options: dict[str, str], tmp_path: Path
) -> None:
    """Twenty frames of bars, fifteen of slate, five of black, then the film: as a programme
    begins.
    """
    size = (320, 192)
    chart = source(bars, "320x192", "yuv444p").to_ndarray(format="rgb24")
    slate, film, dark = plain((30, 40, 90), size)(0), moving_bar(size), plain((0, 0, 0), size)(0)
    slate[60:130, 40:280:9] = 220

    def draw(time: float) -> np.ndarray:
        number = round(time * 25)
        return (
            chart if number < 20 else slate if number < 35 else dark if number < 40 else film(time)
        )

    path = Clip(
        draw=draw, frames=60, codec=codec, matrix=matrix, options=options, tones=None
    ).write(tmp_path / "opening.mov")
    made = ops.measure(path, depth="everything")
    found = {
        key: made.facts.value(key)
        for key in ("motion.leader", "motion.bars_before", "motion.slate", "motion.black_before")
    }
    assert found == {
        "motion.leader": Fraction(40, 25),
        "motion.bars_before": Fraction(20, 25),
        "motion.slate": Fraction(15, 25),
        "motion.black_before": 0,
    }
    stands = [e for e in made.events if isinstance(e, Event) and e.kind == "frozen"]
    assert [e.what for e in stands] == ["colour bars for 20 frames", "stands still for 15 frames"]
