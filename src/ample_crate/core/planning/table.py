"""The ledger as a table: master has / spec asks / route gives / file measures / verdict, row by
row.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..facts import Facts
from ..facts.properties import lookup
from ..ledger import Finding, ledger, taken
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
    made = []
    asking = [t.requirement for t in spec.tests if not t.of_crate]
    for number, requirement in enumerate(asking):
        prop = lookup(requirement.property)
        row: dict[str, Any] = {
            "property": requirement.property,
            "part": requirement.part,
            "label": prop.label,
            "group": prop.group,
            "kind": prop.kind.name,
            "severity": requirement.severity,
            "source": requirement.source,
            "sentence": requirement.sentence(),
            "room": may_choose(spec, requirement.property),
            "asked": "",
            "contradiction": _contradiction(master, prop.key),
        }
        for name, findings in stages.items():
            finding = findings[number] if findings else None
            row[name] = (
                None
                if finding is None
                else {
                    "found": finding.found,
                    "verdict": finding.verdict,
                    "why": finding.why,
                    "provenance": finding.provenance,
                }
            )
            if finding is not None:
                row["asked"] = finding.asked
        row["verdict"] = row["file"]["verdict"] if row["file"] else "unproven"
        row["why"] = (row["file"] or row["route"] or row["master"])["why"]
        made.append(row)
    return made


def _contradiction(facts: Facts, key: str) -> str:
    fact = facts.fact(key)
    if not facts.contradicts(key):
        return ""
    show = lookup(key).kind.show
    return f"header says {show(fact.declared)}, decoding shows {show(fact.measured)}"
