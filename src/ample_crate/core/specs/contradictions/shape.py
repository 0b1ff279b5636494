"""Checks on the shape of the picture: pixel and display aspect, lines above it, the part inside
bars, blocks.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from fractions import Fraction

from ... import formats
from ...facts.properties import lookup
from ...units import geometry
from ...units.values import Size
from .view import Contradiction, View


def _shape(view: View) -> Iterator[Contradiction]:
    size, shape, pixel = (
        view.only("picture.size"),
        view.only("picture.display_aspect"),
        view.only("picture.pixel_aspect"),
    )
    codec = view.codec
    if size is not None and shape is not None and pixel is not None:
        lines = formats.picture_of(codec, size).height
        widths = {view.spec.coding.active_width or size.width, size.width}
        right = {geometry.pixel_aspect(shape, width, lines) for width in widths}
        if pixel not in right:
            fit = geometry.pixel_aspect(shape, view.spec.coding.active_width or size.width, lines)
            yield view.against(
                "shape",
                f"Pixels of {_ratio(pixel)} do not make {size} a picture of {_ratio(shape)}.",
                f"{_ratio(shape)} over {view.spec.coding.active_width or size.width} samples and "
                f"{lines} lines makes pixels of {_ratio(fit)}.",
                ("picture.pixel_aspect", "picture.size", "picture.display_aspect"),
                f"Ask for pixels of {_ratio(fit)}.",
                {"picture.pixel_aspect": {"is": _ratio(fit)}},
            )
    shapes = view.able.shapes if view.able is not None else None
    if shapes is not None and pixel not in {None, 1} and size is not None and shape is None:
        yield view.against(
            "shape carried",
            f"{view.called} does not carry a pixel aspect.",
            "It carries the display aspect; a file asked with 16:11 reads back as 64:45.",
            ("picture.pixel_aspect", "picture.codec"),
            "Ask for the display aspect instead, and say in the coding over how many samples it "
            "is spread.",
            {
                "picture.pixel_aspect": None,
                "picture.display_aspect": {
                    "is": "16:9" if geometry.display_aspect(size, pixel) > Fraction(3, 2) else "4:3"
                },
            },
        ).doubtful()
    if (
        shapes is not None
        and shape is not None
        and shape not in shapes
        and (size is None or Fraction(size.width, size.height) != shape)
    ):
        yield view.against(
            "shape carried",
            f"{view.called} cannot say a display aspect of {_ratio(shape)}.",
            "It knows square pixels, 4:3, 16:9 and 2.21:1 (ISO/IEC 13818-2 Table 6-3).",
            ("picture.display_aspect", "picture.codec"),
            "Ask for 4:3 or 16:9.",
            {"picture.display_aspect": {"one_of": ["4:3", "16:9"]}},
        )


def _interval(view: View) -> Iterator[Contradiction]:
    size, asked = view.only("picture.size"), view.only("picture.interval_lines")
    if size is None or asked is None or view.codec is None:
        return
    there = formats.interval_lines(view.codec, size)
    if asked != there:
        with_lines = view.able.interval if view.able is not None else {}
        taller = next(
            (
                str(s)
                for s, lines in with_lines.items()
                if lines == asked and s == Size(size.width, size.height + lines)
            ),
            None,
        )
        yield view.against(
            "interval lines",
            f"{view.called} of {size} has {there or 'no'} lines above the picture; {asked} are "
            f"asked.",
            "The vertical interval lies in MPEG-2 of 720x608 or 720x512, 32 lines of it (SMPTE ST "
            "356).",
            ("picture.interval_lines", "picture.size", "picture.codec"),
            f"Ask for {taller}." if taller else f"Ask for {there} lines.",
            {"picture.size": {"is": taller}}
            if taller
            else {"picture.interval_lines": {"is": there}},
        )


def _inside(view: View) -> Iterator[Contradiction]:
    """Hold the part of the frame that is meant to be seen, or is not black, against the frame."""
    size = view.only("picture.size")
    for key in ("picture.active", "picture.clean_aperture"):
        text = view.only(key)
        parts = [Fraction(n) for n in re.findall(r"\d+(?:\.\d+)?", text or "")]
        if size is None or len(parts) not in {2, 4}:
            continue
        width, height, left, top = (*parts, Fraction(0), Fraction(0))[:4]
        if left + width > size.width or top + height > size.height:
            yield view.against(
                "part of the frame",
                f"The {lookup(key).label} of {text} does not lie inside {size}.",
                "It is a part of the frame's own samples.",
                (key, "picture.size"),
                "Leave it out.",
                {key: None},
            )
    shape, least, most = (
        view.only("picture.display_aspect"),
        view.low("picture.active_aspect"),
        view.high("picture.active_aspect"),
    )
    apart = shape is not None and (
        (least is not None and least * geometry.BAR_SHARE > shape)
        or (most is not None and most < shape * geometry.BAR_SHARE)
    )
    if view.only("picture.bars") is False and apart:
        yield view.against(
            "bars",
            f"No bars may stand beside the picture, and yet its shape is not the frame's "
            f"{_ratio(shape)}.",
            "A picture of another shape than its frame has bars.",
            ("picture.bars", "picture.active_aspect", "picture.display_aspect"),
            "Allow bars.",
            {"picture.bars": {"is": True}},
        )


def _ratio(value: Fraction) -> str:
    return f"{value.numerator}:{value.denominator}"


def _blocks(view: View) -> Iterator[Contradiction]:
    chroma, scan = view.only("picture.chroma"), view.only("motion.scan")
    for size in view.sizes:
        wide, high = view.able.block if view.able is not None else (1, 1)
        if size.width % wide or size.height % high:
            width, height = -(-size.width // wide) * wide, -(-size.height // high) * high
            yield view.against(
                "blocks",
                f"{view.called} works in blocks of {wide} x {high}; {size} is no multiple of it.",
                "Players show a torn edge or refuse the file.",
                ("picture.size", "picture.codec"),
                f"Ask for a width in steps of {wide} and a height in steps of {high}.",
                {"picture.size": {"is": f"{width}x{height}"}},
            )
        step = 4 if chroma == "4:2:0" and scan == "interlaced" else 2 if chroma == "4:2:0" else 1
        across = 2 if chroma in {"4:2:0", "4:2:2"} else 1
        if size.height % step or size.width % across:
            wide = -(-size.width // across) * across
            high = -(-size.height // step) * step
            yield view.against(
                "blocks",
                f"{size} cannot be {chroma}{' in fields' if step == 4 else ''}.",
                f"Its chroma samples stand for {across} x {step} samples of the frame.",
                ("picture.size", "picture.chroma", "motion.scan"),
                f"Ask for a width in steps of {across} and a height in steps of {step}.",
                {"picture.size": {"is": f"{wide}x{high}"}},
            )


CHECKS = (_shape, _interval, _inside, _blocks)
