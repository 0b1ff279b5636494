"""What the ledger says of one requirement, and in which words."""

from __future__ import annotations

from fractions import Fraction
from typing import Any, Literal

from .facts import Facts
from .facts.properties import disagree
from .specs.rules import bounds, margin
from .specs.spec import Test
from .specs.wording import asked
from .units.values import Value

Verdict = Literal["meets", "breaks", "advice", "unproven"]
# A value this near its limit is told of, as a share of the limit.
NEAR = Fraction(1, 20)


PLAINLY = {
    "no master": "The master's value is not known, so nothing can be compared.",
    "bare master": "Not asked of this file: the master has nothing that it could be as.",
}


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
        return self._reason not in {"not asked", "bare master"}

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
            case "doubt":
                other = self._facts.fact(self.key).second
                assert other is not None
                how = "by decoding" if self.provenance == "measured" else "by its header"
                return (
                    f"It is {self.found} {how}, and {self._show(other)} by a second reader: "
                    f"a person decides, and signs it off."
                )
            case "no master" | "bare master":
                return PLAINLY[self._reason]
            case "same":
                return self._compared()
        return self._measured(prop.key)

    def _compared(self) -> str:
        master = self.test.requirement.rule.same_as == "master"
        if self.verdict != "meets":
            other = next(o for o in self._others if not near(self.test, self._value, o))
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


def near(test: Test, value: Any, other: Any) -> bool:
    """Say whether a value is as another, within a rule's tolerance."""
    tolerance = test.requirement.rule.tolerance
    if value == other or tolerance is None or not test.prop.kind.ordered:
        return bool(value == other)
    return bool(abs(value - other) <= margin(test.prop, tolerance, other))
