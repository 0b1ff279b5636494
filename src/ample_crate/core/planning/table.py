"""The ledger as a table: master has / spec asks / route gives / file measures / verdict, row by
row.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..facts import Facts
from ..facts.properties import lookup
from ..finding import Finding
from ..ledger import ledger, taken
from ..specs.requirement import Requirement
from ..specs.spec import Spec
from .choices import may_choose


def rows(
    spec: Spec,
    master: Facts,
    predicted: Facts | None,
    measured: Facts | None,
    siblings: Sequence[Facts] = (),
) -> list[dict[str, Any]]:
    """Judge all stages of a deliverable and join them by requirement.

    Returns:
        a dictionary a requirement: property, label, group, part, asked, severity, source, sentence,
        room, and for each of
        master, route and file what was found, its verdict and why; `verdict` is the furthest
        stage's.
    """
    # All stages are held against the same alternatives: those of the furthest one.
    furthest = measured or predicted or master
    spec = spec.resolved(taken(furthest, spec, master, siblings))
    stages: dict[str, list[Finding] | None] = {
        "master": ledger(master, spec, master),
        "route": None if predicted is None else ledger(predicted, spec, master, siblings),
        "file": None if measured is None else ledger(measured, spec, master, siblings),
    }
    asking = [t.requirement for t in spec.tests if not t.of_crate]
    return [
        _head(requirement, spec, master)
        | _stages({name: those[number] if those else None for name, those in stages.items()})
        for number, requirement in enumerate(asking)
    ]


def _head(requirement: Requirement, spec: Spec, master: Facts) -> dict[str, Any]:
    prop = lookup(requirement.property)
    return {
        "property": requirement.property,
        "part": requirement.part,
        "label": prop.label,
        "group": prop.group,
        "kind": prop.kind.name,
        "severity": requirement.severity,
        "source": requirement.source,
        "sentence": requirement.sentence(),
        "choosable": may_choose(spec, requirement.property),
        "contradiction": _contradiction(master, prop.key),
    }


def _stages(found: dict[str, Finding | None]) -> dict[str, Any]:
    """Give each stage's finding, and what the furthest says."""
    row: dict[str, Any] = {name: one and _said(one) for name, one in found.items()}
    judged = [one for one in found.values() if one is not None]
    row["asked"] = judged[-1].asked if judged else ""
    row["verdict"] = row["file"]["verdict"] if row["file"] else "unproven"
    row["why"] = judged[-1].why if judged else ""
    return row


def _said(finding: Finding) -> dict[str, Any]:
    return {
        "found": finding.found,
        "verdict": finding.verdict,
        "why": finding.why,
        "provenance": finding.provenance,
    }


def _contradiction(facts: Facts, key: str) -> str:
    fact = facts.fact(key)
    if not facts.contradicts(key):
        return ""
    show = lookup(key).kind.show
    return f"header says {show(fact.declared)}, decoding shows {show(fact.measured)}"
