"""Trials of a codec's paces on this machine: the same pictures at the same rate, timed, and held
against what went in. Runs inside the child process.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from io import BytesIO
from typing import Any

import av
import numpy as np
import numpy.typing as npt
from av.container import InputContainer, OutputContainer
from av.video.frame import VideoFrame

from ..core import formats
from ..core.errors import AmpleError
from ..core.formats.codec import Pace
from ..core.planning.encoding import RatedPicture
from ..core.planning.steps import PictureFormat
from ..core.planning.streams import MadePicture
from . import encoders, wrappers

FRAMES, RATE, BITS = 25, Fraction(25), 3_000_000
FULL = PictureFormat(width=1920, height=1080, rate=RATE, chroma="4:2:0", depth=8)
PACES: tuple[Pace, ...] = ("usual", "faster", "hardware")
Samples = npt.NDArray[np.uint8]
Plane = npt.NDArray[np.float32]
Told = Callable[[dict[str, Any]], None]


def handle(
    progress: Told, codec: str, frames: int = FRAMES, f: PictureFormat = FULL
) -> dict[str, Any]:
    """Try all paces of a codec.

    Returns:
        {frames, size, bit_rate, paces}: of what, and by pace {speed, in frames a second; quality,
        the luma's peak signal-to-noise ratio in dB; bytes}, or {error}.
    """
    row = formats.PICTURE[codec].made
    assert row is not None
    pictures = list(drawn(frames, f))
    found: dict[str, Any] = {}
    for number, pace in enumerate(p for p in PACES if p in row.paces):
        progress({"stage": "try", "pace": pace, "share": number / len(row.paces), "final": True})
        try:
            found[pace] = _tried(_encoding(codec, pace), f, pictures, progress)
        except (AmpleError, av.FFmpegError) as error:
            said = error.what if isinstance(error, AmpleError) else str(error)
            found[pace] = {"error": said}
    return {"frames": frames, "size": str(f.size), "bit_rate": BITS, "paces": found}


def drawn(frames: int, f: PictureFormat) -> Iterator[Samples]:
    """Draw two grounds of rough and fine texture, one before the other behind an edge that turns;
    each drifts its own way, and a little grain never comes again.
    """
    rng = np.random.default_rng(11)
    y, x = np.mgrid[0 : f.height, 0 : f.width].astype(np.float32)
    near, far = (_texture(rng, f) for _ in range(2))
    for number in range(frames):
        angle = number / 40
        edge = ((x - f.width / 2) * math.cos(angle) + (y - f.height / 2) * math.sin(angle)) > 0
        ground = np.where(
            edge, np.roll(near, (number, 4 * number), (0, 1)), np.roll(far, -3 * number, 1)
        )
        grain = rng.normal(0, 0.7, ground.shape).astype(np.float32)
        yield np.clip(ground + grain, 16, 235).astype(np.uint8)


def _texture(rng: np.random.Generator, f: PictureFormat) -> Plane:
    """Draw noise of several grains, the coarser the stronger, as pictures have it."""
    ground = np.full((f.height, f.width), 118, np.float32)
    for size, strength in ((64, 26), (16, 14), (4, 7)):
        rough = rng.normal(0, strength, (f.height // size + 2, f.width // size + 2))
        large = rough.astype(np.float32).repeat(size, 0).repeat(size, 1)
        soft = np.zeros_like(large)
        for axis in (0, 1):
            for number in range(0, size, 2):
                soft += np.roll(large, number, axis) / size
        ground += soft[: f.height, : f.width]
    return ground


def _encoding(codec: str, pace: Pace) -> RatedPicture:
    row = formats.PICTURE[codec].made
    assert row is not None
    return RatedPicture(
        codec=codec,
        profile=row.usual,
        level=None,
        bit_rate=BITS,
        max_rate=BITS * 5 // 4,
        buffer=BITS * 5 // 4,
        constant=False,
        passes=1,
        gop=FRAMES,
        b_frames=2,
        reference_frames=3,
        pace=pace,
    )


def _tried(
    encoding: RatedPicture, f: PictureFormat, pictures: list[Samples], progress: Told
) -> dict[str, Any]:
    made = MadePicture(source=f, steps=(), encoding=encoding)
    file = BytesIO()
    with av.open(file, "w", format=wrappers.TAKES_ALL) as container:
        assert isinstance(container, OutputContainer)
        coder = encoders.picture(made).open(container, f, None)
        began = time.perf_counter()
        for number, luma in enumerate(pictures):
            frame = _frame(luma)
            frame.pts, frame.time_base = number, 1 / f.rate
            container.mux(list(coder.encode(frame)))
            progress({"stage": "try", "pace": encoding.pace})
        container.mux(list(coder.encode(None)))
        took = time.perf_counter() - began
    return {
        "speed": len(pictures) / took,
        "quality": _quality(file, pictures),
        "bytes": file.getbuffer().nbytes,
    }


def _frame(luma: Samples) -> VideoFrame:
    grey = np.full((luma.shape[0] // 2, luma.shape[1]), 128, np.uint8)
    return VideoFrame.from_ndarray(np.concatenate([luma, grey]), format="yuv420p")


def _quality(file: BytesIO, pictures: list[Samples]) -> float:
    """Give the peak signal-to-noise ratio of the luma over all frames in dB."""
    file.seek(0)
    errors, count = 0.0, 0
    with av.open(file) as container:
        assert isinstance(container, InputContainer)
        for number, frame in enumerate(container.decode(video=0)):
            plain = frame.reformat(format="yuv420p").to_ndarray()[: frame.height]
            apart = plain.astype(np.float32) - pictures[number]
            errors += float(np.mean(apart * apart))
            count += 1
    if count != len(pictures):
        return 0.0
    return 10 * math.log10(255**2 / max(errors / count, 1e-6))
