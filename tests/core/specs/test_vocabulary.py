"""What an editor offers is what a spec may say: every operator with a usual value is read, and the
others are refused.
"""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest

from ample_crate.core.errors import BadSpec, BadValue
from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.specs import vocabulary
from ample_crate.core.specs.rules import OPERATORS, RANGES, Ask, limits
from ample_crate.store.models import SpecVersion
from ample_crate.store.specs import by_spec, current

SAMPLES = {
    "flag": "yes",
    "size": "720x576",
    "rate": "30000/1001",
    "ratio": "16:9",
    "text": "word",
    "name": "h264",
}


def rule(operator: str, value: Any) -> dict[str, Any]:
    shapes: dict[str, Any] = {
        "one_of": [value],
        "between": [value, value],
        "present": True,
        "same_as": "master",
        "matches": "[a-z]+",
    }
    return {operator: shapes.get(operator, value)}


@pytest.mark.parametrize("key", PROPERTIES)
def test_every_operator_offered_is_read(key: str) -> None:
    prop = PROPERTIES[key]
    offered = vocabulary.operators(prop)
    assert offered and set(offered) <= set(OPERATORS)
    for value in [v for v, _ in vocabulary.values(prop)] or [SAMPLES.get(prop.kind.name, "1")]:
        for operator in offered:
            ask = Ask.model_validate({"property": key, "rule": rule(operator, value)})
            assert all(prop.kind.show(v) for v in limits(ask))


@pytest.mark.parametrize("key", PROPERTIES)
def test_operators_that_mean_nothing_are_neither_offered_nor_read(key: str) -> None:
    prop = PROPERTIES[key]
    for operator in (RANGES | {"matches"}) - set(vocabulary.operators(prop)):
        if prop.kind.name == "flag" or operator == "matches" or not prop.kind.ordered:
            with pytest.raises((ValueError, BadSpec, BadValue)):
                Ask.model_validate(
                    {"property": key, "rule": rule(operator, SAMPLES.get(prop.kind.name, "1"))}
                )


def rows(*states: str) -> list[SpecVersion]:
    """Versions in order: "in force", "draft", "withdrawn", or the first day of one in force."""
    made = []
    for number, state in enumerate(states, 1):
        document = (
            {"status": "in force", "valid_from": state}
            if state[:1].isdigit()
            else {"status": state}
        )
        made.append(SpecVersion(id="x", version=number, recipient_key="y", document=document))
    return made


@pytest.mark.parametrize(
    ("states", "held"),
    [
        (["in force"], 1),
        (["draft"], None),
        (["in force", "draft"], 1),
        (["in force", "in force"], 2),
        (["in force", "withdrawn"], None),
        (["in force", "withdrawn", "draft"], None),
        (["in force", "withdrawn", "in force"], 3),
        (["in force", "2026-11-24"], 1),
        (["in force", "2026-11-23"], 2),
        (["2026-11-24"], None),
        (["withdrawn"], None),
        ([], None),
    ],
)
def test_which_version_is_in_force(states: list[str], held: int | None) -> None:
    found = current(rows(*states), date(2026, 11, 23))
    assert (found.version if found is not None else None) == held


def test_versions_are_sorted_by_their_spec() -> None:
    assert {id: len(found) for id, found in by_spec(rows("in force", "draft")).items()} == {"x": 2}
