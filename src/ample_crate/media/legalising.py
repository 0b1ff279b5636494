"""Brings levels within what television takes, softly: in the very samples that the encoder gets."""

from __future__ import annotations

from typing import cast

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame

from ..core.planning.steps import PictureFormat
from ..core.units.code_values import BLACK, DIFFERENCE, LUMA, MIDDLE, WEIGHTS
from .standing import HALVED

Floats = npt.NDArray[np.float32]
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
    luma, cb, cr = (_plane(frame, n, f) for n in range(3))
    y = _light(luma[f.above :], f)
    # Lines of the two fields have their own colour.
    for field in _fields(f):
        own = slice(field, None, 2) if field is not None else slice(None)
        _of_lines(y[own], luma[f.above :][own], cb, cr, f, field)
    return frame


def _fields(f: PictureFormat) -> tuple[int | None, ...]:
    _, down = HALVED[f.chroma]
    return (0, 1) if f.fields is not None and down == 2 else (None,)


def _of_lines(
    y: Floats,
    luma: Codes,
    cb: Codes,
    cr: Codes,
    f: PictureFormat,
    field: int | None,
) -> None:
    across, down = HALVED[f.chroma]
    top = f.above // down
    rows = slice(top, None) if field is None else slice(top + field, None, 2)
    colours = [_difference(plane[rows], f) for plane in (cb, cr)]
    soft = _softened(y)
    cb_there, cr_there = (_spread(c, across, down, y.shape) for c in colours)
    share = _share(soft, cb_there, cr_there, f)
    # What luma shares one sample of colour takes the least of what they would.
    high, wide = colours[0].shape
    least = share.reshape(high, -1, wide, across).min(axis=(1, 3))
    changed = soft != y
    luma[changed] = _coded_luma(soft[changed], f)
    for plane, colour in zip((cb, cr), colours, strict=True):
        less = least < 1
        plane[rows][less] = _coded_difference((colour * least)[less], f)


def _softened(y: Floats) -> Floats:
    """Turn luma above the knee down, and below black up, so that none leaves its limits."""
    room, under = LUMA_HIGH - KNEE, -LUMA_LOW
    high = KNEE + room * (1 - np.exp(-np.maximum(0, y - KNEE) / room))
    low = -under * (1 - np.exp(np.minimum(0, y) / under))
    made: Floats = np.where(y > KNEE, high, np.where(y < 0, low, y)).astype(np.float32)
    return made


def _share(y: Floats, cb: Floats, cr: Floats, f: PictureFormat) -> Floats:
    """Give how much of the colour can stay, from 0 to 1, so that no R'G'B' leaves its limits."""
    red, blue = WEIGHTS[f.matrix]
    green = 1 - red - blue
    from_red, from_blue = 2 * (1 - red), 2 * (1 - blue)
    parts = (
        from_red * cr,
        from_blue * cb,
        -(red * from_red * cr + blue * from_blue * cb) / green,
    )
    share = np.ones_like(y)
    for part in parts:
        room = np.where(part > 0, COLOUR_HIGH - y, y - COLOUR_LOW)
        size = np.abs(part)
        over = size > room
        share = np.where(over, np.minimum(share, room / np.maximum(size, 1e-9)), share)
    made: Floats = np.clip(share, 0, 1).astype(np.float32)
    return made


def _spread(colour: Floats, across: int, down: int, shape: tuple[int, ...]) -> Floats:
    wide = np.repeat(np.repeat(colour, down, axis=0), across, axis=1)
    return wide[: shape[0], : shape[1]]


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


def _coded_luma(light: Floats, f: PictureFormat) -> Codes:
    codes: Codes = np.rint((light * LUMA + BLACK) * 2.0 ** (f.depth - 8)).astype(np.uint16)
    return codes


def _coded_difference(colour: Floats, f: PictureFormat) -> Codes:
    scaled = (colour * DIFFERENCE + MIDDLE) * 2.0 ** (f.depth - 8)
    codes: Codes = np.rint(scaled).astype(np.uint16)
    return codes
