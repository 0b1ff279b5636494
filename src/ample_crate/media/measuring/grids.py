"""Sparse samples of a decoded picture: enough to see what changes, far less than the whole."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame

Samples = npt.NDArray[np.int16]
Places = tuple[Any, Any]
ROWS, COLUMNS = 135, 480  # about as many line pairs and columns are looked at
PLANAR = ("yuv4", "yuvj4", "yuva4", "gray", "nv12")


@dataclass(frozen=True)
class Grid:
    """Samples of one frame at 8-bit scale.

    Attributes:
        luma: line pairs x 2 (upper, lower) x columns.
        cb, cr: line pairs x half as many columns, beside `luma[:, 0, ::2]`; None for grey and
        R'G'B'.
        alpha: line pairs x columns, or None.
        rgb: whether the picture is R'G'B' and luma was made from it.
    """

    luma: Samples
    cb: Samples | None
    cr: Samples | None
    alpha: Samples | None
    rgb: bool


def plane(frame: VideoFrame, number: int) -> npt.NDArray[np.uint8] | npt.NDArray[np.uint16]:
    """Give a plane as lines x samples, a view of the frame's own memory; lines may be longer than
    the picture is wide.
    """
    kind = (
        np.uint16
        if frame.format.components[min(number, len(frame.format.components) - 1)].bits > 8
        else np.uint8
    )
    data = np.frombuffer(memoryview(frame.planes[number]), kind)
    return data.reshape(frame.planes[number].height, -1)  # type: ignore[return-value]


def eight(samples: npt.NDArray[Any], bits: int) -> Samples:
    """Give samples of so many bits, 8 to 16, at 8-bit scale."""
    if bits <= 8:
        return samples.astype(np.int16)
    # Copied out first: samples side by side are shifted at once. What is left fits either kind.
    packed = samples.copy()
    packed >>= bits - 8
    return packed.view(np.int16)


def _chroma_places(frame: VideoFrame, across: int, down: int) -> Places:
    """Give the rows and columns of chroma that lie under a grid's places."""
    stride_across = frame.width // frame.planes[1].width
    stride_down = max(1, frame.height // frame.planes[1].height)
    rows, columns = frame.height // down, len(range(0, frame.width, 2 * across))
    if down % stride_down == 0 and 2 * across % stride_across == 0:
        # Evenly apart, which is taken far faster than place by place.
        apart, beside = down // stride_down, 2 * across // stride_across
        return slice(0, rows * apart, apart), slice(0, columns * beside, beside)
    there = np.arange(rows) * down // stride_down
    return there[:, None], np.arange(columns) * 2 * across // stride_across


def grid(frame: VideoFrame) -> Grid:
    """Take samples of a frame."""
    name = frame.format.name
    rgb = False
    if not name.startswith(PLANAR) or name.endswith("be") or "float" in name or "f32" in name:
        rgb = frame.format.is_rgb
        alpha_there = any(c.is_alpha for c in frame.format.components)
        small = (min(frame.width, 2 * COLUMNS), min(frame.height, 8 * ROWS))
        # Nearest samples only: nothing is averaged away.
        frame = frame.reformat(
            *small, format="yuva444p" if alpha_there else "yuv444p", interpolation="POINT"
        )
        name = frame.format.name
    components = frame.format.components
    bits = components[0].bits
    across, down = max(1, frame.width // COLUMNS), max(2, frame.height // ROWS // 2 * 2)
    whole = frame.height // down * down
    luma = plane(frame, 0)[:whole].reshape(whole // down, down, -1)[:, :2, : frame.width : across]
    made = eight(luma, bits)
    cb = cr = alpha = None
    if len(frame.planes) >= 3 and not name.startswith(("nv", "gray")):
        place = _chroma_places(frame, across, down)
        cb, cr = (eight(plane(frame, number)[place], bits) for number in (1, 2))
    if any(c.is_alpha for c in components) and len(frame.planes) >= 4:
        alpha = eight(plane(frame, 3)[:whole:down, : frame.width : across], bits)
    return Grid(made, cb, cr, alpha, rgb)
