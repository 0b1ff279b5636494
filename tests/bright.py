"""A film that leaves EBU R 103."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np


def too_bright(path: Path) -> Path:
    """Write thirty frames at 25 a second; in ten, from the eleventh on, a fifth of the picture has
    luma of 108 %. A brighter line moves down all of them.
    """
    with av.open(str(path), "w") as out:
        video = out.add_stream("ffv1", rate=25)
        video.width, video.height, video.pix_fmt = 320, 180, "yuv422p10le"
        for number in range(30):
            luma = np.full((180, 320), 500, np.uint16)
            luma[40 + number, :] = 700
            if 10 <= number < 20:
                luma[:36] = 1010  # 8-bit code 252; 105 % is 246
            frame = av.VideoFrame(320, 180, "yuv422p10le")
            for plane, data in zip(
                frame.planes, (luma, *[np.full((180, 160), 512, np.uint16)] * 2), strict=True
            ):
                rows = np.zeros((plane.height, plane.line_size // 2), np.uint16)
                rows[:, : data.shape[1]] = data
                plane.update(rows.tobytes())
            frame.pts = number
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    return path
