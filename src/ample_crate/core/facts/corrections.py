"""What a person may correct: facts that a file can tell wrongly and a practised eye or ear knows
better.
"""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

from .. import formats
from ..errors import BadValue
from ..units import geometry
from ..units.values import Value, fraction
from . import Facts
from .properties import PROPERTIES, lookup, split_track

CORRECTED = tuple(key for key, prop in PROPERTIES.items() if prop.corrections)


def check(key: str, value: object) -> Value:
    """Read a correction.

    Raises:
        BadValue: this fact is not one a person may correct, or the value is none it can have.
    """
    base, _ = split_track(key)
    choices = lookup(base).corrections
    if not choices:
        raise BadValue(
            f"The {lookup(base).label} is not corrected by hand.",
            f"These are: {', '.join(lookup(k).label for k in CORRECTED)}.",
        )
    kind = lookup(base).kind
    made = lookup(base).read(value)
    if kind.name in {"ratio", "rate"}:
        if not 0 < Fraction(made) <= 1000:  # type: ignore[arg-type]
            raise BadValue(
                f"'{value}' is beyond reason for the {lookup(base).label}.",
                f"Usual are {', '.join(choices)}.",
            )
    elif made not in choices:
        raise BadValue(f"'{value}' is no {lookup(base).label}.", f"It can be {', '.join(choices)}.")
    return made


def apply(facts: Facts, corrections: Mapping[str, Any]) -> Facts:
    """Give facts in which a person's corrections are assumed, with what follows from them."""
    values = {key: lookup(key).read(value) for key, value in corrections.items()}
    order = values.get("motion.field_order")
    if order is not None and "motion.scan" not in values:
        values["motion.scan"] = "progressive" if order == "none" else "interlaced"
    if values.get("motion.scan") == "progressive":
        values["motion.field_order"] = "none"
    aspect, size = values.get("picture.pixel_aspect"), facts.value("picture.size")
    if aspect is not None and size is not None:
        visible = formats.picture_of(facts.value("picture.codec"), size)
        values["picture.display_aspect"] = geometry.display_aspect(visible, fraction(aspect))
    rate, frames = values.get("motion.rate"), facts.value("motion.frames")
    if rate is not None and frames:
        values["file.duration"] = Fraction(frames) / Fraction(rate)  # type: ignore[arg-type]
        values["motion.steady"] = True
    return facts.with_values("assumed", values)
