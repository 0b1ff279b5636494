"""The loudness of a part of what was heard, from what the meter said every tenth of a second.

Where line-up stands before a programme, the programme alone is what EBU R 128 measures.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

TENTHS_M, TENTHS_S = 4, 30  # that one figure of momentary and short-term loudness is over
ABSOLUTE = -70.0  # LUFS under which nothing counts (ITU-R BS.1770-4, EBU Tech 3342)
RELATIVE, RELATIVE_RANGE = 10.0, 20.0  # LU under the mean (the same two)
LOW, HIGH = 10, 95  # percent between which loudness lies, for its range (EBU Tech 3342)

Figures = Sequence[float]


def within(figures: Figures, tenths: int, over: int) -> npt.NDArray[np.float64]:
    """Give the figures that are wholly of what comes after so many tenths of a second.

    Args:
        figures: LUFS, one at the end of each tenth.
        tenths: that are left out.
        over: tenths that a figure is over.
    """
    return np.asarray(figures, np.float64)[tenths + over - 1 :]


def integrated(momentary: Figures, tenths: int = 0) -> float | None:
    """Give the loudness of what comes after so many tenths, LUFS; None of silence."""
    blocks = within(momentary, tenths, TENTHS_M)
    loud = blocks[blocks >= ABSOLUTE]
    if not len(loud):
        return None
    counted = loud[loud >= _mean(loud) - RELATIVE]
    return _mean(counted)


def loudness_range(short: Figures, tenths: int = 0) -> float:
    """Give the range of loudness of what comes after so many tenths, LU."""
    blocks = within(short, tenths, TENTHS_S)
    loud = blocks[blocks >= ABSOLUTE]
    if not len(loud):
        return 0.0
    counted = loud[loud >= _mean(loud) - RELATIVE_RANGE]
    low, high = np.percentile(counted, (LOW, HIGH))
    return float(high - low)


def loudest(figures: Figures, tenths: int, over: int) -> float | None:
    """Give the highest figure of what comes after so many tenths; None where nothing does."""
    blocks = within(figures, tenths, over)
    return float(blocks.max()) if len(blocks) else None


def _mean(figures: npt.NDArray[np.float64]) -> float:
    """Give the mean of what is loudness, by power."""
    return float(10 * np.log10(np.mean(10 ** (figures / 10))))
