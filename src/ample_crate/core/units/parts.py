"""What documents are built of: frozen models, exact fractions."""

from __future__ import annotations

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
