"""Pixel aspects, and fitting one picture shape into another.

Sources: ITU-T H.264 Table E-1 (sample aspect ratios) and ITU-R BT.601, which
samples 525- and 625-line pictures at 13.5 MHz and itself defines no pixel aspect.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal, NamedTuple

from ..errors import BadValue, Impossible
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

    def __str__(self) -> str:
        return f"{self.width} x {self.height} + {self.x} + {self.y}"

    def holds(self, other: Rect) -> bool:
        """Say whether another lies within this one."""
        return other.within(self) == other

    def within(self, other: Rect) -> Rect:
        """Give the part that lies within another."""
        x, y = max(self.x, other.x), max(self.y, other.y)
        right = min(self.x + self.width, other.x + other.width)
        bottom = min(self.y + self.height, other.y + other.height)
        return Rect(x, y, max(0, right - x), max(0, bottom - y))

    def shape(self, aspect: Fraction) -> Fraction:
        """Give width by height as shown, with pixels of an aspect."""
        return display_aspect(Size(self.width, self.height), aspect)


WRITTEN = re.compile(r"\s*(\d+)\s*x\s*(\d+)\s*\+\s*(\d+)\s*\+\s*(\d+)\s*")


def read_rect(text: str) -> Rect:
    """Read a rectangle as it is written: width x height + left + top.

    Raises:
        BadValue: it is none.
    """
    figures = WRITTEN.fullmatch(text)
    if figures is None:
        raise BadValue(
            f"'{text}' is no part of a picture.",
            "Write width x height + left + top, such as 1920 x 800 + 0 + 140.",
        )
    width, height, x, y = map(int, figures.groups())
    return Rect(x, y, width, height)


class Alignment(NamedTuple):
    """Steps in which columns and lines are counted."""

    columns: int = 2
    lines: int = 2


PAIRS = Alignment()


class Frame(NamedTuple):
    """A frame: its stored size and its pixel aspect."""

    size: Size
    aspect: Fraction = Fraction(1)


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


def _part(value: Fraction, step: int, whole: int) -> int:
    """Round a side of a part to its step, no longer than the whole."""
    return min(_side(value, step), max(whole - whole % step, 1))


def _even(value: Fraction, step: int) -> int:
    return round(value / step) * step


def fit(
    source: Frame,
    target: Frame,
    framing: Framing,
    active_width: int | None = None,
    alignment: Alignment = PAIRS,
) -> Fit:
    """Fit a source frame into a target frame, keeping circles round.

    Args:
        source: the frame that is there.
        target: the frame that is asked for.
        framing: "pad" adds bars, "crop" cuts to fill, "stretch" gives up on circles.
        active_width: samples that the spec spreads the shape over (704 or 702 of 720); the rest is
        black.
        alignment: what is cut and placed comes in its steps: lines by 4 for interlaced 4:2:0, where
        an odd step swaps chroma fields.

    Raises:
        Impossible: a frame has no area.
    """
    (size, aspect), inside = source, target.size
    if min(*size, *inside) < 2 or aspect <= 0 or target.aspect <= 0:
        raise Impossible("A frame without area cannot be fitted.", "Check the sizes and aspects.")
    width = active_width or inside.width
    whole = Rect(0, 0, *size)
    left = _even(Fraction(inside.width - width, 2), alignment.columns)
    inner = Rect(left, 0, width, inside.height)
    if framing == "stretch":
        return Fit(whole, inner, inside)
    have = display_aspect(size, aspect)
    want = display_aspect(Size(width, inside.height), target.aspect)
    # Half a sample of shape cannot be placed: 702 of 720 against 16:9 must not give a one-line bar.
    if abs(have / want - 1) < Fraction(1, 250):
        return Fit(whole, inner, inside)
    if framing == "pad":
        return Fit(whole, _padded(inner, have / want, alignment), inside)
    return Fit(cut(whole, have / want, alignment), inner, inside)


def _padded(inner: Rect, wider: Fraction, alignment: Alignment) -> Rect:
    """Place a picture that is `wider` times as wide in shape as the frame, with bars about it."""
    if wider > 1:
        height = _side(inner.height / wider, alignment.lines)
        top = _even(Fraction(inner.height - height, 2), alignment.lines)
        return Rect(inner.x, top, inner.width, height)
    narrow = _side(inner.width * wider, alignment.columns)
    left = inner.x + _even(Fraction(inner.width - narrow, 2), alignment.columns)
    return Rect(left, 0, narrow, inner.height)


def cut(part: Rect, wider: Fraction, alignment: Alignment = PAIRS) -> Rect:
    """Cut a part of a picture that is `wider` times as wide in shape as what is wanted to that
    shape, about its middle.
    """
    if wider > 1:
        width = _part(part.width / wider, alignment.columns, part.width)
        left = part.x + _even(Fraction(part.width - width, 2), alignment.columns)
        return Rect(left, part.y, width, part.height)
    height = _part(part.height * wider, alignment.lines, part.height)
    top = part.y + _even(Fraction(part.height - height, 2), alignment.lines)
    return Rect(part.x, top, part.width, height)
