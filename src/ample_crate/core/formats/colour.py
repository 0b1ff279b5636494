"""Colour: transfers that go on as they are, and matrices that can be turned into each other."""

from __future__ import annotations

HDR_TRANSFERS = frozenset({"PQ", "HLG"})  # ITU-R BT.2100
# Code values that are handed on as they are, or not at all: no matrix and no gain turns them into
# standard range.
CARRIED = HDR_TRANSFERS | {"log", "linear"}
# Primaries by the standards of the same names can be turned into each other here too.
CONVERTED = frozenset({"BT.601", "BT.709", "BT.2020", "RGB"})
LINES_525 = frozenset({480, 486, 512, 240})


def colour_of(matrix: str, height: int) -> str:
    """Name the set of matrix, primaries and transfer that a matrix stands for; those of BT.601
    differ between 625 and 525 lines.
    """
    if matrix != "BT.601":
        return matrix
    return "BT.601/525" if height in LINES_525 else "BT.601/625"


def matrix_of(colour: str) -> str:
    """Name the matrix of a set."""
    return colour.split("/")[0]
