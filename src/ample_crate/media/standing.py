"""Standing pictures that are drawn: colour bars, a slate, black, in the format that an encoder
gets.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame
from PIL import Image, ImageDraw, ImageFont

from ..core.formats.pixels import RGB
from ..core.planning.leader import Kind
from ..core.planning.steps import PictureFormat
from ..core.units.code_values import coded
from .encoders.setup import pixels_of

Floats = npt.NDArray[np.float64]
Samples = npt.NDArray[np.uint8] | npt.NDArray[np.uint16]

# 100/0/75/0 (ITU-R BT.471-1): white; yellow, cyan, green, magenta, red and blue at 75 %; black.
BARS = np.array(
    [(1, 1, 1), *(np.array(c) * 0.75 for c in ((1, 1, 0), (0, 1, 1), (0, 1, 0)))]
    + [np.array(c) * 0.75 for c in ((1, 0, 1), (1, 0, 0), (0, 0, 1))]
    + [(0, 0, 0)],
    np.float64,
)
GROUND, WRITING = 0.1, 0.75  # of a slate: grey, and what is written on it
LEFT, TOP, HIGH = 0.12, 0.15, 0.7  # the writing within the picture: inside EBU R 95's safe area
LARGEST = 0.09  # of the picture's height, a line of writing
# How many samples of luma there are for one of colour, across and down.
HALVED = {"4:1:1": (4, 1), "4:2:0": (2, 2), "4:2:2": (2, 1), "4:4:4": (1, 1)}


def drawn(kind: Kind, f: PictureFormat, lines: Sequence[str]) -> VideoFrame:
    """Draw what stands around a programme.

    Args:
        kind: of it.
        f: as the encoder gets it.
        lines: of a slate.
    """
    if kind == "slate":
        return slate(f, lines)
    return bars(f) if kind == "bars" else black(f)


def bars(f: PictureFormat) -> VideoFrame:
    """Draw colour bars."""
    places = np.arange(f.width) * len(BARS) // f.width
    # The edges lie between samples of colour.
    across = HALVED.get(f.chroma, (1, 1))[0]
    row = BARS[places][(np.arange(f.width) // across) * across]
    return _frame(np.broadcast_to(row, (f.picture_size.height, f.width, 3)), f)


def black(f: PictureFormat) -> VideoFrame:
    """Draw black."""
    return _frame(np.zeros((f.picture_size.height, f.width, 3)), f)


def slate(f: PictureFormat, lines: Sequence[str]) -> VideoFrame:
    """Draw a slate with lines of writing."""
    high = f.picture_size.height
    wide = round(f.width * f.pixel_aspect)
    picture = Image.new("L", (wide, high), round(255 * GROUND))
    draw = ImageDraw.Draw(picture)
    size = min(LARGEST, HIGH / max(1, len(lines)) / 1.5) * high
    font = ImageFont.load_default(size)
    room = (1 - 2 * LEFT) * wide
    longest = max((draw.textlength(line, font) for line in lines), default=0.0)
    if longest > room:
        font = ImageFont.load_default(size * room / longest)
    for number, line in enumerate(lines):
        place = LEFT * wide, TOP * high + number * size * 1.5
        draw.text(place, line, fill=round(255 * WRITING), font=font)
    grey = np.asarray(picture.resize((f.width, high), Image.Resampling.LANCZOS), np.float64) / 255
    if f.fields is not None:
        grey = softened(grey)
    return _frame(np.repeat(grey[..., None], 3, axis=-1), f)


def softened(grey: Floats) -> Floats:
    """Spread lines over their neighbours, so that none flickers in one field alone."""
    padded = np.pad(grey, ((1, 1), (0, 0)), mode="edge")
    return (padded[:-2] + 2 * padded[1:-1] + padded[2:]) / 4


def _frame(colours: Floats, f: PictureFormat) -> VideoFrame:
    """Give a frame of R'G'B' from 0 to 1, below the lines above the picture."""
    whole = np.zeros((f.height, f.width, 3))
    whole[f.above :] = colours
    if f.chroma == RGB:
        return _rgb(whole, f)
    values = coded(whole, f.matrix, f.depth or 8, f.full_range)
    across, down = HALVED[f.chroma]
    planes = [values[..., 0], *(thinned(values[..., n], across, down, f) for n in (1, 2))]
    if f.alpha:
        planes.append(np.full(planes[0].shape, 2.0**f.depth - 1))
    frame = VideoFrame(f.width, f.height, pixels_of(f))
    kind = np.uint8 if f.depth <= 8 else np.uint16
    for plane, samples in zip(frame.planes, planes, strict=True):
        _fill(plane, np.rint(samples).astype(kind))
    return frame


def _rgb(whole: Floats, f: PictureFormat) -> VideoFrame:
    most = 2.0**16 - 1
    frame = VideoFrame.from_ndarray(np.rint(whole * most).astype(np.uint16), format="rgb48le")
    return frame.reformat(format=pixels_of(f))


def thinned(samples: Floats, across: int, down: int, f: PictureFormat) -> Floats:
    """Give the mean of the samples that one of colour stands for: of lines of one field."""
    high, wide = samples.shape
    thin: Floats = samples.reshape(high, wide // across, across).mean(axis=2)
    if down == 1:
        return thin
    if f.fields is None:
        halved: Floats = thin.reshape(high // 2, 2, -1).mean(axis=1)
        return halved
    made = np.empty((high // 2, thin.shape[1]))
    for field in (0, 1):
        own = thin[field::2]
        made[field::2] = own.reshape(len(own) // 2, 2, -1).mean(axis=1)
    return made


def _fill(plane: object, samples: Samples) -> None:
    buffer = np.frombuffer(memoryview(plane), np.uint8)  # type: ignore[arg-type]
    rows = buffer.reshape(-1, plane.line_size)  # type: ignore[attr-defined]
    flat = np.ascontiguousarray(samples).view(np.uint8)
    rows[: flat.shape[0], : flat.shape[1]] = flat
