"""A film that is half clear."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
from av.video.frame import VideoFrame

from ample_crate.core.units.values import Size

SIZE = Size(128, 64)
# Left and right half: colour and transparency of eight bit.
LEFT, RIGHT = (200, 40, 20), (30, 90, 220)
ALPHAS = (128, 255)


def halves(
    path: Path, left: tuple[int, ...] = LEFT, codec: str = "png", clear: int = ALPHAS[0]
) -> Path:
    """Write two frames whose left half is half clear."""
    picture = np.empty((SIZE.height, SIZE.width, 4), np.uint8)
    picture[:, : SIZE.width // 2] = (*left, clear)
    picture[:, SIZE.width // 2 :] = (*RIGHT, ALPHAS[1])
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=25)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "rgba"
        for number in range(2):
            frame = VideoFrame.from_ndarray(picture, format="rgba")
            frame.pts = number
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path
