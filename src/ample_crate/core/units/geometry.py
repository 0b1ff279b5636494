"""Pixel aspects, and fitting one picture shape into another.

Sources: ITU-T H.264 Table E-1 (sample aspect ratios) and ITU-R BT.601, which
samples 525- and 625-line pictures at 13.5 MHz and itself defines no pixel aspect.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from ..errors import Impossible
from .values import Size

WIDE = Fraction(16, 9)
# ITU-T H.264 Table E-1, aspect_ratio_idc 1..16 (from memory; checked in tests/outside against the
# library's own table).
TABLE_E_1: dict[int, Fraction] = {
    1: Fraction(1), 2: Fraction(12, 11), 3: Fraction(10, 11), 4: Fraction(16, 11),
    5: Fraction(40, 33), 6: Fraction(24, 11), 7: Fraction(20, 11), 8: Fraction(32, 11),
    9: Fraction(80, 33), 10: Fraction(18, 11), 11: Fraction(15, 11), 12: Fraction(64, 33),
    13: Fraction(160, 99), 14: Fraction(4, 3), 15: Fraction(3, 2), 16: Fraction(2),
}  # fmt: skip

Framing = Literal["pad", "crop", "stretch"]


def pixel_aspect(display_aspect: Fraction, active_width: int, lines: int) -> Fraction:
    """Give the pixel aspect that spreads a display aspect over the active samples of a line.

    720x576 at 16:9 is 64:45 over 720 samples, 16:11 over 704 and 512:351 over 702.

    Args:
        display_aspect: the shape of the active picture.
        active_width: samples of a line that the shape is spread over.
        lines: active lines.
    """
    return display_aspect * lines / active_width


def display_aspect(size: Size, aspect: Fraction) -> Fraction:
    """Give the shape of the whole stored frame as shown."""
    return Fraction(size.width, size.height) * aspect


BAR_SHARE = Fraction(97, 100)
"""Less of a side than this that is not black is bars; the blanking of 702 in 720 samples is none
(common practice).
"""


@dataclass(frozen=True)
class Rect:
    """A rectangle in samples, from the top left."""

    x: int
    y: int
    width: int
    height: int


@dataclass(frozen=True)
class Fit:
    """How a source frame is put into a target frame: cut `crop` out of it, scale to `place`, fill
    the rest.
    """

    crop: Rect
    place: Rect
    target: Size

    @property
    def bars(self) -> bool:
        """Say whether the target has bars."""
        return (self.place.width, self.place.height) != tuple(self.target)


def _side(value: Fraction, step: int) -> int:
    """Round a side to its step; it never vanishes."""
    return max(step, _even(value, step))


def _even(value: Fraction, step: int) -> int:
    return round(value / step) * step


def fit(
    source: Size,
    source_aspect: Fraction,
    target: Size,
    target_aspect: Fraction,
    framing: Framing,
    active_width: int | None = None,
    line_step: int = 2,
) -> Fit:
    """Fit a source frame into a target frame, keeping circles round.

    Args:
        source: stored size of the source.
        source_aspect: its pixel aspect.
        target: stored size of the target.
        target_aspect: its pixel aspect.
        framing: "pad" adds bars, "crop" cuts to fill, "stretch" gives up on circles.
        active_width: samples that the spec spreads the shape over (704 or 702 of 720); the rest is
        black.
        line_step: rows come in this step: 4 for interlaced 4:2:0, where an odd step swaps chroma
        fields.

    Raises:
        Impossible: a frame has no area.
    """
    if min(*source, *target) < 2 or source_aspect <= 0 or target_aspect <= 0:
        raise Impossible("A frame without area cannot be fitted.", "Check the sizes and aspects.")
    width = active_width or target.width
    whole = Rect(0, 0, *source)
    inner = Rect(_even(Fraction(target.width - width, 2), 2), 0, width, target.height)
    if framing == "stretch":
        return Fit(whole, inner, target)
    have = display_aspect(source, source_aspect)
    want = display_aspect(Size(width, target.height), target_aspect)
    # Half a sample of shape cannot be placed: 702 of 720 against 16:9 must not give a one-line bar.
    if abs(have / want - 1) < Fraction(1, 250):
        return Fit(whole, inner, target)
    if framing == "pad":
        if have > want:
            height = _side(Fraction(inner.height) * want / have, line_step)
            top = _even(Fraction(inner.height - height, 2), line_step)
            return Fit(whole, Rect(inner.x, top, inner.width, height), target)
        narrow = _side(Fraction(inner.width) * have / want, 2)
        left = inner.x + _even(Fraction(inner.width - narrow, 2), 2)
        return Fit(whole, Rect(left, 0, narrow, inner.height), target)
    if have > want:
        width_cut = _side(source.width * want / have, 2)
        return Fit(
            Rect(_even(Fraction(source.width - width_cut, 2), 2), 0, width_cut, source.height),
            inner,
            target,
        )
    height_cut = _side(source.height * have / want, line_step)
    top_cut = _even(Fraction(source.height - height_cut, 2), line_step)
    return Fit(Rect(0, top_cut, source.width, height_cut), inner, target)
