"""Each conversion of a picture as filters of the codec library: one entry a type."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from itertools import accumulate
from types import MappingProxyType
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.formats.pixels import RGB
from ..core.planning import steps
from ..core.planning.steps import PictureFormat, PictureStep
from ..core.units import tone_mapping
from ..core.units.fields import FieldOrder
from ..core.units.tone_mapping import Floats
from .encoders.setup import colour_names, pixels_of

Samples16 = NDArray[np.uint16]


@dataclass(frozen=True)
class BesideAlpha:
    """Filters that know no transparency, run on colour alone: the transparency of the frames that
    go in is laid over what comes out.
    """

    chain: Chain
    pixels: str


@dataclass(frozen=True)
class ThroughTable:
    """Every colour of R'G'B' of 16 bit looked up in a table, between whose entries it lies.

    Attributes:
        colours: a cube in its order, red running fastest: see `tone_mapping.table`.
    """

    colours: Floats


@dataclass(frozen=True)
class OverBackground:
    """R'G'B' of 16 bit with transparency laid over a picture.

    Attributes:
        background: rows x columns x 3, as large as the frames.
    """

    background: Samples16


Chain = list[tuple[str, str] | BesideAlpha | ThroughTable | OverBackground]
# By degrees anticlockwise.
TURNS: dict[int, Chain] = {
    90: [("transpose", "cclock")],
    180: [("hflip", ""), ("vflip", "")],
    270: [("transpose", "clock")],
}
# The colour conversion's own names of sets.
COLOUR_SETS = {
    "BT.709": "bt709",
    "BT.601/625": "bt601-6-625",
    "BT.601/525": "bt601-6-525",
    "BT.2020": "bt2020",
}


def picture_chain(
    source: PictureFormat,
    ordered: tuple[PictureStep, ...],
    stills: Mapping[int, Samples16] = MappingProxyType({}),
) -> Chain:
    """Give the filters of steps in order, and those that have frames say what they are.

    Args:
        source: the picture that comes in.
        ordered: the steps.
        stills: pictures of other inputs that it is laid over, by their place in the plan.
    """
    formats = list(accumulate(ordered, lambda f, step: step.after(f), initial=source))
    # The scaler refuses curves that it does not know, though it is asked to change none.
    chain: Chain = [("setparams", "color_trc=unknown")] if source.transfer else []
    for step, before in zip(ordered, formats[:-1], strict=True):
        if isinstance(step, steps.Flatten) and step.still is not None:
            chain += _laid(step, before, stills[step.still.input])
            continue
        chain += PICTURE[type(step)](step, before)
    return chain + _named(formats[-1])


def _named(f: PictureFormat) -> Chain:
    matrix, primaries, transfer = colour_names(f)
    matrix = "gbr" if f.chroma == RGB else matrix
    levels = "full" if f.full_range else "limited"
    modes = {None: "prog", FieldOrder.UPPER: "tff", FieldOrder.LOWER: "bff"}
    colour = f"colorspace={matrix}:color_primaries={primaries}:color_trc={transfer}"
    aspect = f.sample_aspect
    return [
        ("format", pixels_of(f)),
        ("setparams", f"field_mode={modes[f.fields]}:range={levels}:{colour}"),
        ("setsar", f"sar={aspect.numerator}/{aspect.denominator}:max=10000"),
    ]


def _deinterlace(step: steps.Deinterlace, before: PictureFormat) -> Chain:
    parity = _first(before.fields)
    mode = "send_field" if step.every_field else "send_frame"
    return [("setfield", parity), ("bwdif", f"mode={mode}:parity={parity}:deint=all")]


def _undo_pulldown(step: steps.UndoPulldown, before: PictureFormat) -> Chain:
    parity = _first(before.fields)
    eight = before.having(depth=steps.FIELDS_MATCHED_IN)
    return [
        ("format", pixels_of(eight)),
        ("setfield", parity),
        ("fieldmatch", f"order={parity}"),
        ("decimate", "cycle=5"),
    ]


def _first(fields: FieldOrder | None) -> str:
    return "bff" if fields is FieldOrder.LOWER else "tff"


def _retime(step: steps.Retime, before: PictureFormat) -> Chain:
    return [("fps", f"fps={step.rate.numerator}/{step.rate.denominator}:round=near")]


def _to_limited_range(step: steps.ToLimitedRange, before: PictureFormat) -> Chain:
    return [("scale", "in_range=full:out_range=limited")]


def _hold(step: steps.Hold, before: PictureFormat) -> Chain:
    """Give nothing: what comes out last is written again and again."""
    return []


def _to_full_range(step: steps.ToFullRange, before: PictureFormat) -> Chain:
    return [("scale", "in_range=limited:out_range=full")]


def _turn(step: steps.Turn, before: PictureFormat) -> Chain:
    return TURNS[step.degrees]


def _crop(step: steps.Crop, before: PictureFormat) -> Chain:
    return [("crop", f"{step.width}:{step.height}:{step.x}:{step.y}:exact=1")]


def _scale(step: steps.Scale, before: PictureFormat) -> Chain:
    how = "flags=lanczos+accurate_rnd+full_chroma_int"
    return [("scale", f"{step.width}:{step.height}:{how}")]


def _pad(step: steps.Pad, before: PictureFormat) -> Chain:
    colour = "black@0" if before.alpha else "black"
    return [("pad", f"{step.width}:{step.height}:{step.x}:{step.y}:color={colour}")]


def _lines_above(step: steps.LinesAbove, before: PictureFormat) -> Chain:
    return [("pad", f"{before.width}:{before.height + step.lines}:0:{step.lines}:color=black")]


def _colour(step: steps.Colour, before: PictureFormat) -> Chain:
    if not step.converts:
        return []
    ends = (COLOUR_SETS.get(name, "bt709") for name in (before.colour, step.to))
    source, target = ends
    pixels = pixels_of(before.having(alpha=False))
    plain = pixels.removesuffix("le")
    change: Chain = [
        (
            "colorspace",
            f"iall={source}:all={target}:irange=tv:range=tv:format={plain}:fast=0",
        )
    ]
    if not before.alpha:
        return change
    return [BesideAlpha([("format", pixels), *change, ("format", pixels)], pixels_of(before))]


TABLE_STEPS = 100  # the side of its picture is a whole number: a thousand


def _tone_map(step: steps.ToneMap, before: PictureFormat) -> Chain:
    to_rgb = steps.Samples(chroma=RGB, depth=16, alpha=before.alpha)
    colours = tone_mapping.table(step.transfer, float(step.peak), TABLE_STEPS)
    return [*_samples(to_rgb, before), ThroughTable(colours)]


# The scaler's own names of matrices.
MATRICES = {"BT.709": "bt709", "BT.601": "bt601", "BT.2020": "bt2020"}
PRECISE = "flags=bicubic+accurate_rnd+full_chroma_int+full_chroma_inp"


# The scaler takes 255 steps of 256 for white in R'G'B' of more than 8 bit where it turns Y'CbCr
# into it, or the other way about (measured; tests hold the outcome).
WHITE, SCALERS, MADE = 65535, 65280, 65283


def _samples(step: steps.Samples, before: PictureFormat) -> Chain:
    after = step.after(before)
    laid: Chain = [("format", pixels_of(after))]
    from_rgb, to_rgb = before.chroma == RGB, after.chroma == RGB
    if from_rgb and to_rgb:
        return [*(_sixteen_bit(before) if after.depth > before.depth else []), *laid]
    if not (from_rgb or to_rgb):
        return laid
    # Left alone, the scaler takes the matrix of standard definition whatever the picture says.
    matrix = MATRICES.get(before.matrix, "bt709")
    if to_rgb:
        levels = f"in_range={'full' if before.full_range else 'limited'}:out_range=full"
        made: Chain = [("scale", f"in_color_matrix={matrix}:{levels}:{PRECISE}")]
        if after.depth > 8:
            made += [("format", _wide(after)), _times(WHITE, MADE)]
        return [*made, *laid]
    deep = [*_sixteen_bit(before), _times(SCALERS, WHITE)] if before.depth > 8 else []
    levels = "in_range=full:out_range=limited"
    return [*deep, ("scale", f"out_color_matrix={matrix}:{levels}:{PRECISE}"), *laid]


def _wide(f: PictureFormat) -> str:
    return pixels_of(f.having(chroma=RGB, depth=16))


def _sixteen_bit(before: PictureFormat) -> Chain:
    """Give R'G'B' of 16 bit: of 8 it is made by way of 10, for the scaler's own is none."""
    if before.depth > 8:
        return [("format", _wide(before))]
    ten = "gbrap10le" if before.alpha else "gbrp10le"
    return [("format", ten), ("format", _wide(before)), _times(1023, 4 * 255)]


def _times(over: int, under: int) -> tuple[str, str]:
    gained = f"val*{over}/{under}"
    return ("lutrgb", ":".join(f"{channel}='min({gained},maxval)'" for channel in "rgb"))


CHECK = 16  # samples of a side of a checker's square (common practice)
GREYS = (0x66, 0x99)


def _flatten(step: steps.Flatten, before: PictureFormat) -> Chain:
    return _laid(step, before, background(step.over, before.width, before.height))


def _laid(step: steps.Flatten, before: PictureFormat, picture: Samples16) -> Chain:
    wide = steps.Samples(chroma=RGB, depth=16, alpha=True)
    after = step.after(before)
    back = steps.Samples(chroma=after.chroma, depth=after.depth)
    laid = wide.after(before).having(alpha=False)
    return [*_samples(wide, before), OverBackground(picture), *_samples(back, laid)]


def background(over: str, width: int, height: int) -> Samples16:
    """Draw what transparency is laid over: rows x columns x 3, of 16 bit."""
    if over == "checker":
        rows, columns = np.indices((height, width)) // CHECK
        squares = np.where((rows + columns) % 2, *GREYS)
        return np.repeat(squares[..., None] * 257, 3, axis=2).astype(np.uint16)
    text = {"black": "#000000", "white": "#ffffff"}.get(over, over)
    colour = [int(text[at : at + 2], 16) * 257 for at in (1, 3, 5)]
    return np.full((height, width, 3), colour, np.uint16)


def _unpremultiply(step: steps.Unpremultiply, before: PictureFormat) -> Chain:
    # Told nothing, the library takes it to be straight, and multiplies before it divides.
    return [("setparams", "alpha_mode=premultiplied"), ("unpremultiply", "inplace=1")]


def _interlace(step: steps.Interlace, before: PictureFormat) -> Chain:
    """Take alternate lines of successive frames after a vertical low-pass of 1-2-1, which keeps
    thin lines from flickering.
    """
    first = _first(step.first)
    weave = "bottom" if step.first is FieldOrder.LOWER else "top"
    kernel = "0 1 0 0 2 0 0 1 0"
    soften = ":".join(f"{n}m={kernel}:{n}rdiv=0.25" for n in range(3))
    # separatefields gives, of frames A and B, A's first, A's second, B's first, B's second field:
    # keep 0 and 3.
    return [
        ("convolution", soften),
        ("setfield", first),
        ("separatefields", ""),
        ("select", r"not(mod(n\,4))+not(mod(n-3\,4))"),
        ("weave", f"first_field={weave}"),
        ("setfield", first),
    ]


def _shift_line(step: steps.ShiftLine, before: PictureFormat) -> Chain:
    """Move the picture by a line: the lines that were shown first become the other field's, still
    first. One line at the edge is that beside it.
    """
    assert before.fields is not None
    other = {FieldOrder.LOWER: "bff", FieldOrder.UPPER: "tff"}
    return [("setfield", other[before.fields]), ("fieldorder", other[step.first])]


def _nothing(step: object, before: PictureFormat) -> Chain:
    """Change no sample: what frames are called is said at the end of the chain."""
    return []


PICTURE: dict[type[Any], Callable[[Any, PictureFormat], Chain]] = {
    steps.ToLimitedRange: _to_limited_range,
    steps.ToFullRange: _to_full_range,
    steps.Deinterlace: _deinterlace,
    steps.UndoPulldown: _undo_pulldown,
    steps.Retime: _retime,
    steps.Blend: _nothing,
    steps.Compensate: _nothing,
    steps.Legalise: _nothing,
    steps.Hold: _hold,
    steps.Turn: _turn,
    steps.Crop: _crop,
    steps.LinesAbove: _lines_above,
    steps.Scale: _scale,
    steps.Pad: _pad,
    steps.PixelAspect: _nothing,
    steps.Colour: _colour,
    steps.ToneMap: _tone_map,
    steps.Unpremultiply: _unpremultiply,
    steps.Flatten: _flatten,
    steps.Samples: _samples,
    steps.Interlace: _interlace,
    steps.ShiftLine: _shift_line,
    steps.SegmentedFrames: _nothing,
}
