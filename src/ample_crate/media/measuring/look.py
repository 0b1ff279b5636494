"""What one frame shows by itself, or beside the one before it: worked out of sparse samples, away
from the frame, so that several can be looked at side by side.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame

from ...core.facts import Facts
from ...core.quality import alike
from ...core.quality.alike import Frames as Outline
from .grids import Grid, Samples, plane
from .opening import colour_bars

Numbers = npt.NDArray[Any]
Floats = npt.NDArray[np.floating]
# At 8-bit scale. A frame is black where all but one sample in 200 lie this little above black.
BLACK_ABOVE, BLACK_SHARE = 12, 0.995
# Two pictures are the same where they differ by less than this on average and hardly a sample by
# more than NOISE.
SAME_MEAN, NOISE, NOISE_SHARE = 0.5, 8, 0.0002
# EBU R 103: signals may go from -5 to 105 %, 5 to 246 of 8 bit.
LOWEST, HIGHEST = 5.0, 246.0
LUMA_WEIGHTS = {"BT.709": (0.2126, 0.0722), "BT.601": (0.299, 0.114), "BT.2020": (0.2627, 0.0593)}
CELLS = (15, 20)
LINES = 32  # of a picture that are worked on at once


@dataclass(frozen=True)
class Taken:
    """How samples are meant.

    Attributes:
        full: whether they use the full range.
        black: of luma.
        weights: of red and blue in luma.
    """

    full: bool
    black: int
    weights: tuple[float, float]


def taken(header: Facts) -> Taken:
    """Say how the samples of a file are meant, by its header."""
    full = header.value("picture.range") == "full"
    size = header.value("picture.size")
    usual = "BT.709" if size is not None and size.height > 576 else "BT.601"
    weights = LUMA_WEIGHTS.get(str(header.value("picture.matrix") or usual), LUMA_WEIGHTS[usual])
    return Taken(full, 0 if full else 16, weights)


@dataclass(frozen=True)
class Look:
    """What a frame shows.

    Attributes:
        black: whether it is.
        same: whether upper and lower lines are those of the frame before.
        barred: whether it is colour bars; None where it stands still.
        outside: share of the picture outside EBU R 103; None where that is not judged.
        brightness, redness: luminance and saturated red by cells; None for grey.
        outline: what it looks like in a few large cells (`core.quality.alike`).
        alpha: least and most, where it has that.
        spatial, temporal: ITU-T P.910, where they were asked for.
    """

    black: bool
    same: tuple[bool, bool]
    barred: bool | None
    outside: float | None
    brightness: Floats
    redness: Floats | None
    outline: Outline
    alpha: tuple[int, int] | None
    spatial: float | None
    temporal: float | None


@dataclass(frozen=True)
class Fine:
    """The whole luma of a frame, and of the one before it where they are to be compared."""

    luma: Numbers
    before: Numbers | None
    bits: int


def fine(frame: VideoFrame) -> tuple[Numbers, int] | None:
    """Take the whole luma of a frame and its bits; None where it is not laid out plainly."""
    name = frame.format.name
    if frame.height < 16 or not name.startswith(("yuv", "gray")) or name.endswith("be"):
        return None
    bits = frame.format.components[0].bits
    luma = plane(frame, 0)[:, : frame.width].astype(np.int16 if bits <= 12 else np.int32)
    return luma, bits


def look(seen: Grid, before: Samples | None, whole: Fine | None, how: Taken) -> Look:
    """Look at a frame.

    Args:
        seen: its sparse samples.
        before: luma of the frame before.
        whole: its whole luma, where its detail is asked for.
        how: how its samples are meant.
    """
    dark = np.count_nonzero(seen.luma <= how.black + BLACK_ABOVE)
    same = _still(seen.luma, before)
    outside, brightness, redness, outline = _levels(seen, how)
    return Look(
        bool(dark >= BLACK_SHARE * seen.luma.size),
        same,
        # What stands still is what it was.
        None if all(same) else colour_bars(seen),
        outside,
        brightness,
        redness,
        outline,
        None if seen.alpha is None else (int(seen.alpha.min()), int(seen.alpha.max())),
        *_detail(whole),
    )


def _still(luma: Samples, before: Samples | None) -> tuple[bool, bool]:
    if before is None or before.shape != luma.shape:
        return False, False
    apart = np.abs(luma - before)
    upper, lower = (_alike(apart[:, parity]) for parity in (0, 1))
    return upper, lower


def _alike(field: Samples) -> bool:
    strays = int(np.count_nonzero(field > NOISE))
    return float(field.mean()) < SAME_MEAN and strays <= NOISE_SHARE * field.size


def _levels(seen: Grid, how: Taken) -> tuple[float | None, Floats, Floats | None, Outline]:
    luma = seen.luma[:, 0, ::2]
    if seen.cb is None or seen.cr is None:
        grey = luma.astype(np.float32)
        return None, _brightness(grey), None, alike.means(grey)
    y = luma.astype(np.float32)
    cb, cr = seen.cb.astype(np.float32) - 128, seen.cr.astype(np.float32) - 128
    width = min(y.shape[1], cb.shape[1])
    y, cb, cr = y[:, :width], cb[:, :width], cr[:, :width]
    if how.full or seen.rgb:
        y = 16 + y * np.float32(219 / 255)
        cb, cr = cb * np.float32(224 / 255), cr * np.float32(224 / 255)
    red_share, blue_share = how.weights
    # ITU-R BT.709 and BT.601, from quantised levels: the colour difference spans 224 codes, luma
    # 219.
    scale = 219 / 224
    r = y + cr * np.float32(2 * (1 - red_share) * scale)
    b = y + cb * np.float32(2 * (1 - blue_share) * scale)
    g = (y - np.float32(red_share) * r - np.float32(blue_share) * b) * np.float32(
        1 / (1 - red_share - blue_share)
    )
    outside = None if seen.rgb else _outside(y, r, g, b)
    # Green hardly depends on how a matrix is told, as luma does.
    return outside, _brightness(y), _redness(r, g, b), alike.means(g)


def _outside(y: Floats, r: Floats, g: Floats, b: Floats) -> float:
    low = np.minimum(np.minimum(r, g), np.minimum(b, y))
    high = np.maximum(np.maximum(r, g), np.maximum(b, y))
    # Half a code of rounding in each part moves R'G'B' by up to two codes.
    return float(np.count_nonzero((low < LOWEST - 2) | (high > HIGHEST + 2)) / low.size)


def _brightness(y: Floats) -> Floats:
    """Give luminance of a display at 200 cd/m2 from 8-bit luma: the curve that goes with ITU-R
    BT.1702 (from memory).
    """
    made: Floats = 413.435 * np.clip(0.002745 * cells(y) + 0.0189623, 0, None) ** 2.2
    return made


def _redness(r: Floats, g: Floats, b: Floats) -> Floats:
    """Give a saturated red: R/(R+G+B) of 0.8 or more; a change of (R-G-B) x 320 by more than 20
    counts (ITU-R BT.1702, from memory).
    """
    r, g, b = (np.clip((cells(c) - 16) / 219, 0, 1) ** 2.2 for c in (r, g, b))
    total = r + g + b
    made: Floats = np.where(r >= 0.8 * total, np.clip((r - g - b) * 320, 0, None), 0)
    return made


def cells(samples: Floats) -> Floats:
    """Give the means of CELLS cells over the picture."""
    rows, columns = max(1, samples.shape[0] // CELLS[0]), max(1, samples.shape[1] // CELLS[1])
    high, wide = samples.shape[0] // rows, samples.shape[1] // columns
    cut = samples[: high * rows, : wide * columns]
    # Lines first: whole ones are added fastest.
    lines = cut.reshape(high, rows, wide * columns).sum(axis=1)
    made: Floats = lines.reshape(high, wide, columns).sum(axis=2) / np.float32(rows * columns)
    return made


def _detail(whole: Fine | None) -> tuple[float | None, float | None]:
    """Give spatial information of a frame that stands alone, temporal of one beside another."""
    if whole is None:
        return None, None
    scale = 2 ** (whole.bits - 8)
    if whole.before is None:
        return _deviation(_edges(part) for part in _parts(whole.luma, 2)) / scale, None
    pairs = zip(_parts(whole.luma), _parts(whole.before), strict=True)
    return None, _deviation((one - other).astype(np.float32) for one, other in pairs) / scale


def _parts(luma: Numbers, more: int = 0) -> Iterator[Numbers]:
    """Give a picture some lines at a time, with so many more: as many as a processor keeps near."""
    for first in range(0, len(luma) - more, LINES):
        yield luma[first : first + LINES + more]


def _edges(luma: Numbers) -> Floats:
    """Give how steep each sample is by Sobel's two tables."""
    smooth = luma[:-2] + 2 * luma[1:-1] + luma[2:]
    across = (smooth[:, 2:] - smooth[:, :-2]).astype(np.float32)
    step = luma[2:] - luma[:-2]
    down = (step[:, :-2] + 2 * step[:, 1:-1] + step[:, 2:]).astype(np.float32)
    across *= across
    down *= down
    across += down
    made: Floats = np.sqrt(across, out=across)
    return made


def _deviation(parts: Iterable[Floats]) -> float:
    """Give the standard deviation over all parts."""
    count, total, squares = 0, 0.0, 0.0
    for part in parts:
        flat = part.ravel()
        count += flat.size
        total += float(flat.sum(dtype=np.float64))
        squares += float(np.dot(flat, flat))
    mean = total / count
    return math.sqrt(max(0.0, squares / count - mean * mean))
