"""Stretches of what a plan makes, each coded by several quantisers and held against what went in.
Runs inside the child process.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from contextlib import closing
from dataclasses import dataclass
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
        {points}: of each stretch, of each plan {rate, figures}: b/s, as a film has it whose key
        frames come as seldom as planned, and the mean of each measure.
    """
    found, began = [], time.monotonic()
    for number, plans in enumerate(stretches):
        known = [Plan.model_validate(plan) for plan in plans]
        frames = _frames(known[0], inputs)
        found.append([_point(plan, frames, progress) for plan in known])
        elapsed, share = time.monotonic() - began, (number + 1) / len(stretches)
        left = elapsed / share - elapsed
        told = {"stage": "sample", "frame": number + 1, "share": share, "elapsed": elapsed}
        progress({**told, "speed": 0.0, "remaining": left, "final": True})
    return {"points": found}


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


def _point(plan: Plan, frames: Sequence[VideoFrame], progress: Told) -> dict[str, Any]:
    made = _picture(plan)
    assert made.rated is not None
    weights = _Weights(len(frames), made.rated.gop)
    meter, sizes, count = LikenessMeter(made.format.rate), [], 0
    looked = _looked_at(len(frames))
    file = _coded(made, frames, progress)
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
                progress({"stage": "sample"})
    curves = meter.curves()
    figures = {key: quality.figures(curves[key][-LOOKED_AT + 1 :]).mean for key in quality.HEADLINE}
    size = weights.mean(sizes[0], sum(sizes[1:]))
    return {"rate": 8 * size * float(made.format.rate), "figures": figures}


def _coded(made: MadePicture, frames: Sequence[VideoFrame], progress: Told) -> BytesIO:
    file = BytesIO()
    with av.open(file, "w", format=wrappers.TAKES_ALL) as container:
        assert isinstance(container, OutputContainer)
        coder = encoders.picture(made).open(container, made.format, None)
        for number, frame in enumerate(frames):
            frame.pts, frame.time_base = number, 1 / made.format.rate
            frame.pict_type = PictureType.NONE
            container.mux(list(coder.encode(frame)))
            progress({"stage": "sample"})
        container.mux(list(coder.encode(None)))
    file.seek(0)
    return file
