"""What would make pictures look better at a rate that is too low for them, as far as a spec leaves
room: a smaller frame, half of the frames, another codec.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from math import isclose
from typing import Any, Literal

from .. import formats
from ..errors import BadValue
from ..facts import Facts
from ..formats.size import RateControlled
from ..specs.rules import limits
from ..specs.spec import EITHER, Spec, check_choice
from ..units.values import Size

SIZE, RATE, CODEC = "picture.size", "motion.rate", "picture.codec"
SMALLER = Fraction(2, 3)  # of each side, where any size may be: four ninths of the samples
SHAPE = 0.01  # of a frame's width by its height, that sizes of one shape may differ by
MOST_CODECS = 3


@dataclass(frozen=True)
class Change:
    """A choice that would help.

    Attributes:
        kind: of what it changes.
        key, value: the choice.
    """

    kind: Literal["frame", "rate", "codec"]
    key: str
    value: str


def changes(spec: Spec, choices: Mapping[str, Any], made: Facts) -> list[Change]:
    """List what may be chosen otherwise, likeliest to help first.

    Args:
        spec: with its alternatives open.
        choices: what may be chosen, with the value in force.
        made: facts of what is planned.
    """
    taken = {k.removeprefix(EITHER): str(v) for k, v in choices.items() if k.startswith(EITHER)}
    settled = spec.resolved(taken)
    found = [*_codecs(spec, settled, choices, made)][:MOST_CODECS]
    if SIZE in choices:
        found += _smaller(settled, made.value(SIZE))
    if RATE in choices:
        found += _half(settled, made.value(RATE))
    return found


def _codecs(spec: Spec, settled: Spec, choices: Mapping[str, Any], made: Facts) -> Iterator[Change]:
    present = made.value(CODEC)
    if CODEC in choices:
        for one in (r for r in settled.on(CODEC) if r.rule.one_of is not None):
            yield from (
                Change("codec", CODEC, str(v)) for v in limits(one) if v != present and _rated(v)
            )
    for either in spec.either:
        key = f"{EITHER}{either.name}"
        for other in either.any if key in choices else ():
            asked = [r for r in either.requirements(other) if r.property == CODEC]
            codecs = {v for r in asked for v in limits(r)}
            if other.name != choices[key] and codecs - {present} and any(map(_rated, codecs)):
                yield Change("codec", key, other.name)


def _rated(codec: object) -> bool:
    """Say whether a codec keeps to a rate."""
    row = formats.PICTURE.get(str(codec))
    return row is not None and row.made is not None and isinstance(row.made.size, RateControlled)


def _smaller(spec: Spec, size: Size) -> list[Change]:
    listed = [v for r in spec.on(SIZE) if r.rule.one_of is not None for v in limits(r)]
    part = Size(_even(size.width * SMALLER), _even(size.height * SMALLER))
    sizes = [v for v in listed or [part] if isinstance(v, Size) and _within(v, size)]
    sizes = [one for one in sizes if _may(spec, SIZE, str(one))]
    largest = max(sizes, key=lambda one: one.width * one.height, default=None)
    return [] if largest is None else [Change("frame", SIZE, str(largest))]


def _within(one: Size, size: Size) -> bool:
    shape, other = one.width / one.height, size.width / size.height
    return one.width < size.width and isclose(shape, other, rel_tol=SHAPE)


def _even(side: Fraction) -> int:
    return 2 * round(side / 2)


def _half(spec: Spec, rate: Fraction) -> list[Change]:
    half = str(Fraction(rate) / 2)
    return [Change("rate", RATE, half)] if _may(spec, RATE, half) else []


def _may(spec: Spec, key: str, value: str) -> bool:
    try:
        check_choice(spec, key, value)
    except BadValue:
        return False
    return True
