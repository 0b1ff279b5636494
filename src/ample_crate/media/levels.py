"""What is done to the loudness of a track."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

Curve = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Levels:
    """What is done to a track.

    Attributes:
        gain: dB over the whole.
        ride: dB more at each tenth of a second; none where everything is turned alike.
        ceiling: dBTP at which peaks are held; None where none reaches it.
        begin: seconds at the start that are left alone.
    """

    gain: float = 0.0
    ride: Curve = field(default_factory=lambda: np.zeros(0))
    ceiling: float | None = None
    begin: float = 0.0

    def factors(self, first: int, samples: int, rate: int) -> npt.NDArray[np.float32]:
        """Give what samples are multiplied by, from a first one on."""
        decibels = np.full(samples, self.gain)
        if len(self.ride):
            tenths = (first + np.arange(samples)) * 10 / rate
            decibels += np.interp(tenths, np.arange(len(self.ride)) + 0.5, self.ride)
        alone = round(self.begin * rate) - first
        decibels[: max(0, alone)] = 0
        return (10 ** (decibels / 20)).astype(np.float32)
