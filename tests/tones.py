"""Test signals as sound files: tones, silences and what stands between them, exact to the
sample.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

RATE = 48000


def sine(
    level: float, seconds: float, hz: float = 1000.0, rate: int = RATE, phase: float = 0.0
) -> np.ndarray:
    """A sine whose peak is `level` dB of full scale."""
    time = np.arange(round(seconds * rate)) / rate
    return 10 ** (level / 20) * np.sin(2 * np.pi * hz * time + phase)


def join(*parts: np.ndarray) -> np.ndarray:
    return np.concatenate(parts)


def silence(seconds: float, rate: int = RATE) -> np.ndarray:
    return np.zeros(round(seconds * rate))


def write(
    path: Path,
    channels: Sequence[np.ndarray],
    layout: str = "stereo",
    rate: int = RATE,
    codec: str = "pcm_s24le",
) -> Path:
    """Write channels of samples as one track."""
    data = np.stack(channels).astype(np.float32)
    with av.open(str(path), "w") as out:
        track = out.add_stream(codec, rate=rate, layout=layout)
        for start in range(0, data.shape[1], 4800):
            frame = av.AudioFrame.from_ndarray(
                np.ascontiguousarray(data[:, start : start + 4800]), format="fltp", layout=layout
            )
            frame.sample_rate, frame.pts, frame.time_base = rate, start, Fraction(1, rate)
            out.mux(track.encode(frame))
        out.mux(track.encode(None))
    return path
