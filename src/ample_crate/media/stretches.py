"""Stretches of what a plan makes, each coded by several quantisers and held against what went in.
Runs inside the child process.
"""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from dataclasses import dataclass, field
from io import BytesIO
from typing import Any

import av
from av.container import InputContainer, OutputContainer
from av.video.frame import PictureType, VideoFrame

from ..core import quality
from ..core.errors import BadMedia
from ..core.planning.plan import Plan
from ..core.planning.streams import MadePicture
from . import encoders, reference, wrappers
from .measuring.likeness import LikenessMeter
from .read import decoder, packets, picture_stream

LOOKED_AT = 10  # frames of a stretch that are compared; the first leads in
# Stretches that are coded at once: few frames keep an encoder's own threads busy badly.
MOST_AT_ONCE = 4
# Of the frames that all of them hold; encoder, decoder and meters hold about as much again.
MOST_HELD = 2**30  # bytes
PIXEL = 4  # bytes at most: 4:2:2 of 16 bit
Told = Callable[[dict[str, Any]], None]


def handle(
    progress: Told, inputs: Sequence[str], stretches: Sequence[Sequence[dict[str, Any]]]
) -> dict[str, Any]:
    """Code stretches, each by several quantisers.

    Args:
        progress: told how far it is.
        inputs: paths of the plans' inputs.
        stretches: of each the plans (`planning.sampled`), as JSON, which differ in their quantiser.

    Returns:
        {points}: of each stretch, of each plan {rate, figures, seconds}: b/s, as a film has it
        whose key frames come as seldom as planned; the mean of each measure; and what coding took.
    """
    every = [[Plan.model_validate(plan) for plan in plans] for plans in stretches]
    rate = _picture(every[0][0]).format.rate
    going = _Going(progress, sum(map(len, every)), float(rate))

    def points(known: Sequence[Plan]) -> list[dict[str, Any]]:
        frames = _frames(known[0], inputs)
        return [_point(plan, frames, going) for plan in known]

    with ThreadPoolExecutor(_at_once(every[0][0])) as pool:
        return {"points": list(pool.map(points, every))}


def _at_once(plan: Plan) -> int:
    """Say how many stretches may be coded at once."""
    f = _picture(plan).format
    held = plan.alone.frames * f.width * f.height * PIXEL
    return max(1, min(MOST_AT_ONCE, len(os.sched_getaffinity(0)), MOST_HELD // held))


@dataclass
class _Going:
    """Tells how far it is, with each sign of life, from whichever thread.

    Attributes:
        progress: is told.
        points: how many there are to find.
        rate: frames a second.
        found: how many are found.
        frames: that were coded.
    """

    progress: Told
    points: int
    rate: float
    found: int = 0
    frames: int = 0
    began: float = field(default_factory=time.monotonic)
    _turn: threading.Lock = field(default_factory=threading.Lock)

    def tell(self, frames: int = 0, points: int = 0) -> None:
        """Count what was done besides, and tell."""
        with self._turn:
            self._tell(frames, points)

    def _tell(self, frames: int, points: int) -> None:
        self.frames += frames
        self.found += points
        elapsed, share = time.monotonic() - self.began, self.found / self.points
        self.progress(
            {
                "stage": "sample",
                "frame": self.frames,
                "speed": self.frames / self.rate / elapsed if elapsed else 0.0,
                "elapsed": elapsed,
                "remaining": elapsed / share - elapsed if share else None,
                "share": share,
                "final": points > 0,
            }
        )


def _picture(plan: Plan) -> MadePicture:
    if not isinstance(plan.picture, MadePicture):
        raise BadMedia("The route makes no picture.", "Ask for one that does.")
    return plan.picture


def _frames(plan: Plan, inputs: Sequence[str]) -> list[VideoFrame]:
    with closing(reference.frames(_picture(plan), plan, inputs)) as every:
        frames = list(every)
    if not frames:
        raise BadMedia("A part of the master gives no picture.", "Look at its end.")
    return frames


@dataclass(frozen=True)
class _Weights:
    """How much the first frame of a stretch, a key frame, and each of the others stand for in a
    film whose key frames come every `gop` frames at least.
    """

    frames: int
    gop: int

    def mean(self, first: float, rest: float) -> float:
        """Give the mean over the film's frames; `rest` is the sum over the others."""
        if self.frames == 1 or self.gop == 1:
            return (first + rest) / self.frames
        seldom = 1 / max(self.gop, self.frames)
        return seldom * first + (1 - seldom) * rest / (self.frames - 1)


def _looked_at(frames: int) -> range:
    """Choose which frames of a stretch are compared: some in a row, behind the key frame."""
    count = min(frames, LOOKED_AT)
    start = (frames - count + 1) // 2
    return range(start, start + count)


def _point(plan: Plan, frames: Sequence[VideoFrame], going: _Going) -> dict[str, Any]:
    made = _picture(plan)
    assert made.rated is not None
    weights = _Weights(len(frames), made.rated.gop)
    meter, sizes, count = LikenessMeter(made.format.rate), [], 0
    looked = _looked_at(len(frames))
    began = time.monotonic()
    file = _coded(made, frames, going)
    took = time.monotonic() - began
    with av.open(file) as container:
        assert isinstance(container, InputContainer)
        stream = picture_stream(container)
        if stream is None:
            raise BadMedia("The encoder gave no picture.", "Ask for another codec.")
        decode, wanted = decoder(stream), iter(frames)
        for packet in packets(container, stream):
            if packet is None:
                continue
            if packet.size:
                sizes.append(packet.size)
            for frame in decode(packet):
                before = next(wanted)
                if looked.start <= count < looked.stop:
                    meter.take(before, frame)
                count += 1
                going.tell()
    curves = meter.curves()
    figures = {key: quality.figures(curves[key][-LOOKED_AT + 1 :]).mean for key in quality.HEADLINE}
    size = weights.mean(sizes[0], sum(sizes[1:]))
    going.tell(points=1)
    return {"rate": 8 * size * float(made.format.rate), "figures": figures, "seconds": took}


def coded(plan: Plan, inputs: Sequence[str]) -> BytesIO:
    """Code a stretch of what a plan makes (`planning.sampled`): a file in memory."""
    made = _picture(plan)
    going = _Going(lambda told: None, 1, float(made.format.rate))
    return _coded(made, _frames(plan, inputs), going)


def _coded(made: MadePicture, frames: Sequence[VideoFrame], going: _Going) -> BytesIO:
    file = BytesIO()
    with av.open(file, "w", format=wrappers.TAKES_ALL) as container:
        assert isinstance(container, OutputContainer)
        coder = encoders.picture(made).open(container, made.format, None)
        for number, frame in enumerate(frames):
            frame.pts, frame.time_base = number, 1 / made.format.rate
            frame.pict_type = PictureType.NONE
            container.mux(list(coder.encode(frame)))
            going.tell(frames=1)
        container.mux(list(coder.encode(None)))
    file.seek(0)
    return file
