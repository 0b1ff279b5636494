"""The frame: cut, scaled and set into the size and shape that are asked for."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import cast

from ..units import geometry
from ..units.geometry import Alignment, Rect
from ..units.values import Size
from .notes import NOTHING, Notes, caution, in_all, step
from .region import region_of
from .request import Request, positive
from .steps import Crop, LinesAbove, Pad, PictureFormat, PictureStep, Scale

WORDS = {
    "pad": "Bars are added",
    "crop": "The edges are cut",
    "stretch": "The picture is stretched",
}


@dataclass(frozen=True)
class Seen:
    """What a person chose of the frame.

    Attributes:
        region: the part of the master's picture that goes out; "" for all of it.
        framing: pad, crop or stretch.
    """

    region: str
    framing: str


@dataclass(frozen=True)
class Framing:
    """What is done to the frame, with the colour in between, and at the end; and the pixel aspect
    that is asked for.
    """

    steps: tuple[PictureStep, ...]
    bars: tuple[PictureStep, ...]
    above: tuple[PictureStep, ...]
    aspect: Fraction
    notes: Notes


def plan_framing(
    request: Request,
    have: PictureFormat,
    size: Size,
    above: int,
    alignment: Alignment,
    seen: Seen,
) -> Framing:
    """Plan how the master's frame becomes the one asked for.

    Args:
        request: what is planned.
        have: the upright master's picture.
        size: the frame asked for.
        above: of its lines, those with vertical-interval data above the picture.
        alignment: what is cut and placed comes in its steps.
        seen: what is chosen of the frame.

    Raises:
        BadValue: the region that was chosen cannot be cut out of the master.
    """
    size = Size(size.width, size.height - above)
    aspect = _pixel_aspect(request, size)
    region = region_of(request.master, seen.region)
    same = above and have.above == above and have.picture_size == size
    if same and region is None and have.fields is not None:
        return Framing((), (), (), aspect, _kept(above))
    interval = have.above
    part = region or Rect(0, interval, *have.picture_size)
    source = geometry.Frame(Size(part.width, part.height), have.pixel_aspect)
    framing = cast(geometry.Framing, seen.framing)
    fitted = geometry.fit(
        source,
        geometry.Frame(size, aspect),
        framing,
        request.spec.coding.active_width,
        alignment,
    )
    crop = fitted.crop
    fitted = replace(fitted, crop=replace(crop, x=crop.x + part.x, y=crop.y + part.y))
    notes = in_all(
        _interval(interval),
        _part(region, have.picture_size),
        _resized(source.size, size, aspect),
        _reshaped(fitted, source, aspect, framing),
        _made(above),
    )
    added = (LinesAbove(lines=above),) if above else ()
    return Framing(_steps(fitted, have.size), _bars(fitted), added, aspect, notes)


def _pixel_aspect(request: Request, size: Size) -> Fraction:
    """Settle the pixel aspect: the one asked for, or the one that gives the shape asked for."""
    spec, values = request.spec, request.values
    # A rule may say no value (that one be stated), and the master none either.
    asked = spec.requirement("picture.pixel_aspect") is not None
    pixel = values.get("picture.pixel_aspect") if asked else None
    if pixel is not None:
        return positive(Fraction(pixel), "pixel aspect")
    if spec.requirement("picture.display_aspect") is None:
        return Fraction(1)
    shape = values.get("picture.display_aspect")
    if shape is None:
        return Fraction(1)
    width = spec.coding.active_width or size.width
    aspect = geometry.pixel_aspect(positive(shape, "display aspect"), width, size.height)
    return positive(aspect, "pixel aspect")


def _steps(fitted: geometry.Fit, have: Size) -> tuple[PictureStep, ...]:
    crop, place = fitted.crop, fitted.place
    steps: list[PictureStep] = []
    if (crop.width, crop.height) != tuple(have):
        steps.append(Crop(x=crop.x, y=crop.y, width=crop.width, height=crop.height))
    if (crop.width, crop.height) != (place.width, place.height):
        steps.append(Scale(width=place.width, height=place.height))
    return tuple(steps)


def _bars(fitted: geometry.Fit) -> tuple[PictureStep, ...]:
    if not fitted.bars:
        return ()
    place, size = fitted.place, fitted.target
    return (Pad(x=place.x, y=place.y, width=size.width, height=size.height),)


def _part(region: Rect | None, whole: Size) -> Notes:
    if region is None:
        return NOTHING
    return step(
        f"{region.width}x{region.height} of {whole} taken",
        f"As chosen: from column {region.x} and line {region.y} on, counted from 0.",
        "picture.size",
        "picture.display_aspect",
    )


def _interval(lines: int) -> Notes:
    if not lines:
        return NOTHING
    return step(
        f"The {lines} lines above the picture are cut",
        "They carry vertical-interval data, not picture.",
        "picture.size",
    )


def _kept(lines: int) -> Notes:
    return step(
        f"The {lines} lines above the picture are kept",
        "They carry vertical-interval data, which the recipient's frame has too.",
        "picture.interval_lines",
    )


def _made(lines: int) -> Notes:
    if not lines:
        return NOTHING
    return step(
        f"{lines} black lines above the picture",
        "The recipient's frame has vertical-interval data there, of which the master has none; the "
        "picture is not touched.",
        "picture.size",
        "picture.interval_lines",
    )


def _resized(have: Size, size: Size, aspect: Fraction) -> Notes:
    if have == size:
        return NOTHING
    said = step(
        f"{have} to {size}",
        f"The spec's frame size, with pixels of {aspect.numerator}:{aspect.denominator} so "
        f"that circles stay round.",
        "picture.size",
        "picture.pixel_aspect",
    )
    if size.height <= have.height:
        return said
    return said + caution(
        "picture.size",
        "The picture is enlarged.",
        "No detail is gained; noise and edges grow softer.",
        f"{have} to {size}",
        "Ask for a larger master, or ask the recipient to take the size as it is.",
    )


def _reshaped(
    fitted: geometry.Fit, have: geometry.Frame, aspect: Fraction, framing: geometry.Framing
) -> Notes:
    crop = fitted.crop
    shape = geometry.display_aspect(have.size, have.aspect)
    want = geometry.display_aspect(fitted.target, aspect)
    cut = crop.width < have.size.width or crop.height < have.size.height
    if not (fitted.bars or cut or (framing == "stretch" and shape != want)):
        return NOTHING
    word = WORDS[framing]
    return step(
        word,
        f"What is taken is {float(shape):.3f}:1 and the frame {float(want):.3f}:1.",
        "picture.display_aspect",
    ) + caution(
        "picture.display_aspect",
        f"{word}, for the shapes differ.",
        "What is seen at the edges changes.",
        f"{float(shape):.3f}:1 into {float(want):.3f}:1",
        "Choose pad, crop or stretch in the framing, or another part of the picture.",
    )
