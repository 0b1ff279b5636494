"""What documents are built of: frozen models, exact fractions, the order of fields."""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction
from typing import Annotated

from pydantic import BaseModel, BeforeValidator, ConfigDict, PlainSerializer, WithJsonSchema

from .values import fraction

Exact = Annotated[
    Fraction,
    BeforeValidator(fraction),
    PlainSerializer(lambda v: f"{v.numerator}/{v.denominator}", return_type=str),
    WithJsonSchema({"type": "string", "description": "an exact fraction such as 25/1"}),
]


class Part(BaseModel):
    """A part of a document; unknown names are refused."""

    model_config = ConfigDict(extra="forbid", frozen=True, arbitrary_types_allowed=True)


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
