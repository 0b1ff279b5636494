"""Checks on what can hardly be meant: words that no file is known by, figures beyond reason in
their unit.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from ...facts.properties import Property, lookup, split_track
from ...facts.words import Words
from ...units.values import SPOKEN_RATES
from ..requirement import Requirement
from ..rules import Rule, limits, test
from .view import Contradiction, View


def _words(view: View) -> Iterator[Contradiction]:
    """Find words that nothing read here is known by; words of a closed list are refused before a
    spec is made.
    """
    for one in view.requirements:
        base, _ = split_track(one.property)
        prop = lookup(base)
        words = prop.words
        if words is None or (base == "picture.profile" and view.asks("picture.codec")):
            continue  # profiles are looked at beside their codec
        if one.rule.operator == "matches":
            yield from _pattern(view, one, prop, words)
            continue
        for odd in [v for v in limits(one) if not words.fits(str(v))]:
            near = words.near(str(odd))
            form = f" {words.form[1]}" if words.form else ""
            yield view.against(
                "word",
                f"No file is known by the {prop.label} '{odd}'.",
                f"It is compared letter by letter with what a file says.{form}",
                (one.property,),
                f"Ask for {prop.kind.show(near)}."
                if near
                else "Write it as a file does; a file they accepted tells.",
                {one.property: _with(one.rule, odd, near)} if near else {},
            ).doubtful()


def _pattern(view: View, one: Requirement, prop: Property, words: Words) -> Iterator[Contradiction]:
    if words.form is None and not any(test(one)(w) for w in words.known):
        yield view.against(
            "word",
            f"No {prop.label} that is known here fits the pattern {one.rule.matches}.",
            f"Files are read as "
            f"{', '.join(words.known[:8])}{' and others' if len(words.known) > 8 else ''}.",
            (one.property,),
            "Write it over these words, or list the values.",
        ).doubtful(not words.closed)


def _figures(view: View) -> Iterator[Contradiction]:
    """Find figures that are out by their unit: 320 b/s, a level of 41, a loudness above full
    scale.
    """
    for one in view.requirements:
        base, _ = split_track(one.property)
        prop = lookup(base)
        within = prop.within_reason
        if within is None:
            continue
        low, high = within
        for odd in [Fraction(v) for v in limits(one)]:  # type: ignore[arg-type]
            if low <= odd <= high or (odd == 0 and one.rule.operator != "is"):
                continue
            slips = () if prop.kind.name in {"count", "degrees", "percent"} else prop.slips
            meant = next((odd * by for by in slips if low <= odd * by <= high), None)
            if prop.kind.name == "rate" and meant is not None:
                meant = SPOKEN_RATES.get(meant, meant)
            value = _whole(meant)
            yield view.against(
                "reason",
                f"{prop.kind.show(_whole(odd))} is beyond reason for the {prop.label}.",
                "Its unit may have been left out or mistaken.",
                (one.property,),
                f"Ask for {prop.kind.show(value)}."
                if value is not None
                else "Write the figure with its unit.",
                {one.property: _with(one.rule, odd, value, prop)} if value is not None else {},
            ).doubtful()


def _whole(value: Fraction | None) -> Any:
    return int(value) if value is not None and value.denominator == 1 else value


def _with(rule: Rule, odd: Any, meant: Any, prop: Property | None = None) -> dict[str, Any]:
    """Give a rule with one of its operands replaced, as a document has it; the tolerance stays."""
    said = meant if prop is None else _document(prop, meant)
    operand = rule.operand(rule.operator)

    def put(item: Any) -> Any:
        read = item if prop is None else Fraction(prop.read(item))  # type: ignore[arg-type]
        return said if read == odd else item

    changed = [put(i) for i in operand] if isinstance(operand, list | tuple) else said
    return {rule.operator: changed, **({"tolerance": rule.tolerance} if rule.tolerance else {})}


def _document(prop: Property, value: Any) -> Any:
    """Write a figure so that it is read back exactly, with its unit where it has one."""
    shown = prop.kind.show(value)
    return shown if prop.read(shown) == value else prop.kind.stored(value)


CHECKS = (_words, _figures)
