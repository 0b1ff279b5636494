"""Code values of colours: R'G'B' as luma and colour difference, by the standards' equations."""

from __future__ import annotations

from types import MappingProxyType

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

# Of R' and B' in luma: ITU-R BT.601-7 2.5.1, BT.709-6 3.2, BT.2020-2 table 4.
WEIGHTS = MappingProxyType(
    {"BT.601": (0.299, 0.114), "BT.709": (0.2126, 0.0722), "BT.2020": (0.2627, 0.0593)}
)
# At 8-bit scale: black, and how many codes lie from black to white, and from one end of a colour
# difference to the other (BT.601-7 2.5.3, BT.709-6 4).
BLACK, LUMA, DIFFERENCE, MIDDLE = 16, 219, 224, 128


def coded(colours: Floats, matrix: str, depth: int, full: bool = False) -> Floats:
    """Give code values, not rounded.

    Args:
        colours: ... x 3, R'G'B' from 0 to 1.
        matrix: as `WEIGHTS` names them.
        depth: bits.
        full: whether code values use the full range (ITU-T H.273, 8.3).

    Returns:
        ... x 3: Y', Cb, Cr.
    """
    red, blue = WEIGHTS[matrix]
    r, g, b = np.moveaxis(colours, -1, 0)
    y = red * r + (1 - red - blue) * g + blue * b
    cb, cr = (b - y) / (2 * (1 - blue)), (r - y) / (2 * (1 - red))
    times, most = 2.0 ** (depth - 8), 2.0**depth - 1
    if full:
        scaled = [y * most, *(difference * most + 2.0 ** (depth - 1) for difference in (cb, cr))]
    else:
        scaled = [(BLACK + LUMA * y) * times]
        scaled += [(MIDDLE + DIFFERENCE * difference) * times for difference in (cb, cr)]
    values: Floats = np.clip(np.stack(scaled, axis=-1), 0, most)
    return values
