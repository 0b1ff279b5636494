"""Sound with the swell of a voice, and its loudness by a library that is not the project's."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pyloudnorm

from tones import RATE

Samples = npt.NDArray[np.float32]


def programme(seconds: float, level: float, swell: float = 0.0, clicks: float = 0.0) -> Samples:
    """Give stereo noise as a voice has it, at a level in dB, that swells by so many dB at the end,
    with clicks.
    """
    count = int(seconds * RATE)
    rng = np.random.default_rng(7)
    noise = np.cumsum(rng.normal(0, 1, (2, count)), axis=1)
    noise -= np.apply_along_axis(lambda x: np.convolve(x, np.ones(480) / 480, "same"), 1, noise)
    noise /= np.sqrt((noise**2).mean())
    time = np.arange(count) / RATE
    decibels = level + swell * np.clip((time - seconds + 4) / 0.5, 0, 1)
    sound = noise * 10 ** (decibels / 20) * (0.6 + 0.4 * np.sin(2 * np.pi * 1.7 * time))
    sound[:, :: RATE // 2] += clicks
    return np.clip(sound, -1, 1).astype(np.float32)


def loudness(sound: Samples) -> float:
    """Measure by another library (ITU-R BS.1770-4)."""
    return float(pyloudnorm.Meter(RATE).integrated_loudness(sound.T.astype(float)))
