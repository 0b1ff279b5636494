"""The part of the master's picture that goes out, where a person chose one."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction

from .. import formats
from ..errors import BadValue
from ..facts import Facts
from ..units import geometry
from ..units.geometry import Alignment, Frame, Rect
from ..units.values import Size

REGION = "region"
LEAST = 16  # samples and lines: a block of the common codecs
# Shapes that are cut to, as width by height (common practice).
SHAPES: Mapping[str, Fraction] = {
    "9:16": Fraction(9, 16),
    "1:1": Fraction(1),
    "4:3": Fraction(4, 3),
    "14:9": Fraction(14, 9),
    "16:9": geometry.WIDE,
    "1.85:1": Fraction(185, 100),
    "2.39:1": Fraction(239, 100),
}
# Luma samples that share one chroma sample, across.
ACROSS = {"4:1:1": 4}


def alignment_of(chroma: str, fields: bool = False) -> Alignment:
    """Give the steps in which a picture may be cut or set without moving chroma against luma, or
    lines from one field to the other: whole pairs, four samples of 4:1:1, and with fields of 4:2:0
    four lines.
    """
    return Alignment(ACROSS.get(chroma, 2), 4 if fields and chroma == "4:2:0" else 2)


def picture_of(master: Facts) -> Rect | None:
    """Give the part of an upright master's frame that is picture: all of it, but for lines with
    vertical-interval data. None of sound alone.
    """
    size: Size | None = master.value("picture.size")
    if size is None:
        return None
    above = formats.interval_lines(master.value("picture.codec"), size)
    return Rect(0, above, size.width, size.height - above)


def region_of(master: Facts, text: str) -> Rect | None:
    """Read a region, and make sure that it can be cut out of a master.

    Args:
        master: facts of what is delivered of it (`programme.of`).
        text: "width x height + left + top", in samples of the upright frame; "" for all.

    Raises:
        BadValue: it is none, lies outside, or would move chroma against luma.
    """
    if not text:
        return None
    region, picture = geometry.read_rect(text), picture_of(master)
    if picture is None:
        raise BadValue("The master has no picture.", "Choose no region.")
    if not picture.holds(region):
        raise BadValue(
            f"{region} does not lie within the picture, {picture}.",
            f"Choose a part of it, such as {picture}.",
        )
    alignment = alignment_of(str(master.value("picture.chroma") or ""))
    near = snapped(region, picture, alignment)
    if near != region:
        raise BadValue(
            f"{region} would move colour against brightness, or is too small: columns come in "
            f"steps of {alignment.columns}, lines of {alignment.lines}, and it has at least "
            f"{LEAST} of each.",
            f"Choose {near}.",
        )
    return region


def snapped(region: Rect, picture: Rect, alignment: Alignment) -> Rect:
    """Give the region next to one that lies within the picture and comes in whole steps."""
    left, width = _side(region.x - picture.x, region.width, picture.width, alignment.columns)
    top, height = _side(region.y - picture.y, region.height, picture.height, alignment.lines)
    return Rect(picture.x + left, picture.y + top, width, height)


def _side(at: int, long: int, room: int, step: int) -> tuple[int, int]:
    """Bring a place and a length to whole steps; a picture's own odd end is kept."""
    long = room if long >= room else min(_near(max(long, LEAST), step), room - room % step)
    most = room - long
    at = max(0, min(at, most))
    return (_near(at, step) if _near(at, step) <= most else at - at % step), long


def _near(value: int, step: int) -> int:
    return (value + step // 2) // step * step


def active_of(master: Facts, alignment: Alignment) -> Rect | None:
    """Give the measured picture inside black bars, brought inwards to whole steps, where there are
    bars.
    """
    text, picture = master.value("picture.active"), picture_of(master)
    turned = int(master.value("picture.rotation") or 0) % 360
    if not text or picture is None or turned or not master.value("picture.bars"):
        return None
    inside = geometry.read_rect(str(text)).within(picture)
    left, right = _inwards(inside.x - picture.x, inside.width, alignment.columns)
    top, bottom = _inwards(inside.y - picture.y, inside.height, alignment.lines)
    if right - left < LEAST or bottom - top < LEAST:
        return None
    return Rect(picture.x + left, picture.y + top, right - left, bottom - top)


def _inwards(at: int, long: int, step: int) -> tuple[int, int]:
    return -(-at // step) * step, (at + long) // step * step


def frame_of(master: Facts) -> Frame:
    """Give an upright master's frame: its size and its pixel aspect."""
    return Frame(
        master.value("picture.size"), master.fraction("picture.pixel_aspect") or Fraction(1)
    )


def parts(master: Facts, frame: Fraction | None) -> dict[str, Rect]:
    """List parts of an upright master's picture that offer themselves, by name: all of it, what is
    inside bars, and the shapes that are cut to.

    Args:
        master: facts of what is delivered of it; it has a picture.
        frame: the shape of the frame asked for, width by height; None where that is not known.
    """
    picture = picture_of(master)
    if picture is None:
        return {}
    alignment = alignment_of(str(master.value("picture.chroma") or ""))
    aspect, active = frame_of(master).aspect, active_of(master, alignment)
    inside = active or picture
    found = {"all of the picture": picture}
    if active is not None:
        found["inside the bars"] = active
    shapes = ({} if frame is None else {"the frame's shape": frame}) | dict(SHAPES)
    return found | {
        name: shaped(inside, aspect, shape, alignment) for name, shape in shapes.items()
    }


def shaped(inside: Rect, aspect: Fraction, shape: Fraction, alignment: Alignment) -> Rect:
    """Give the largest region of a shape amid a part of the picture.

    Args:
        inside: the part.
        aspect: the pixel aspect.
        shape: width by height, as shown.
        alignment: steps that it is brought to.
    """
    wider = inside.shape(aspect) / shape
    return geometry.cut(inside, wider, alignment)
