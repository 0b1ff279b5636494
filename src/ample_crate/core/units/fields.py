"""Which field of an interlaced frame is shown first."""

from __future__ import annotations

from enum import StrEnum


class FieldOrder(StrEnum):
    """Which field of an interlaced frame is shown first."""

    UPPER = "upper first"
    LOWER = "lower first"


def field_order(word: object) -> FieldOrder | None:
    """Read a field order; None where the word names none."""
    return next((order for order in FieldOrder if order == word), None)


def scan_of(fields: FieldOrder | None) -> str:
    """Name the scan of frames with fields in an order, or of whole ones."""
    return "progressive" if fields is None else "interlaced"
