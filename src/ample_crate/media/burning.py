"""Burns a timecode, a name and a watermark into frames, in the very samples that the encoder
gets.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame
from PIL import Image, ImageDraw, ImageFont

from ..core.planning.burn_in import BurnIn
from ..core.planning.steps import PictureFormat
from ..core.units.code_values import coded
from .standing import HALVED, softened, thinned

Floats = npt.NDArray[np.float64]

LETTERS = 0.045  # of the picture's height: a timecode, a name
SMALLEST = 14  # samples: smaller ones cannot be read
EDGE = 0.06  # of it, from the picture's edge: inside EBU R 95's safe areas
BOX = 0.6  # how dark the ground under letters is
MARK, FAINT = 0.11, 0.3  # of a watermark: its height at most, how much it covers
WIDE = 0.8  # of the picture's width, a watermark at most
# Of white letters, R'G'B': graphics white of HDR is ITU-R BT.2408-7's 203 cd/m2.
WHITE = {"PQ": 0.58, "HLG": 0.75}


@dataclass(frozen=True)
class _Layer:
    """What is laid over a part of the picture, at its full samples.

    Attributes:
        line, column: where it begins.
        grey: how light it is, from 0 to 1.
        covers: how much of the picture it covers, from 0 to 1.
    """

    line: int
    column: int
    grey: Floats
    covers: Floats


class Burner:
    """Burns into frames of one format.

    Args:
        f: as the encoder gets them.
        burnt: what is burnt in.
    """

    def __init__(self, f: PictureFormat, burnt: BurnIn) -> None:
        self._f, self._burnt = f, burnt
        self._size = max(SMALLEST, round(LETTERS * f.picture_size.height))
        self._edge = round(EDGE * f.picture_size.height)
        self._still = [layer for layer in (self._name(), self._watermark()) if layer is not None]

    def burn(self, frame: VideoFrame, place: int) -> VideoFrame:
        """Burn into a frame, which is changed.

        Args:
            frame: in the format.
            place: of it, counted from the programme's first.
        """
        frame.make_writable()
        label = self._burnt.label(place)
        layers = [*self._still, *([self._label(label)] if label else [])]
        for layer in layers:
            self._lay(frame, layer)
        return frame

    def _name(self) -> _Layer | None:
        name = self._burnt.name
        return self._boxed(name, self._edge) if name else None

    def _label(self, label: str) -> _Layer:
        return self._boxed(label, self._f.picture_size.height - self._edge - 2 * self._size)

    def _boxed(self, text: str, line: int) -> _Layer:
        """Write in the middle of some lines, over a dark ground."""
        letters = self._written(text, self._size, 2 * self._size)
        return self._placed(letters, np.maximum(letters, BOX), line)

    def _watermark(self) -> _Layer | None:
        text = self._burnt.watermark
        if not text:
            return None
        high = round(MARK * self._f.picture_size.height)
        letters = self._written(text, high, 2 * high)
        line = (self._f.picture_size.height - 2 * high) // 2
        return self._placed(np.ones_like(letters), letters * FAINT, line)

    def _written(self, text: str, size: int, lines: int) -> Floats:
        """Write in square samples, no wider than it fits, and give how much each sample is of
        letters.
        """
        f = self._f
        most = WIDE * f.width * float(f.pixel_aspect)
        font = ImageFont.load_default(size)
        wide = font.getlength(text)
        if wide > most:
            font = ImageFont.load_default(size * most / wide)
            wide = font.getlength(text)
        picture = Image.new("L", (round(wide) + size, lines), 0)
        draw = ImageDraw.Draw(picture)
        draw.text((picture.width / 2, lines / 2), text, fill=255, font=font, anchor="mm")
        columns = max(1, round(picture.width / float(f.pixel_aspect)))
        shaped = picture.resize((columns, lines), Image.Resampling.LANCZOS)
        letters = np.asarray(shaped, np.float64) / 255
        return letters if f.fields is None else softened(letters)

    def _placed(self, grey: Floats, covers: Floats, line: int) -> _Layer:
        """Place it in the middle of lines, so that it begins and ends between samples of colour."""
        across, down = HALVED[self._f.chroma]
        down *= 2 if self._f.fields is not None else 1
        column = max(0, (self._f.width - grey.shape[1]) // 2)
        column -= column % across
        line = self._f.above + line
        line -= line % down
        lines = min(grey.shape[0], self._f.height - line)
        columns = min(grey.shape[1], self._f.width - column)
        cut = slice(lines - lines % down), slice(columns - columns % across)
        return _Layer(line, column, grey[cut], covers[cut])

    def _lay(self, frame: VideoFrame, layer: _Layer) -> None:
        f = self._f
        white = WHITE.get(f.transfer, 1.0)
        grey = np.repeat((layer.grey * white)[..., None], 3, axis=-1)
        values = coded(grey, f.matrix, f.depth or 8, f.full_range)
        across, down = HALVED[f.chroma]
        thin = thinned(layer.covers, across, down, f)
        of_colour = (thinned(values[..., n], across, down, f) for n in (1, 2))
        begin = layer.line, layer.column
        self._blend(frame, 0, begin, values[..., 0], layer.covers)
        for number, plane in enumerate(of_colour, 1):
            self._blend(frame, number, (begin[0] // down, begin[1] // across), plane, thin)
        if f.alpha:
            clear = np.full_like(layer.covers, 2.0**f.depth - 1)
            self._blend(frame, 3, begin, clear, layer.covers)

    def _blend(
        self, frame: VideoFrame, number: int, begin: tuple[int, int], over: Floats, covers: Floats
    ) -> None:
        plane, kind = frame.planes[number], np.uint8 if self._f.depth <= 8 else np.uint16
        buffer = np.frombuffer(memoryview(plane), np.uint8)
        rows = buffer.reshape(-1, plane.line_size).view(kind)
        (line, column), (lines, columns) = begin, over.shape
        part = rows[line : line + lines, column : column + columns]
        there = part.astype(np.float64)
        part[:] = np.rint(there + (over - there) * covers).astype(kind)


def copied(frame: VideoFrame) -> VideoFrame:
    """Give a frame of the same samples, of its own."""
    own = VideoFrame(frame.width, frame.height, frame.format.name)
    for mine, other in zip(own.planes, frame.planes, strict=True):
        rows = np.frombuffer(memoryview(other), np.uint8).reshape(-1, other.line_size)
        room = np.frombuffer(memoryview(mine), np.uint8).reshape(-1, mine.line_size)
        wide = min(rows.shape[1], room.shape[1])
        room[:, :wide] = rows[: room.shape[0], :wide]
    own.colorspace, own.color_range = frame.colorspace, frame.color_range
    return own
