"""The ledger: one function that judges a master, a route's prediction or a measured file against a spec."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from .facts import Fact, Facts
from .properties import Property, disagree, lookup
from .spec import Requirement, Spec, allows, asked, margin
from .values import Value

Verdict = Literal["meets", "breaks", "advice", "unproven"]
RANK: dict[Verdict, int] = {"meets": 0, "advice": 1, "unproven": 2, "breaks": 3}


@dataclass(frozen=True)
class Finding:
    """What the ledger says of one requirement.

    Attributes:
        property: key of the property.
        asked: what the spec asks, in the trade's units.
        found: what was found, in the trade's units; empty where nothing was.
        verdict: meets, breaks, advice or unproven.
        why: one sentence a newcomer understands.
        severity: must or should.
        provenance: who says what was found.
    """

    property: str
    asked: str
    found: str
    verdict: Verdict
    why: str
    severity: str
    provenance: str

    def as_json(self) -> dict[str, Any]:
        """Give the finding as plain JSON."""
        return dict(self.__dict__)


def ledger(
    facts: Facts, spec: Spec, master: Facts | None = None, siblings: Sequence[Facts] = ()
) -> list[Finding]:
    """Judge facts against every requirement of a spec.

    Args:
        facts: of a master as it is, of a route's prediction, or of a measured file.
        spec: whose requirements are judged, in their order.
        master: facts of the master, for rules that look back at it.
        siblings: facts of the crate's other items, for rules over the whole crate.
    """
    return [_judge(facts, requirement, master, siblings) for requirement in spec.requirements]


def overall(findings: Sequence[Finding]) -> Verdict:
    """Give the verdict of all findings together: the gravest "must", or advice where only a "should" is not met."""
    worst: Verdict = "meets"
    for finding in findings:
        verdict: Verdict = finding.verdict
        if finding.severity == "should" and verdict == "unproven":
            verdict = "advice"
        if RANK[verdict] > RANK[worst]:
            worst = verdict
    return worst


def _judge(facts: Facts, requirement: Requirement, master: Facts | None, siblings: Sequence[Facts]) -> Finding:
    prop = lookup(requirement.property)
    ask = _asked(requirement, prop, master, siblings)
    if prop.group == "sound" and prop.key != "sound.tracks":
        if facts.value("sound.tracks") == 0:
            return _finding(requirement, ask, "no sound", False, "There is no sound in the file.", "measured")
        rows = facts.tracks(prop.key)
    else:
        rows = [(prop.key, facts.fact(prop.key))]
    results = [_one(fact, requirement, prop, ask, master, siblings, key) for key, fact in rows]
    worst = max(results, key=lambda f: RANK[f.verdict])
    if len(results) > 1 and worst.verdict != "meets":
        number = results.index(worst) + 1
        return Finding(**{**worst.__dict__, "why": f"Sound track {number}: {worst.why}"})
    return worst


def _one(
    fact: Fact,
    requirement: Requirement,
    prop: Property,
    ask: str,
    master: Facts | None,
    siblings: Sequence[Facts],
    key: str,
) -> Finding:
    rule, value = requirement.rule, fact.value
    source = fact.provenance or ""
    if rule.operator == "present":
        here = value is not None
        said = "states" if here else "does not state"
        return _finding(
            requirement, ask, prop.kind.show(value) if value is not None else "not stated",
            here == rule.present, f"The file {said} its {prop.label}.", source or "declared",
        )  # fmt: skip
    if value is None:
        return _unproven(requirement, ask, "", f"Nothing is known of the {prop.label} yet.", source)
    found = prop.kind.show(value)
    if rule.operator == "same_as":
        return _same(fact, value, requirement, prop, ask, master, siblings, key, found)
    good = allows(requirement, value)
    if good and prop.proof == "measured" and source == "declared":
        return _unproven(
            requirement, ask, found, f"The header says {found}, which only decoding the file can prove.", source
        )
    why = _why(requirement, prop, ask, found, good, fact)
    return _finding(requirement, ask, found, good, why, source)


def _same(
    fact: Fact, value: Value, requirement: Requirement, prop: Property, ask: str,
    master: Facts | None, siblings: Sequence[Facts], key: str, found: str,
) -> Finding:  # fmt: skip
    source = fact.provenance or ""
    if requirement.rule.same_as == "master":
        theirs = [master.value(key)] if master is not None else []
        whose = "the master"
    else:
        theirs = [other.value(key) for other in siblings]
        whose = "another item of the crate"
    known = [other for other in theirs if other is not None]
    if requirement.rule.same_as == "master" and not known:
        return _unproven(requirement, ask, found, "The master's value is not known, so nothing can be compared.", source)
    odd = [o for o in known if not _near(prop, requirement, value, o)]
    if odd:
        why = f"It is {found} here and {prop.kind.show(odd[0])} in {whose}."
    else:
        why = f"{found}, the same as in {whose}." if known else f"{found}; nothing else in the crate differs."
    return _finding(requirement, ask, found, not odd, why, source)


def _near(prop: Property, requirement: Requirement, value: Value, other: Value) -> bool:
    if not prop.kind.ordered:
        return value == other
    return abs(value - other) <= margin(prop, requirement.rule.tolerance, other)  # type: ignore[operator,no-any-return]


def _asked(requirement: Requirement, prop: Property, master: Facts | None, siblings: Sequence[Facts]) -> str:
    text = asked(requirement)
    if requirement.rule.operator == "same_as":
        others = [master] if requirement.rule.same_as == "master" and master is not None else list(siblings)
        known = next((o.value(prop.key) for o in others if o.value(prop.key) is not None), None)
        if known is not None:
            return f"{text} ({prop.kind.show(known)})"
    return text


def _why(requirement: Requirement, prop: Property, ask: str, found: str, good: bool, fact: Fact) -> str:
    contradiction = ""
    if fact.declared is not None and disagree(prop.key, fact.declared, fact.measured):
        contradiction = f" Its header says {prop.kind.show(fact.declared)}."
    if good:
        return f"{found} is within what is asked: {ask}.{contradiction}"
    verb = "must" if requirement.severity == "must" else "should"
    return f"The {prop.label} is {found}; it {verb} be {ask}.{contradiction}"


def _finding(requirement: Requirement, ask: str, found: str, good: bool, why: str, source: str) -> Finding:
    bad: Verdict = "breaks" if requirement.severity == "must" else "advice"
    return Finding(requirement.property, ask, found, "meets" if good else bad, why, requirement.severity, source)


def _unproven(requirement: Requirement, ask: str, found: str, why: str, source: str) -> Finding:
    return Finding(requirement.property, ask, found, "unproven", why, requirement.severity, source)
