"""Brings levels within what television takes, softly: in the very samples that the encoder gets."""

from __future__ import annotations

from functools import cache, reduce
from typing import cast

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame

from ..core.planning.steps import PictureFormat
from ..core.units.code_values import BLACK, DIFFERENCE, LUMA, MIDDLE, WEIGHTS
from .standing import HALVED

Floats = npt.NDArray[np.float32]
Exact = npt.NDArray[np.float64]
Codes = npt.NDArray[np.unsignedinteger]

# EBU R 103: luma from -1 to 103 %, R'G'B' from -5 to 105 %; a little inside, for rounding.
LUMA_LOW, LUMA_HIGH = -0.01, 1.03
COLOUR_LOW, COLOUR_HIGH = -0.04, 1.04
KNEE = 0.98  # of luma, above which it is turned down more and more (common practice)


def legalised(frame: VideoFrame, f: PictureFormat) -> VideoFrame:
    """Bring a frame within EBU R 103; it is changed. What lies within, below the knee, stays as it
    is to the last bit.

    Args:
        frame: of luma and colour, in limited range.
        f: as the encoder gets it.
    """
    frame.make_writable()
    luma, *colours = (_plane(frame, n, f) for n in range(3))
    _, down = HALVED[f.chroma]
    own, top = luma[f.above :], f.above // down
    table = _table(f.depth)
    # Lines of the two fields have their own colour.
    apart = f.fields is not None and down == 2
    for field in (0, 1) if apart else (0,):
        each = 2 if apart else 1
        _take_back(own[field::each], [c[top + field :: each] for c in colours], f, table)
    soft = table[own]
    if (soft != own).any():
        own[:] = soft
    return frame


def _take_back(luma: Codes, colours: list[Codes], f: PictureFormat, table: Codes) -> None:
    """Take colour that leaves its limits back towards grey: each sample as far as the darkest and
    the brightest luma that it stands for ask.
    """
    across, down = HALVED[f.chroma]
    parts = [luma[y::down, x::across] for y in range(down) for x in range(across)]
    darkest, brightest = (_light(table[reduce(of, parts)], f) for of in (np.minimum, np.maximum))
    cb, cr = (_difference(plane, f) for plane in colours)
    share = _share(darkest, brightest, cb, cr, f)
    less = share < 1
    if not less.any():
        return
    for plane, colour in zip(colours, (cb, cr), strict=True):
        plane[less] = _coded_difference((colour * share)[less], f)


@cache
def _table(depth: int) -> Codes:
    """Give what every code value of luma becomes."""
    codes = np.arange(2**depth, dtype=np.uint8 if depth <= 8 else np.uint16)
    times = 2.0 ** (depth - 8)
    light = (codes / times - BLACK) / LUMA
    made: Codes = np.rint((_softened(light) * LUMA + BLACK) * times).astype(codes.dtype)
    kept = (light >= 0) & (light <= KNEE)
    made[kept] = codes[kept]
    return made


def _softened(y: Exact) -> Exact:
    """Turn luma above the knee down, and below black up, so that none leaves its limits."""
    room, under = LUMA_HIGH - KNEE, -LUMA_LOW
    high = KNEE + room * (1 - np.exp(-np.maximum(0, y - KNEE) / room))
    low = -under * (1 - np.exp(np.minimum(0, y) / under))
    made: Exact = np.where(y > KNEE, high, np.where(y < 0, low, y))
    return made


def _share(darkest: Floats, brightest: Floats, cb: Floats, cr: Floats, f: PictureFormat) -> Floats:
    """Give how much of the colour can stay, from 0 to 1, so that no R'G'B' leaves its limits."""
    red, blue = WEIGHTS[f.matrix]
    green = 1 - red - blue
    from_red, from_blue = 2 * (1 - red), 2 * (1 - blue)
    parts = (
        from_red * cr,
        from_blue * cb,
        -(red * from_red * cr + blue * from_blue * cb) / green,
    )
    above, below = COLOUR_HIGH - brightest, darkest - COLOUR_LOW
    share = np.ones_like(cb)
    for part in parts:
        room = np.where(part > 0, above, below)
        share = np.minimum(share, room / np.maximum(np.abs(part), np.float32(1e-6)))
    made: Floats = np.clip(share, 0, 1)
    return made


def _plane(frame: VideoFrame, number: int, f: PictureFormat) -> Codes:
    kind = np.uint8 if f.depth <= 8 else np.uint16
    plane = frame.planes[number]
    buffer = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
    samples = cast(Codes, buffer.view(kind))
    return samples[: plane.height, : plane.width]


def _light(samples: Codes, f: PictureFormat) -> Floats:
    times = np.float32(2.0 ** (f.depth - 8))
    return (samples.astype(np.float32) / times - BLACK) / np.float32(LUMA)


def _difference(samples: Codes, f: PictureFormat) -> Floats:
    times = np.float32(2.0 ** (f.depth - 8))
    return (samples.astype(np.float32) / times - MIDDLE) / np.float32(DIFFERENCE)


def _coded_difference(colour: Floats, f: PictureFormat) -> Codes:
    scaled = (colour * DIFFERENCE + MIDDLE) * 2.0 ** (f.depth - 8)
    codes: Codes = np.rint(scaled).astype(np.uint16)
    return codes
