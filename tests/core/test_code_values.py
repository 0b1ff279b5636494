"""Code values of colour bars, against published tables.

The figures of BT.601 are those of 100/0/75/0 bars that test-signal tables give (ITU-R BT.801), the
10-bit ones of BT.709 those of the 75 % bars of SMPTE RP 219: both from memory.
"""

from __future__ import annotations

import numpy as np
import pytest

from ample_crate.core.units.code_values import coded

COLOURS = np.array([(1, 1, 0), (0, 1, 1), (0, 1, 0), (1, 0, 1), (1, 0, 0), (0, 0, 1)], float) * 0.75
IN_601 = [
    (162, 44, 142),
    (131, 156, 44),
    (112, 72, 58),
    (84, 184, 198),
    (65, 100, 212),
    (35, 212, 114),
]
IN_709 = [
    (674, 176, 543),
    (581, 589, 176),
    (534, 253, 207),
    (251, 771, 817),
    (204, 435, 848),
    (111, 848, 481),
]


@pytest.mark.parametrize(
    ("matrix", "depth", "published"), [("BT.601", 8, IN_601), ("BT.709", 10, IN_709)]
)
def test_bars_have_the_published_values(
    matrix: str, depth: int, published: list[tuple[int, int, int]]
) -> None:
    made = np.rint(coded(COLOURS, matrix, depth))
    assert np.abs(made - published).max() <= 1
    assert (made == published).mean() > 0.8


@pytest.mark.parametrize("matrix", ["BT.601", "BT.709", "BT.2020"])
@pytest.mark.parametrize("depth", [8, 10, 12])
def test_greys_have_no_colour(matrix: str, depth: int) -> None:
    greys = np.linspace(0, 1, 5)[:, None].repeat(3, axis=1)
    y, cb, cr = coded(greys, matrix, depth).T
    assert cb == pytest.approx(np.full(5, 2.0 ** (depth - 1))) and cr == pytest.approx(cb)
    assert y[0] == 16 * 2 ** (depth - 8) and y[-1] == pytest.approx(235 * 2 ** (depth - 8))
    full, *_ = coded(greys, matrix, depth, full=True).T
    assert full[0] == 0 and full[-1] == pytest.approx(2**depth - 1)
