"""Each shipped spec: facts that meet it, and for each requirement a change that breaks that one alone."""

from fractions import Fraction

import pytest

from ample_crate.core.facts import Facts
from ample_crate.core.ledger import ledger, overall
from ample_crate.core.properties import lookup
from ample_crate.core.route import plan_route
from ample_crate.core.rules import limits
from ample_crate.core.spec import Requirement, Spec
from ample_crate.core.values import Size, Value
from ample_crate.store import library
from support import master_facts

SPECS = {s.id: s for s in library.specs()}
ROWS = [(s.id, r.property) for s in SPECS.values() for r in s.requirements]


def good_file(spec: Spec, master: Facts) -> Facts:
    """Facts of a file that is just what its route predicts, as if measured."""
    predicted = plan_route(master, spec).facts
    values: dict[str, Value | None] = {key: fact.value for key, fact in predicted.items()}
    values |= {"sound.loudness": Fraction(-23), "sound.true_peak": Fraction(-3)}
    return Facts().with_values("measured", values)


def spoiled(requirement: Requirement, now: Value) -> Value:
    """Give a value that breaks a rule."""
    kind = lookup(requirement.property).kind
    if kind.name == "flag":
        return not now
    if isinstance(now, Size):
        return Size(now.width - 2, now.height)
    if not kind.ordered:
        return "something else"
    operands = limits(requirement)
    if requirement.rule.operator == "at_least":
        return 0
    if requirement.rule.operator == "same_as":
        return now * 2  # type: ignore[operator]
    return max(operands) * 3 + 1000  # type: ignore[operator,type-var]


@pytest.mark.parametrize("id", sorted(SPECS))
def test_a_good_file_meets_every_requirement(id: str) -> None:
    master = master_facts()
    found = ledger(good_file(SPECS[id], master), SPECS[id], master)
    assert overall(found) == "meets", [f for f in found if f.verdict != "meets"]
    assert all(f.found and f.asked and f.why for f in found)


@pytest.mark.parametrize(("id", "property"), ROWS)
def test_each_requirement_breaks_alone(id: str, property: str) -> None:
    spec, master = SPECS[id], master_facts()
    good = good_file(spec, master)
    requirement = spec.requirement(property)
    assert requirement is not None
    bad = good.with_values("measured", {property: spoiled(requirement, good.value(property))})
    broken = [f.property for f in ledger(bad, spec, master) if f.verdict != "meets"]
    if property == "sound.tracks":  # tied to every row of the tracks that are not there
        assert property in broken and all(key.startswith("sound.") for key in broken)
    else:
        assert broken == [property]
    expected = "breaks" if requirement.severity == "must" else "advice"
    assert overall(ledger(bad, spec, master)) == expected


@pytest.mark.parametrize(("id", "property"), ROWS)
def test_each_requirement_is_unproven_where_nothing_is_known(id: str, property: str) -> None:
    found = {f.property: f.verdict for f in ledger(Facts(), SPECS[id])}
    assert found[property] == "unproven"
