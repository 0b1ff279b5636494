"""The ledger: one function that judges a master, a route's prediction, a measured file or a whole
crate against a spec.

Judging only compares; what was asked, found and why is put into words when a finding is read.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from fractions import Fraction
from typing import Literal

from . import formats
from .facts import Facts
from .facts.properties import lookup, track_key
from .finding import Finding, Verdict, near
from .specs.spec import Spec, Test
from .units.values import Value

RANK: dict[Verdict, int] = {"meets": 0, "advice": 1, "unproven": 2, "breaks": 3}

OTHER_RATE = 100


def ledger(
    facts: Facts,
    spec: Spec,
    master: Facts | None = None,
    siblings: Sequence[Facts] = (),
    of: Literal["item", "crate"] = "item",
) -> list[Finding]:
    """Judge facts against every requirement of a spec.

    In each choice of alternatives the one that fits the facts best counts, so a choice is met where
    any of its alternatives is. A requirement whose condition does not hold is met.

    Args:
        facts: of a master as it is, of a route's prediction, of a measured file, or of a whole
        crate.
        spec: whose requirements are judged, in their order.
        master: facts of the master, for rules that look back at it.
        siblings: facts of the crate's other items, for rules over the whole crate.
        of: whether the facts are an item's or the crate's (`whole.of_crate`): each has requirements
        of its own.
    """
    whole = of == "crate"
    found = [_judge(facts, t, spec, master, siblings) for t in spec.tests if t.of_crate is whole]
    if spec.either and not whole:
        for alternatives in spec.choices:
            found += _best(facts, alternatives, spec, master, siblings)[1]
    return found


def taken(
    facts: Facts, spec: Spec, master: Facts | None = None, siblings: Sequence[Facts] = ()
) -> dict[str, str]:
    """Name the alternative that facts fit best, by the name of the choice."""
    return {
        either.name: _best(facts, alternatives, spec, master, siblings)[0]
        for either, alternatives in zip(spec.either, spec.choices, strict=True)
    }


def _best(
    facts: Facts,
    alternatives: Iterable[tuple[str, tuple[Test, ...]]],
    spec: Spec,
    master: Facts | None,
    siblings: Sequence[Facts],
) -> tuple[str, list[Finding]]:
    best: tuple[int, int] | None = None
    name, kept = "", list[Finding]()
    for other, tests in alternatives:
        found = [_judge(facts, t, spec, master, siblings) for t in tests]
        ranks = [RANK[f.verdict] for f in found]
        # Of two that are not met, the one that keeps the frame rate is nearer: frames dropped or
        # repeated are seen by everybody.
        weight = (
            max(ranks),
            sum(ranks)
            + sum(
                OTHER_RATE for f in found if f.verdict == "breaks" and f.test.key == "motion.rate"
            ),
        )
        if best is None or weight < best:
            best, name, kept = weight, other, found
        if weight == (0, 0):
            break
    return name, kept


def overall(findings: Iterable[Finding]) -> Verdict:
    """Give the verdict of all findings together: the gravest "must", or advice where only a
    "should" is not met.
    """
    worst: Verdict = "meets"
    for finding in findings:
        verdict: Verdict = finding.verdict
        if finding.test.bad == "advice" and verdict == "unproven":
            verdict = "advice"
        if RANK[verdict] > RANK[worst]:
            worst = verdict
    return worst


def holds(facts: Facts, when: Test) -> bool | None:
    """Say whether a condition holds of facts; None where they do not tell."""
    value = facts.value(when.key)
    if when.operator == "present":
        return (value is not None) is when.requirement.rule.present
    return None if value is None else bool(when.passes(value))


def _judge(
    facts: Facts, test: Test, spec: Spec, master: Facts | None, siblings: Sequence[Facts]
) -> Finding:
    if not test.special:
        return _one(facts, test, test.key, master, siblings)
    tracks = facts.believed.get("sound.tracks", (1, ""))[0] if test.sound else 1
    if tracks == 0:
        allowed = spec.allows_silence or _silent_too(test, master)
        verdict: Verdict = "meets" if allowed else test.bad
        return Finding(test, verdict, "no sound", None, test.key, facts)
    if test.when is not None:
        held = holds(facts, test.when)
        if held is None:
            return Finding(test, "unproven", "condition", None, test.key, facts)
        if not held:
            return Finding(test, "meets", "not asked", facts.value(test.key), test.key, facts)
    if test.every_track and tracks > 1:
        each = [
            _one(facts, test, track_key(test.key, n), master, siblings)
            for n in range(1, tracks + 1)
        ]
        worst = max(each, key=lambda f: RANK[f.verdict])
        if worst.verdict != "meets":
            worst.track = each.index(worst) + 1
        return worst
    return _one(facts, test, test.key, master, siblings)


def _silent_too(test: Test, master: Facts | None) -> bool:
    """Say whether sound is asked to be as a master's that has none."""
    back = test.requirement.rule.same_as == "master"
    return back and master is not None and master.value("sound.tracks") == 0


