"""What stands before the programme: black, colour bars, a slate."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from .grids import Grid

# Rows are alike, and samples side by side of one colour, within this at 8-bit scale.
ALIKE = 6
# of the picture: eight bars are an eighth each, seven between flanks of an eighth three
# twenty-eighths
LEAST_WIDTH = 0.06
# Yellow, cyan, green, magenta, red, blue: signs of Cb and Cr about 128, in BT.601 and BT.709 alike,
# from the order that ITU-R BT.471 and SMPTE RP 219 share. White before them and black after them
# may be there or not.
SIGNS = ((-1, 1), (1, -1), (-1, -1), (1, 1), (-1, 1), (1, -1))
LEAST_COLOUR = 4  # codes off 128: the yellow of 75 % bars has Cr at 134 in BT.709


def colour_bars(seen: Grid) -> bool:
    """Say whether the upper half of a picture is colour bars: six upright stripes of falling luma
    in the standard order.
    """
    if seen.cb is None or seen.cr is None or seen.luma.shape[0] < 8:
        return False
    half = seen.luma.shape[0] // 2
    # The first rows are left out: lines above the picture, or half a line of blanking, may stand
    # there.
    parts = [p[half // 4 : half].astype(np.int16) for p in (seen.luma[:, 0, ::2], seen.cb, seen.cr)]
    width = min(p.shape[1] for p in parts)
    parts = [p[:, :width] for p in parts]
    middle = [p[len(p) // 2] for p in parts]
    for whole, row in zip(parts, middle, strict=True):
        # Coding rings about the edges of a stripe; a sample in twenty may stray.
        if np.count_nonzero(np.abs(whole - row) > ALIKE) > whole.size / 20:
            return False
    stripes = _stripes(np.stack(middle))
    return any(_in_order(stripes[i : i + len(SIGNS)]) for i in range(len(stripes) - len(SIGNS) + 1))


def _stripes(row: np.ndarray) -> list[np.ndarray]:
    """Give the mean colour (luma, Cb, Cr) of each run of like samples that is wide enough."""
    steps = np.abs(np.diff(row, axis=1)).max(axis=0) > ALIKE
    edges = [0, *(np.flatnonzero(steps) + 1).tolist(), row.shape[1]]
    least = LEAST_WIDTH * row.shape[1]
    return [row[:, a:b].mean(axis=1) for a, b in itertools.pairwise(edges) if b - a >= least]


def _in_order(stripes: list[np.ndarray]) -> bool:
    lumas = [float(s[0]) for s in stripes]
    if any(b >= a for a, b in itertools.pairwise(lumas)):
        return False
    return all(
        cb_sign * (float(s[1]) - 128) >= LEAST_COLOUR
        and cr_sign * (float(s[2]) - 128) >= LEAST_COLOUR / 2
        for s, (cb_sign, cr_sign) in zip(stripes, SIGNS, strict=True)
    )


@dataclass(frozen=True)
class Opening:
    """How many frames of what stand at the start, before the picture moves.

    Attributes:
        leader: all of them.
        bars: of them, colour bars.
        slate: of them, a standing picture that is neither black nor colour bars.
    """

    leader: int
    bars: int
    slate: int


def opening(
    black: list[tuple[int, int]], frozen: list[tuple[int, int]], barred: list[bool]
) -> Opening:
    """Sort the frames at the start that are black or stand still, in stretches that follow each
    other.
    """
    end = bars = slate = 0
    for first, last in sorted(black + frozen):
        if first > end:
            break
        if (first, last) in frozen:
            fresh = barred[max(first, end) : last + 1]
            bars += sum(fresh)
            slate += len(fresh) - sum(fresh)
        end = max(end, last + 1)
    return Opening(end, bars, slate)
