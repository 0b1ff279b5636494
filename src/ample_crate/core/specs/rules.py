"""The rules a requirement can have: read from data, and turned into tests of a value.

A rule is read once and tested many times, so `test` gives a function over plain integers
and exact fractions: no text is read and no unit is looked up while judging.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import Any, Literal

import re2
from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..errors import BadSpec, BadValue
from ..facts.properties import Property, lookup
from ..units.values import Size, Value, fraction

Scalar = str | bool | int | float
OPERATORS = ("is", "one_of", "at_least", "at_most", "between", "matches", "present", "same_as")
RANGES = {"at_least", "at_most", "between"}
LONGEST_PATTERN = 500


class Strict(BaseModel):
    """A model that refuses names it does not know."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True, arbitrary_types_allowed=True)


class Rule(Strict):
    """One rule: exactly one operator, and a tolerance where values are compared."""

    is_: Scalar | None = Field(None, alias="is", description="the one value allowed")
    one_of: list[Scalar] | None = Field(None, description="any of these values", min_length=1)
    at_least: Scalar | None = Field(
        None, description="this value or more; of a frame size, neither side smaller"
    )
    at_most: Scalar | None = Field(
        None, description="this value or less; of a frame size, neither side larger"
    )
    between: tuple[Scalar, Scalar] | None = Field(
        None, description="from the first to the second, both allowed"
    )
    matches: str | None = Field(
        None,
        description="a regular expression (RE2) that the whole text fits",
        max_length=LONGEST_PATTERN,
    )
    present: bool | None = Field(
        None, description="whether the file says anything about the property"
    )
    same_as: Literal["master", "crate"] | None = Field(
        None, description="the master's value, or one value over all items of the crate"
    )
    tolerance: str | None = Field(
        None, description="a share such as '2 %', or a figure in the property's unit"
    )
    words: str = Field("", description="what a pattern means, for readers")

    @model_validator(mode="after")
    def _one_operator(self) -> Rule:
        said = [name for name in OPERATORS if self.operand(name) is not None]
        if len(said) != 1:
            raise ValueError(
                f"a rule has exactly one of {', '.join(OPERATORS)}; this one has "
                f"{' and '.join(said) or 'none'}"
            )
        return self

    def operand(self, name: str) -> Any:
        """Give what stands after an operator, or None."""
        return self.is_ if name == "is" else getattr(self, name)

    @property
    def operator(self) -> str:
        """Name the rule's operator."""
        return next(name for name in OPERATORS if self.operand(name) is not None)


class Ask(Strict):
    """A rule on a property, by itself: a condition, or one part of an alternative."""

    property: str = Field(description="key of the property asked about, such as picture.size")
    rule: Rule

    @model_validator(mode="after")
    def _readable(self) -> Ask:
        try:
            limits(self)
        except (BadSpec, BadValue) as error:
            raise ValueError(error.sentence()) from None
        self.rule = in_words(self.property, self.rule)
        return self


def in_words(key: str, rule: Rule) -> Rule:
    """Give a rule with its words as files are read by them: "MP4" becomes mp4. Figures stay as they
    were written.
    """
    prop = lookup(key)
    if prop.kind.name not in {"text", "name"} or rule.operator not in {"is", "one_of"}:
        return rule
    if rule.operator == "is":
        return rule.model_copy(update={"is_": prop.read(rule.is_)})
    return rule.model_copy(
        update={"one_of": list(dict.fromkeys(prop.read(v) for v in rule.one_of or []))}
    )


def limits(ask: Ask) -> tuple[Value, ...]:
    """Read the operands of a rule as values of the property's kind.

    Returns:
        one value for is, at_least and at_most; two for between; all for one_of; none for the
        others.

    Raises:
        BadSpec: no such property, or an operator that means nothing for it.
        BadValue: an operand is not in the property's unit.
    """
    prop, rule = lookup(ask.property), ask.rule
    operator = rule.operator
    if operator in RANGES and not (prop.kind.ordered or prop.kind.name == "size"):
        raise BadSpec(
            f"'{operator}' means nothing for {prop.label} ({prop.key}).", "Use is or one_of."
        )
    if operator == "matches":
        _pattern(prop, rule)
    if rule.tolerance is not None:
        margin(prop, rule.tolerance, Fraction(0))
    if operator in {"present", "same_as", "matches"}:
        return ()
    operand = rule.operand(operator)
    items: Sequence[object] = operand if isinstance(operand, list | tuple) else [operand]
    values = tuple(prop.read(item) for item in items)
    if operator == "between" and not _within(values[0], values[1]):
        raise BadSpec(f"'between' of {prop.key} runs backwards.", "Put the smaller value first.")
    return values


def _within(small: Any, large: Any) -> bool:
    if isinstance(small, Size):
        return bool(small.width <= large.width and small.height <= large.height)
    return bool(small <= large)


