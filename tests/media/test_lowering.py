"""Conversions as filters: each type has its own, and frames that went through them are what the
fold over the formats says.
"""

from __future__ import annotations

from fractions import Fraction
from types import SimpleNamespace
from typing import Any, get_args

import numpy as np
import pytest
from av.video.frame import VideoFrame
from av.video.plane import VideoPlane

from ample_crate.core.planning import steps
from ample_crate.core.planning.sound_steps import SoundStep
from ample_crate.core.planning.steps import PictureFormat, PictureStep
from ample_crate.core.planning.streams import picture_after
from ample_crate.core.units.fields import FieldOrder
from ample_crate.media import filters, lowering, sound_lowering
from ample_crate.media.encoders.setup import pixels_of

FIELDS = PictureFormat(
    width=64,
    height=48,
    rate=Fraction(25),
    fields=FieldOrder.UPPER,
    colour="BT.601/625",
    chroma="4:2:2",
    depth=8,
)
PLAIN = FIELDS.having(fields=None, colour="BT.709")
LAID_OUT = steps.Samples(chroma="4:2:2", depth=10)


def kinds(union: Any) -> set[type]:
    return set(get_args(get_args(union)[0]))


def test_every_conversion_has_its_filters() -> None:
    assert kinds(PictureStep) == set(lowering.PICTURE)
    assert kinds(SoundStep) == set(sound_lowering.SOUND)


def through(source: PictureFormat, ordered: tuple[PictureStep, ...], count: int = 8) -> Any:
    """Run frames through steps: (frames, the format that the fold gives)."""
    stream = SimpleNamespace(time_base=1 / source.rate)
    chain = lowering.picture_chain(source, ordered)
    graph, made = None, []
    for number in range(count):
        frame = VideoFrame(source.width, source.height, pixels_of(source))
        for plane in frame.planes:
            plane.update(bytes([100] * plane.buffer_size))
        frame.pts = number
        graph = graph or filters.picture_graph(stream, frame, source, chain)
        made += graph.push(frame)
    return made + graph.push(None), picture_after(source, ordered)


@pytest.mark.parametrize(
    ("source", "ordered"),
    [
        (FIELDS, (steps.Deinterlace(every_field=True),)),
        (FIELDS, (steps.Deinterlace(every_field=False),)),
        (PLAIN, (steps.Retime(rate=Fraction(50)),)),
        (PLAIN, (steps.Turn(degrees=90),)),
        (PLAIN, (steps.Turn(degrees=180),)),
        (PLAIN, (steps.Crop(x=2, y=4, width=32, height=20),)),
        (PLAIN, (steps.Scale(width=32, height=40),)),
        (PLAIN, (steps.Pad(x=4, y=2, width=80, height=60),)),
        (PLAIN, (steps.PixelAspect(aspect=Fraction(64, 45)),)),
        (PLAIN, (LAID_OUT, steps.Colour(to="BT.601/525"))),
        (PLAIN, (steps.Interlace(first=FieldOrder.LOWER),)),
        (PLAIN, (steps.SegmentedFrames(first=FieldOrder.UPPER),)),
        (PLAIN.having(full_range=True), (steps.ToLimitedRange(),)),
    ],
    ids=lambda value: " ".join(s.kind for s in value) if isinstance(value, tuple) else "",
)
def test_frames_come_out_as_the_fold_says(
    source: PictureFormat, ordered: tuple[PictureStep, ...]
) -> None:
    frames, told = through(source, ordered)
    assert {(f.width, f.height) for f in frames} == {told.size}
    assert {f.format.name for f in frames} == {pixels_of(told)}
    assert {bool(f.interlaced_frame) for f in frames} == {told.fields is not None}
    # A moment more or less at the ends is for the writer to settle.
    assert abs(len(frames) / told.rate - 8 / source.rate) <= 1 / source.rate


def samples(plane: VideoPlane) -> np.ndarray:
    """Give the samples of a plane of more than 8 bits, without what fills up its lines."""
    lines = np.frombuffer(bytes(plane), np.uint16).reshape(plane.height, -1)
    return lines[:, : plane.width].ravel()


def test_transparency_goes_by_while_colour_is_converted() -> None:
    """The same colours with transparency and without; every level of it comes out as it went in."""
    opaque = PictureFormat(width=32, height=32, rate=Fraction(25), chroma="4:4:4", depth=10)
    ordered = (steps.Samples(chroma="4:4:4", depth=10, alpha=True), steps.Colour(to="BT.601/625"))
    levels = np.arange(32 * 32, dtype=np.uint16) % 1024
    results = []
    for source, way in ((opaque, ordered[1:]), (opaque.having(alpha=True), ordered)):
        frame = VideoFrame(32, 32, pixels_of(source))
        for plane, value in zip(frame.planes, (300, 600, 700, None), strict=False):
            data = levels if value is None else np.full(32 * 32, value, np.uint16)
            plane.update(data.tobytes())
        frame.pts = 0
        stream = SimpleNamespace(time_base=Fraction(1, 25))
        graph = filters.picture_graph(stream, frame, source, lowering.picture_chain(source, way))
        (made,) = graph.push(frame) + graph.push(None)
        results.append([samples(p) for p in made.planes])
    plain, clear = results
    assert all(np.array_equal(a, b) for a, b in zip(plain, clear, strict=False))
    assert np.array_equal(clear[3], levels)
    assert clear[0][0] != 300, "something was converted"


@pytest.mark.parametrize("base", [Fraction(1, 25), Fraction(1, 12800), Fraction(1001, 30000)])
@pytest.mark.parametrize("start", [0, -2, 1000])
def test_every_frame_meets_the_other_picture_whatever_its_time(start: int, base: Fraction) -> None:
    """Tables and backgrounds come as one frame of another source."""
    frames = [VideoFrame(64, 32, "yuva444p10le") for _ in range(4)]
    source = PictureFormat(
        width=64,
        height=32,
        rate=Fraction(25),
        colour="BT.2020",
        transfer="PQ",
        chroma="4:4:4",
        depth=10,
        alpha=True,
    )
    ordered = (steps.Flatten(over="white"), steps.ToneMap(transfer="PQ", peak=1000))
    chain = lowering.picture_chain(source, ordered)
    graph, made = None, []
    for number, frame in enumerate(frames):
        for plane in frame.planes:
            plane.update(bytes([100]) * plane.buffer_size)
        frame.pts, frame.time_base = start + number, base
        if graph is None:
            graph = filters.picture_graph(SimpleNamespace(time_base=base), frame, source, chain)
        made += graph.push(frame)
    assert graph is not None
    made += graph.push(None)
    assert len(made) == 4 and len({bytes(one.planes[0]) for one in made}) == 1