def _nothing_to_be_as(test: Test, master: Facts | None) -> bool:
    """Say whether something is asked to be as a master's that can have none: sound, or a rate and a
    length of one image.
    """
    if test.sound:
        return _silent_too(test, master)
    back = test.requirement.rule.same_as == "master"
    if not back or master is None or master.value(test.key) is not None:
        return False
    row = formats.WRAPPERS.get(str(master.value("file.wrapper")))
    of_motion = test.prop.needs_motion or test.key == "file.duration"
    return of_motion and row is not None and row.still


NOBODY: tuple[None, str] = (None, "")


def _one(
    facts: Facts, test: Test, key: str, master: Facts | None, siblings: Sequence[Facts]
) -> Finding:
    value, source = facts.believed.get(key, NOBODY)
    if test.looks_elsewhere:
        if test.operator == "present":
            good = (value is not None) is test.requirement.rule.present
            return Finding(test, "meets" if good else test.bad, "present", value, key, facts)
        if _nothing_to_be_as(test, master):
            return Finding(test, "meets", "bare master", value, key, facts)
        if value is not None:
            return _same(facts, test, key, value, master, siblings)
    if value is None:
        return Finding(test, "unproven", "nothing", None, key, facts)
    if not test.passes(value):
        return Finding(test, test.bad, "value", value, key, facts)
    if test.needs_proof and source == "declared":
        return Finding(test, "unproven", "header", value, key, facts)
    if key in facts.doubtful:
        return Finding(test, "unproven", "doubt", value, key, facts)
    return Finding(test, "meets", "value", value, key, facts)


def _same(
    facts: Facts,
    test: Test,
    key: str,
    value: Value,
    master: Facts | None,
    siblings: Sequence[Facts],
) -> Finding:
    look_back = test.requirement.rule.same_as == "master"
    theirs = ([master] if master is not None else []) if look_back else siblings
    known = tuple(v for v in (other.value(key) for other in theirs) if v is not None)
    if look_back and not known:
        return Finding(test, "unproven", "no master", value, key, facts)
    good = all(near(test, value, other) for other in known)
    finding = Finding(test, "meets" if good else test.bad, "same", value, key, facts)
    finding.compared_with(known)
    return finding


def needed(specs: Iterable[Spec]) -> set[str]:
    """List the properties that specs judge, without track numbers."""
    return {lookup(r.property).key for spec in specs for r in spec.everything()}


def whole_crate(items: Sequence[Facts], before_this_week: int | None) -> Facts:
    """Give the facts of a crate from those of its items, measured or predicted.

    Args:
        items: facts of every deliverable.
        before_this_week: bytes that went to the recipient in other crates of the same week; None
        where that is not known.
    """
    sizes, lengths = (
        [f.value("file.size") for f in items],
        [f.fraction("file.duration") for f in items],
    )
    total = sum(sizes) if items and None not in sizes else None
    values: Mapping[str, Value | None] = {
        "delivery.items": len(items),
        "delivery.total": total,
        "delivery.week": None
        if total is None or before_this_week is None
        else total + before_this_week,
        "delivery.length": sum((x for x in lengths if x is not None), Fraction(0))
        if items and None not in lengths
        else None,
    }
    sure = all(f.fact("file.size").provenance == "measured" for f in items)
    return Facts().with_values("measured" if sure else "predicted", values)
