"""Tells a cut between two frames from motion, however fast."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame

WIDTH = 96  # samples that are searched
BLOCK = 8
REACH = 8  # samples of those, each way: a twelfth of the picture's width a frame
# A pair of frames is a cut where so much less of the one is found in the other than in the pairs
# beside it; or nearly nothing. Both were set by made-up scenes: of pans, zooms and turns 0.01 to
# 0.21 of the deviation remains, of one picture after another 0.46 or more.
LESS = 1.5
NOTHING_FOUND = 0.35  # of the deviation of the picture's own samples
GRAIN = 0.5  # code value: what remains of any pair
BRIGHTER = 4  # times: more contrast than that is no fade

Grey = npt.NDArray[np.float32]


@dataclass(frozen=True)
class Pair:
    """What remains between two frames once motion is followed.

    Attributes:
        rest: mean difference of the second frame's blocks from the nearest in the first.
        contrast: deviation of the second frame's samples.
    """

    rest: float = 0
    contrast: float = 0


def small(frame: VideoFrame) -> Grey:
    """Give the luma of a frame, made small and soft."""
    rows = round(frame.height * WIDTH / frame.width / BLOCK)
    made = frame.reformat(
        width=WIDTH, height=BLOCK * max(2, rows), format="gray", interpolation="AREA"
    )
    return _soft(made.to_ndarray().astype(np.float32))


def _soft(grey: Grey) -> Grey:
    """Blur a picture by a sample: else what moves by half of one is found nowhere."""
    for _ in range(4):  # rows, columns, and again
        around = np.pad(grey, ((1, 1), (0, 0)), mode="edge")
        grey = ((around[:-2] + 2 * grey + around[2:]) / np.float32(4)).T
    return grey


def pair(before: Grey, after: Grey) -> Pair:
    """Measure two small frames."""
    rows, columns = after.shape
    blocks = (rows // BLOCK, BLOCK, columns // BLOCK, BLOCK)
    around = np.pad(_faded(before, after), REACH, mode="edge")
    nearest = np.full((blocks[0], blocks[2]), np.inf, np.float32)
    for down in range(2 * REACH + 1):
        for right in range(2 * REACH + 1):
            there = around[down : down + rows, right : right + columns]
            apart = np.abs(there - after).reshape(blocks).mean(axis=(1, 3))
            np.minimum(nearest, apart, out=nearest)
    return Pair(float(nearest.mean()), float(after.std()))


def _faded(before: Grey, after: Grey) -> Grey:
    """Give a picture as light and as rich in contrast as the next: a fade is no cut."""
    gain = float(after.std()) / max(float(before.std()), GRAIN)
    faded: Grey = (before - before.mean()) * min(gain, BRIGHTER) + after.mean()
    return faded


def is_cut(one: Pair, before: Pair, after: Pair) -> bool:
    """Tell whether a pair is a cut, by the pairs before and after it."""
    beside = max(before.rest, after.rest)
    unlike = one.rest > NOTHING_FOUND * one.contrast + GRAIN
    return unlike or one.rest > LESS * (beside + GRAIN)