def _pattern(prop: Property, rule: Rule) -> Any:
    if prop.kind.name not in {"text", "name"}:
        raise BadSpec(
            f"'matches' means nothing for {prop.label} ({prop.key}): it is no text.",
            "Use is, one_of or a range.",
        )
    try:
        return re2.compile(rule.matches)
    except re2.error as error:
        cause = (
            error.args[0].decode()
            if error.args and isinstance(error.args[0], bytes)
            else str(error)
        )
        raise BadValue(
            f"'{rule.matches}' is no regular expression: {cause}.",
            "Write it as RE2 knows it; look-around and back-references are not part of it.",
        ) from None


def margin(prop: Property, tolerance: str | None, around: Value) -> Fraction:
    """Give a tolerance as an absolute figure in the property's base unit.

    Raises:
        BadValue: the tolerance is below nought or not in the property's unit.
    """
    if tolerance is None:
        return Fraction(0)
    if not prop.kind.ordered:
        raise BadValue(f"{prop.label} ({prop.key}) has no tolerance.", "Leave the tolerance out.")
    text = tolerance.strip()
    if text.endswith("%"):
        share = fraction(text[:-1].strip()) / 100
        size = share * abs(Fraction(around))  # type: ignore[arg-type]
    else:
        share = size = Fraction(prop.read(text))  # type: ignore[arg-type]
    if share < 0:
        raise BadValue(
            f"The tolerance '{tolerance}' is below nought.", "Give a figure above nought."
        )
    return size


def bounds(ask: Ask) -> tuple[Fraction | None, Fraction | None] | None:
    """Give the least and the most that an ordered rule lets pass, tolerance included; None where it
    sets no such bounds.
    """
    prop, rule = lookup(ask.property), ask.rule
    if not prop.kind.ordered or rule.operator not in RANGES | {"is"}:
        return None
    values = [Fraction(v) for v in limits(ask)]  # type: ignore[arg-type]
    low, high = (
        values[0] - margin(prop, rule.tolerance, values[0]),
        values[-1] + margin(prop, rule.tolerance, values[-1]),
    )
    return (None if rule.operator == "at_most" else low), (
        None if rule.operator == "at_least" else high
    )


def test(ask: Ask) -> Callable[[Any], bool]:
    """Turn a rule into a test of a value; rules that look elsewhere let anything pass here."""
    prop, rule = lookup(ask.property), ask.rule
    match rule.operator:
        case "is" | "at_least" | "at_most" | "between" if prop.kind.ordered and (
            rule.tolerance or rule.operator != "is"
        ):
            found = bounds(ask)
            assert found is not None
            return _between(*found)
        case "one_of" if prop.kind.ordered and rule.tolerance:
            figures = [fraction(v) for v in limits(ask)]
            margins = [margin(prop, rule.tolerance, v) for v in figures]
            tests = [_between(v - m, v + m) for v, m in zip(figures, margins, strict=True)]
            return lambda value: any(one(value) for one in tests)
        case "is" | "one_of":
            return _among(limits(ask))
        case "at_least" | "at_most" | "between":
            return _box(rule.operator, limits(ask))
        case "matches":
            fits = _pattern(lookup(ask.property), rule).fullmatch
            return lambda value: fits(str(value)) is not None
        case _:
            return lambda value: True


def _among(values: tuple[Any, ...]) -> Callable[[Any], bool]:
    if len(values) == 1 and isinstance(values[0], Fraction):
        up, down = values[0].numerator, values[0].denominator
        return lambda value: value.numerator == up and value.denominator == down
    allowed = frozenset(values)
    return lambda value: value in allowed


def _between(low: Fraction | None, high: Fraction | None) -> Callable[[Any], bool]:
    # Cross-multiplied by hand: comparing fractions by their operators costs several times as much.
    if high is None:
        assert low is not None
        up, down = low.numerator, low.denominator
        return lambda value: value.numerator * down >= up * value.denominator
    top, base = high.numerator, high.denominator
    if low is None:
        return lambda value: value.numerator * base <= top * value.denominator
    up, down = low.numerator, low.denominator
    return lambda value: (
        value.numerator * base <= top * value.denominator
        and value.numerator * down >= up * value.denominator
    )


def _box(operator: str, sizes: tuple[Any, ...]) -> Callable[[Any], bool]:
    match operator:
        case "at_least":
            return lambda size: _within(sizes[0], size)
        case "at_most":
            return lambda size: _within(size, sizes[0])
        case _:
            return lambda size: _within(sizes[0], size) and _within(size, sizes[1])


def nearest(ask: Ask, value: Any, default: Any = None) -> Any:
    """Bring a value to the nearest that a rule allows.

    Args:
        ask: the rule and its property.
        value: where to start; None where nothing is known.
        default: taken among several allowed values, where it is one of them and `value` is not.
    """
    operands: tuple[Any, ...] = limits(ask)
    match ask.rule.operator:
        case "is":
            return operands[0]
        case "one_of":
            return value if value in operands else default if default in operands else operands[0]
        case "at_least" | "at_most" | "between" if value is None:
            return operands[0]
        case "at_least" | "at_most" | "between" if isinstance(value, Size):
            limit = operands[0] if ask.rule.operator == "at_least" else operands[-1]
            return value if test(ask)(value) else limit
        case "at_least":
            return max(value, operands[0])
        case "at_most":
            return min(value, operands[0])
        case "between":
            return max(operands[0], min(value, operands[1]))
        case _:
            return value
