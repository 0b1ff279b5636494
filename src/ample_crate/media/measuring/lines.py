"""What the lines of a picture show of its fields, whatever the header says."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame

from .grids import eight

Luma = npt.NDArray[np.int16]
# Of true fields one order fits clearly better than the other, hardly worse than the frame's own
# lines fit each other.
ORDER_RATIO, FIELDS_FIT_WITHIN = 1.15, 2.6
# Of whole frames both orders fit alike, and worse than the frame's own lines do. What is neither
# tells nothing (rain, fades).
ALIKE_WITHIN, WHOLE_FITS_BETTER = 1.04, 1.25
STILL = "still"


def luma(frame: VideoFrame, columns: int = 4) -> Luma:
    """Give every `columns`-th column of a frame's luma (height x width/columns), all lines kept, at
    8-bit scale.
    """
    if frame.format.is_rgb or frame.format.is_bit_stream or len(frame.format.components) == 0:
        frame = frame.reformat(format="gray")
    component, plane = frame.format.components[0], frame.planes[0]
    data = np.frombuffer(memoryview(plane), np.uint16 if component.bits > 8 else np.uint8)
    step = 1
    if frame.format.name in {"yuyv422", "uyvy422"}:
        step = 2
    rows = data.reshape(frame.height, -1)[:, : frame.width * step : columns * step]
    return eight(rows, component.bits)


def columns(frame: VideoFrame) -> npt.NDArray[np.int32]:
    """Give the brightest luma of every column over each eighth line, at 8-bit scale."""
    if frame.format.is_rgb or frame.format.is_bit_stream or len(frame.format.components) == 0:
        frame = frame.reformat(format="gray")
    component, plane = frame.format.components[0], frame.planes[0]
    data = np.frombuffer(memoryview(plane), np.uint16 if component.bits > 8 else np.uint8)
    step = 2 if frame.format.name in {"yuyv422", "uyvy422"} else 1
    rows = data.reshape(frame.height, -1)[::8, : frame.width * step : step]
    made: npt.NDArray[np.int32] = rows.max(axis=0).astype(np.int32)
    return made >> (component.bits - 8) if component.bits > 8 else made


class Judged(NamedTuple):
    """What a triple of frames shows, of which the first has this number; "still" where nothing
    moves, None where it tells nothing.
    """

    number: int
    what: str | None


def judged(before: Luma, now: Luma, after: Luma, number: int = 0) -> Judged:
    """Judge one triple of frames, of which the first has this number.

    The lines of one parity from the frame before, and from the frame after, are laid between this
    frame's lines of the other parity; the nearer in time, the better they fit.
    """
    odd_before, odd_after, even_before, even_after = (
        _misfit(now, before, 1),
        _misfit(now, after, 1),
        _misfit(now, before, 0),
        _misfit(now, after, 0),
    )
    own = _misfit(now, now, 1) + _misfit(now, now, 0)
    # Upper first means that in time lower(before) < upper(now) < lower(now) < upper(after), half a
    # frame apart: the upper lines of `after` and the lower lines of `before` then fit, the others
    # are three times further off.
    upper_first = even_after + odd_before
    lower_first = even_before + odd_after
    change = float(np.abs(before - after).mean())
    if change < 0.3 or min(upper_first, lower_first) == 0:
        return Judged(number, STILL)
    best, worst = min(upper_first, lower_first), max(upper_first, lower_first)
    if worst > ORDER_RATIO * best and best < FIELDS_FIT_WITHIN * own:
        return Judged(number, "upper first" if upper_first == best else "lower first")
    whole = worst < ALIKE_WITHIN * best and best > WHOLE_FITS_BETTER * own
    return Judged(number, "whole frames" if whole else None)


class FieldMeter:
    """Collects evidence of field order from triples of successive frames."""

    def __init__(self) -> None:
        self.upper = self.lower = self.whole = self.still = 0
        self.looks: list[tuple[int, str]] = []

    def take(self, seen: Judged) -> None:
        """Take up what a triple shows."""
        self.upper += seen.what == "upper first"
        self.lower += seen.what == "lower first"
        self.whole += seen.what == "whole frames"
        self.still += seen.what == STILL
        if seen.what not in (None, STILL):
            self.looks.append((seen.number, seen.what))

    def changes(self) -> list[tuple[int, str]]:
        """Give where what the lines show turns: (frame of the first look, what it shows); one look
        alone turns nothing.
        """
        found: list[tuple[int, str]] = []
        for place, (number, what) in enumerate(self.looks):
            nearby = self.looks[place + 1 : place + 2]
            steady = bool(nearby) and nearby[0][1] == what
            if (not found or found[-1][1] != what) and steady:
                found.append((number, what))
        return found

    @property
    def verdict(self) -> str | None:
        """Give "upper first", "lower first", "whole frames", or None where nothing moves enough to
        tell.
        """
        seen = self.upper + self.lower + self.whole
        if seen < 2:
            return None
        fields = self.upper + self.lower
        if fields >= 0.5 * seen and max(self.upper, self.lower) >= 4 * min(self.upper, self.lower):
            return "upper first" if self.upper > self.lower else "lower first"
        if self.whole >= 0.8 * seen:
            return "whole frames"
        return None


def _misfit(frame: Luma, other: Luma, parity: int) -> float:
    """Sum how badly `other`'s lines of a parity fit between their neighbours in `frame`."""
    start = 2 if parity == 0 else 1
    middle = other[start:-1:2]
    return float(
        np.abs(
            frame[start - 1 : -2 : 2][: len(middle)]
            + frame[start + 1 :: 2][: len(middle)]
            - 2 * middle
        ).sum(dtype=np.int64)
    )
