"""The ledger: one function that judges a master, a route's prediction, a measured file or a whole
crate against a spec.

Judging only compares; what was asked, found and why is put into words when a finding is read.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from fractions import Fraction
from typing import Any, Literal

from .facts import Facts
from .facts.properties import disagree, lookup, track_key
from .specs.rules import bounds, margin
from .specs.spec import Spec, Test
from .specs.wording import asked
from .units.values import Value

Verdict = Literal["meets", "breaks", "advice", "unproven"]
RANK: dict[Verdict, int] = {"meets": 0, "advice": 1, "unproven": 2, "breaks": 3}
# A value this near its limit is told of, as a share of the limit.
NEAR = Fraction(1, 20)
OTHER_RATE = 100


class Finding:
    """What the ledger says of one requirement.

    Attributes:
        test: the requirement, made ready.
        verdict: meets, breaks, advice or unproven.
        key: the property's key, with its track where it has one.
    """

    __slots__ = ("_facts", "_others", "_reason", "_value", "key", "test", "track", "verdict")

    def __init__(
        self,
        test: Test,
        verdict: Verdict,
        reason: str,
        value: Value | None,
        key: str,
        facts: Facts,
    ) -> None:
        self.test = test
        self.verdict = verdict
        self._reason = reason
        self._value = value
        self.key = key
        self._facts = facts
        self._others: tuple[Value, ...] = ()
        self.track = 0

    def compared_with(self, others: tuple[Value, ...]) -> None:
        """Note the values that this one was held against."""
        self._others = others

    def __repr__(self) -> str:
        return f"Finding({self.property}: {self.verdict}; {self.why})"

    @property
    def severity(self) -> str:
        """Must or should."""
        return self.test.requirement.severity

    @property
    def part(self) -> str:
        """The alternative that the requirement is a part of, or nothing."""
        return self.test.requirement.part

    @property
    def applies(self) -> bool:
        """Say whether the requirement counts for these facts."""
        return self._reason != "not asked"

    @property
    def provenance(self) -> str:
        """Who says what was found."""
        if self._reason == "no sound":
            return "measured"
        return self._facts.fact(self.key).provenance or (
            "declared" if self._reason == "present" else ""
        )

    @property
    def asked(self) -> str:
        """What the spec asks, in the trade's units."""
        text = asked(self.test.requirement)
        if self.test.operator == "same_as" and self._others:
            return f"{text} ({self._show(self._others[0])})"
        return text

    @property
    def found(self) -> str:
        """What was found, in the trade's units; empty where nothing was."""
        if self._reason == "no sound":
            return "no sound"
        if self._value is None:
            return "not stated" if self._reason == "present" else ""
        shown = self._show(self._value)
        how = self.test.prop.predicted
        return f"{how} {shown}" if self._foreseen and how != "exactly" else shown

    @property
    def _foreseen(self) -> bool:
        return self._facts.fact(self.key).provenance == "predicted"

    def _show(self, value: Value) -> str:
        return self.test.prop.kind.show(value)

    @property
    def why(self) -> str:
        """One sentence a newcomer understands."""
        said = self._said()
        return f"Sound track {self.track}: {said}" if self.track else said

    def _said(self) -> str:
        prop, label = self.test.prop, self.test.prop.label
        match self._reason:
            case "not asked":
                when = self.test.when
                assert when is not None
                held = self._facts.value(when.key)
                here = "" if held is None else f"; here it is {when.prop.kind.show(held)}"
                return (
                    f"Not asked of this file: it counts only where the {when.prop.label} "
                    f"is {asked(when.requirement)}{here}."
                )
            case "condition":
                assert self.test.when is not None
                return (
                    f"Whether this is asked hangs on the "
                    f"{self.test.when.prop.label}, of which nothing is known yet."
                )
            case "no sound":
                allowed = (
                    "which the spec allows"
                    if self.verdict == "meets"
                    else "and the spec asks for some"
                )
                return f"There is no sound in the file, {allowed}."
            case "present":
                return (
                    f"The file {'does not state' if self._value is None else 'states'} its {label}."
                )
            case "nothing":
                return f"Nothing is known of the {label} yet."
            case "header":
                return f"The header says {self.found}, which only decoding the file can prove."
            case "no master":
                return "The master's value is not known, so nothing can be compared."
            case "same":
                return self._compared()
        return self._measured(prop.key)

    def _compared(self) -> str:
        master = self.test.requirement.rule.same_as == "master"
        if self.verdict != "meets":
            other = next(o for o in self._others if not _near(self.test, self._value, o))
            return (
                f"It is {self.found} here and {self._show(other)} in "
                f"{'the master' if master else 'another item of the crate'}."
            )
        if not self._others:
            return f"{self.found}; nothing else in the crate differs."
        return (
            f"{self.found}, the same as in "
            f"{'the master' if master else 'the other items of the crate'}."
        )

    def _measured(self, key: str) -> str:
        fact = self._facts.fact(self.key)
        doubt = ""
        if fact.declared is not None and disagree(key, fact.declared, fact.measured):
            doubt = f" Its header says {self._show(fact.declared)}."
        if self.verdict == "meets":
            return f"{self.found} is within what is asked: {self.asked}.{self._distance()}{doubt}"
        return f"{self._unmet()}.{self._distance()}{doubt}"

    def _unmet(self) -> str:
        flag = self.test.prop.flag
        if flag is None or not isinstance(self._value, bool):
            label = self.test.prop.label
            return f"The {label} is {self.found}; it {self.severity} be {self.asked}"
        asks = "asks for" if self.severity == "must" else "would rather have"
        wanted = flag.forbids if self._value else flag.asks
        return f"{flag.yes if self._value else flag.no}; the spec {asks} {wanted}"

    def _distance(self) -> str:
        """Say how far the limit is, where it is near; on either side of it."""
        limits = (
            bounds(self.test.requirement)
            if self.test.operator in {"at_least", "at_most", "between"}
            else None
        )
        if limits is None or self._value is None or limits[0] == limits[1]:
            return ""
        value, places = Fraction(self._value), [x for x in limits if x is not None]  # type: ignore[arg-type]
        limit = min(places, key=lambda x: abs(x - value))
        away = abs(value - limit)
        if not limit or away > NEAR * abs(limit):
            return ""
        if not away:
            return " That is just at the limit."
        kind = self.test.prop.kind
        figure = (
            kind.show(kind.read(str(away)))
            if kind.name in {"bytes", "bit_rate", "bit_count", "hertz", "count", "seconds"}
            else ""
        )
        share = f"{float(away / abs(limit) * 100):.2g} %"
        side = "inside" if self.verdict == "meets" else "beyond"
        return f" That is {figure + ', ' if figure else ''}{share} {side} the limit."

    def as_json(self) -> dict[str, Any]:
        """Give the finding as plain JSON."""
        names = ("property", "part", "asked", "found", "verdict", "why", "severity", "provenance")
        return {name: getattr(self, name) for name in names}

    # Last, for its name hides the decorator's from what follows.
    @property
    def property(self) -> str:
        """Key of the property, as the requirement names it."""
        return self.test.requirement.property


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
        return Finding(
            test, "meets" if spec.allows_silence else test.bad, "no sound", None, test.key, facts
        )
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


NOBODY: tuple[None, str] = (None, "")


def _one(
    facts: Facts, test: Test, key: str, master: Facts | None, siblings: Sequence[Facts]
) -> Finding:
    value, source = facts.believed.get(key, NOBODY)
    if test.looks_elsewhere:
        if test.operator == "present":
            good = (value is not None) is test.requirement.rule.present
            return Finding(test, "meets" if good else test.bad, "present", value, key, facts)
        if value is not None:
            return _same(facts, test, key, value, master, siblings)
    if value is None:
        return Finding(test, "unproven", "nothing", None, key, facts)
    if not test.passes(value):
        return Finding(test, test.bad, "value", value, key, facts)
    if test.needs_proof and source == "declared":
        return Finding(test, "unproven", "header", value, key, facts)
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
    good = all(_near(test, value, other) for other in known)
    finding = Finding(test, "meets" if good else test.bad, "same", value, key, facts)
    finding.compared_with(known)
    return finding


def _near(test: Test, value: Any, other: Any) -> bool:
    tolerance = test.requirement.rule.tolerance
    if value == other or tolerance is None or not test.prop.kind.ordered:
        return bool(value == other)
    return bool(abs(value - other) <= margin(test.prop, tolerance, other))


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
