"""Brings what stands around a programme to its writers: pictures, and a tone or silence."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from fractions import Fraction

import numpy as np
from av.audio.frame import AudioFrame
from av.video.frame import VideoFrame

from ..core.planning.leader import PITCH, Kind
from ..core.planning.plan import Plan
from ..core.planning.sound_steps import SoundFormat
from .branches import Making
from .feeds import Report
from .sound_lowering import SoundTaken
from .standing import drawn
from .writers import SAMPLE_TYPES, PictureWriter, SoundWriter, Writer

EACH = 25  # frames that are written at once


def stands(plan: Plan, places: Iterable[int]) -> Iterator[VideoFrame]:
    """Give the pictures that stand at some places around a programme."""
    known: dict[Kind, VideoFrame] = {}
    picture = plan.picture
    for place in places:
        kind = plan.around.standing(place, plan.frames)
        if kind is None or picture is None:
            return
        if kind not in known:
            known[kind] = drawn(kind, picture.format, plan.around.lines)
        yield known[kind]


def leads(
    plan: Plan, writers: Mapping[int, Writer], by: Making, report: Report
) -> Iterator[Fraction]:
    """Write what stands before a programme, and give how many seconds are wanting to it, below
    0.
    """
    around, picture = plan.around, plan.picture
    if picture is None:
        return
    rate = picture.format.rate
    yield -plan.lead
    for begin in range(0, around.first, EACH):
        places = range(begin, min(around.first, begin + EACH))
        by.do(_write, plan, writers, places)
        report(places.stop / rate)
        yield places.stop / rate - plan.lead


def follows(plan: Plan, writers: Mapping[int, Writer], by: Making) -> None:
    """Write what stands after a programme."""
    last = plan.frames
    for begin in range(last - plan.around.after, last, EACH):
        by.do(_write, plan, writers, range(begin, min(last, begin + EACH)))


def _write(plan: Plan, writers: Mapping[int, Writer], places: range) -> None:
    for frame in stands(plan, places):
        for writer in writers.values():
            if isinstance(writer, PictureWriter):
                writer.write(frame)
    picture = plan.picture
    assert picture is not None
    bars = plan.around.standing(places[-1], plan.frames) == "bars"
    for number, writer in writers.items():
        stream = plan.streams[number]
        if isinstance(writer, SoundWriter):
            rate = stream.format.sample_rate  # type: ignore[union-attr]
            end = round(places.stop / picture.format.rate * rate)
            _sound(writer, end, plan.around.tone if bars else None)


def _sound(writer: SoundWriter, end: int, tone: int | None) -> None:
    if tone is None:
        writer.silence_until(Fraction(end, writer.format.sample_rate))
        return
    writer.write(tone_of(writer.format, writer.takes, writer.samples, end, tone))


def tone_of(f: SoundFormat, takes: SoundTaken, begin: int, end: int, level: int) -> AudioFrame:
    """Give a tone from one sample to before another, on all channels.

    Args:
        f: of the track.
        takes: what its encoder takes.
        begin, end: samples counted from the start of the file.
        level: dBFS of a sine's peak.
    """
    at = np.arange(begin, end) * (2 * np.pi * PITCH / f.sample_rate)
    wave = 10 ** (level / 20) * np.sin(at)
    kind = np.dtype(SAMPLE_TYPES[takes.sample_format])
    if kind.kind == "i":
        wave = np.rint(wave * (2 ** (8 * kind.itemsize - 1) - 1))
    rows = np.tile(wave.astype(kind), (f.channels, 1))
    shaped = rows if takes.sample_format.endswith("p") else rows.T.reshape(1, -1)
    frame = AudioFrame.from_ndarray(
        np.ascontiguousarray(shaped), format=takes.sample_format, layout=takes.layout
    )
    frame.sample_rate = f.sample_rate
    return frame
