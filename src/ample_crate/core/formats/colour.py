"""Colour: transfers of high dynamic range, and matrices that can be turned into each other."""

from __future__ import annotations

HDR_TRANSFERS = frozenset({"PQ", "HLG"})  # ITU-R BT.2100
# Primaries by the standards of the same names can be turned into each other here too.
CONVERTED = frozenset({"BT.601", "BT.709", "BT.2020", "RGB"})
