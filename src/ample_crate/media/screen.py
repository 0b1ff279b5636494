"""How a decoded frame is shown on a screen: as R'G'B', what is clear over a ground. Runs inside the
child process.
"""

from __future__ import annotations

import base64
import io
from fractions import Fraction
from typing import Any

import numpy as np
from av.video.frame import VideoFrame
from PIL import Image

CHECKER = "checker"
FIELDS = ("upper", "lower")
CHECK = 12  # samples a side of the checker's squares
GROUNDS = {"black": (0, 0, 0, 255), "white": (255, 255, 255, 255), "green": (0, 150, 60, 255)}
MATRICES = {"BT.709": "ITU709", "BT.601": "ITU601", "BT.2020": "BT2020"}


def shown(
    frame: VideoFrame, aspect: Fraction, matrix: str, width: int, field: str | None = None
) -> Image.Image:
    """Give a frame at its display aspect, so many screen samples wide.

    Args:
        frame: as it was decoded, or comes out of the steps of a route.
        aspect: of its pixels.
        matrix: as `colours` takes it.
        width: of the picture to make.
        field: upper or lower, that is shown alone.
    """
    high = max(2, round(width / (Fraction(frame.width, frame.height) * aspect)))
    if field in FIELDS:
        stored = colours(frame, (frame.width, frame.height), matrix)
        return alone(stored, field, (width, high))
    return colours(frame, (width, high), matrix)


def alone(image: Image.Image, field: str, size: tuple[int, int]) -> Image.Image:
    """Give one field of a picture in stored samples, each of its lines shown twice as high."""
    lines = np.asarray(image)[FIELDS.index(field) :: 2]
    return Image.fromarray(np.ascontiguousarray(lines)).resize(size, Image.Resampling.BICUBIC)


def colours(
    frame: VideoFrame, size: tuple[int, int], matrix: str, full_range: bool = False
) -> Image.Image:
    """Give a frame as R'G'B', with its alpha where it has one.

    Args:
        frame: as it was decoded, or comes out of the steps of a route.
        size: of the picture to make, in screen samples.
        matrix: of the frame, as its fact says it; BT.709 where that is none of `MATRICES`.
        full_range: whether the frame is so, whatever it says of itself.
    """
    alpha = any(c.is_alpha for c in frame.format.components)
    plain = frame.reformat(
        width=size[0],
        height=size[1],
        format="rgba" if alpha else "rgb24",
        src_colorspace=MATRICES.get(matrix, MATRICES["BT.709"]),
        interpolation="BICUBIC",
        src_color_range="JPEG" if full_range else None,
    )
    return Image.fromarray(plain.to_ndarray())


def over(image: Image.Image, ground: str) -> Image.Image:
    """Lay a picture over a ground, or show its matte alone: black where it is clear."""
    if image.mode != "RGBA":
        # What has no alpha is opaque all over.
        return Image.new("RGB", image.size, "white") if ground == "matte" else image
    if ground == "matte":
        return image.getchannel("A").convert("RGB")
    if ground == CHECKER:
        rows, columns = np.mgrid[0 : image.height, 0 : image.width] // CHECK
        shades = np.where((rows + columns) % 2, 150, 105).astype(np.uint8)
        base = Image.fromarray(shades).convert("RGBA")
    else:
        base = Image.new("RGBA", image.size, GROUNDS.get(ground, GROUNDS["black"]))
    return Image.alpha_composite(base, image).convert("RGB")


def coded(image: Image.Image) -> dict[str, Any]:
    """Give a picture as the answer has it: {jpeg (base64), width, height}."""
    buffer = io.BytesIO()
    # So little is lost that what a coded frame shows is its own coder's doing.
    image.save(buffer, "JPEG", quality=95, subsampling=0)
    return {
        "jpeg": base64.b64encode(buffer.getvalue()).decode(),
        "width": image.width,
        "height": image.height,
    }
