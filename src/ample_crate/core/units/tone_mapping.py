"""High dynamic range to standard range by published equations, as a table of colours.

ITU-R BT.2100-2 gives the light that code values stand for, BT.2446-1 method A (section 4) what of
it is shown in standard range. The figures of method A are from memory; tests hold that its pieces
meet.

Colours are arrays whose last axis is red, green and blue.
"""

from __future__ import annotations

from functools import lru_cache
from math import log

import numpy as np
from numpy.typing import NDArray

from .light import BRIGHTEST, NOMINAL, STANDARD

Floats = NDArray[np.float64]
GAMMA = 2.4  # ITU-R BT.1886
# BT.2020's luminance of red, green and blue, and the distances that scale its chroma.
LUMINANCE = np.array([0.2627, 0.6780, 0.0593])
BLUE_SCALE, RED_SCALE = 1.8814, 1.4746
# ITU-R BT.2100-2, table 4 (PQ) and table 5 (HLG).
M1, M2 = 2610 / 16384, 2523 / 4096 * 128
C1, C2, C3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
A, B, C = 0.17883277, 0.28466892, 0.55991073
SYSTEM_GAMMA = 1.2


def pq_light(codes: Floats) -> Floats:
    """Give the light in cd/m2 of PQ code values from 0 to 1."""
    root = codes ** (1 / M2)
    light: Floats = BRIGHTEST * (np.maximum(root - C1, 0) / (C2 - C3 * root)) ** (1 / M1)
    return light


def hlg_light(codes: Floats) -> Floats:
    """Give the light in cd/m2 that the nominal display shows of HLG code values from 0 to 1."""
    scene = np.where(codes <= 0.5, codes**2 / 3, (np.exp((codes - C) / A) + B) / 12)
    luminance = np.maximum(scene @ LUMINANCE, 1e-12)
    light: Floats = NOMINAL * luminance[..., None] ** (SYSTEM_GAMMA - 1) * scene
    return light


def knee(luma: Floats) -> Floats:
    """Compress perceptual luma: method A, step 2."""
    middle = -1.1510 * luma**2 + 2.7811 * luma - 0.6302
    upper = np.where(luma < 0.9909, middle, 0.5 * luma + 0.5)
    return np.where(luma <= 0.7399, 1.0770 * luma, upper)


def _steps(peak: float) -> float:
    return float(1 + 32 * (peak / BRIGHTEST) ** (1 / GAMMA))


def mapped_luma(luma: Floats, peak: float) -> Floats:
    """Map luma, from 0 to 1 of the peak, to that of standard range: method A, steps 1 to 3."""
    high, low = _steps(peak), _steps(STANDARD)
    perceived = np.log1p((high - 1) * luma) / log(high)
    mapped: Floats = (low ** knee(perceived) - 1) / (low - 1)
    return mapped


def method_a(light: Floats, peak: float) -> Floats:
    """Map light in cd/m2 on a display of some peak to R'G'B' of BT.2020 in standard range."""
    codes = np.minimum(light / peak, 1.0) ** (1 / GAMMA)
    luma = codes @ LUMINANCE
    made = mapped_luma(luma, peak)
    scale = made / (1.1 * np.maximum(luma, 1e-9))
    from_blue = scale * (codes[..., 2] - luma) / BLUE_SCALE
    from_red = scale * (codes[..., 0] - luma) / RED_SCALE
    made = made - np.maximum(0.1 * from_red, 0)
    red, blue = made + RED_SCALE * from_red, made + BLUE_SCALE * from_blue
    green = (made - LUMINANCE[0] * red - LUMINANCE[2] * blue) / LUMINANCE[1]
    return np.stack([red, green, blue], axis=-1)


def standard(codes: Floats, transfer: str, peak: float) -> Floats:
    """Turn R'G'B' code values of HDR, from 0 to 1, into those of standard range; both of BT.2020.

    Args:
        codes: coded by the transfer.
        transfer: "PQ" or "HLG".
        peak: cd/m2 of the display that it was graded on.
    """
    light = pq_light(codes) if transfer == "PQ" else hlg_light(codes)
    return np.clip(method_a(light, peak), 0, 1)


@lru_cache(maxsize=2)
def table(transfer: str, peak: float, steps: int) -> Floats:
    """Give what becomes of a cube of colours, in its order: red runs fastest, then green, then
    blue. The shape is (steps to the third, 3).
    """
    codes = np.linspace(0, 1, steps)
    blue, green, red = np.meshgrid(codes, codes, codes, indexing="ij")
    cube = np.stack([red, green, blue], axis=-1).reshape(-1, 3)
    return standard(cube, transfer, peak)
