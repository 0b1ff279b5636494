"""What coding leaves where a picture was smooth: steps at the borders of blocks, and gentle slopes
that became flat.

Runs inside the child process.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame

BLOCK = 8  # samples: transforms of most codecs, and of H.264 and VP9 the multiples of smaller ones
# What is no step: where hardly anything is, a ratio says nothing. In steps of 8 bit.
LEAST = 0.05
# How much a block's mean differs from the next one's where a picture slopes gently, in steps of
# 8 bit: less is flat by itself, more is an edge.
GENTLE = (0.25, 4.0)
LEAST_AREA = 0.01  # of the picture, that slopes gently, for a figure
Samples = npt.NDArray[Any]


class Seams(NamedTuple):
    """How much is as it was: 1 is all of it.

    Attributes:
        blocks: steps within blocks over those at their borders, against the same of what went in.
        gradients: the part of what slopes gently that did not become flat.
    """

    blocks: float
    gradients: float


def seams(wanted: VideoFrame, made: VideoFrame) -> Seams:
    """Hold the luma of a frame, as it was made, against what went in; both are grey, of one size
    and depth.
    """
    pair = _samples(wanted), _samples(made)
    step = float(2 ** (wanted.format.components[0].bits - 8))
    return Seams(_blocks(*pair, step), _gradients(*pair, step))


def _samples(frame: VideoFrame) -> Samples:
    plane = frame.planes[0]
    wide = np.uint8 if frame.format.components[0].bits == 8 else np.uint16
    lines = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
    taken = lines[: frame.height].view(wide)[:, : frame.width]
    # Whole blocks, from the first column and line on.
    across, down = frame.width // BLOCK * BLOCK, frame.height // BLOCK * BLOCK
    return taken[:down, :across]


def _blocks(wanted: Samples, made: Samples, step: float) -> float:
    """Columns alone: of two fields in a frame the lines of a block lie apart or not."""
    return float(min(1.0, _excess(wanted, step) / _excess(made, step)))


def _excess(samples: Samples, step: float) -> float:
    """Say how much larger steps are across the borders of blocks than within."""
    steps = np.abs(np.diff(samples.astype(np.int32), axis=1)).mean(axis=0) / step
    border = np.zeros(len(steps), bool)
    border[BLOCK - 1 :: BLOCK] = True
    if not border.any():
        return 1.0
    return float((steps[border].mean() + LEAST) / (steps[~border].mean() + LEAST))


def _gradients(wanted: Samples, made: Samples, step: float) -> float:
    before, after = (_in_blocks(one) for one in (wanted, made))
    means = before.mean(axis=(1, 3)) / step
    slopes = np.abs(np.diff(means, axis=1))
    gentle = np.zeros(means.shape, bool)
    gentle[:, :-1] = (slopes >= GENTLE[0]) & (slopes < GENTLE[1])
    if gentle.mean() < LEAST_AREA:
        return 1.0
    flat = [(np.ptp(one, axis=(1, 3)) == 0)[gentle].mean() for one in (before, after)]
    return float(1 - max(0.0, flat[1] - flat[0]))


def _in_blocks(samples: Samples) -> Samples:
    down, across = (size // BLOCK for size in samples.shape)
    return samples.reshape(down, BLOCK, across, BLOCK)
