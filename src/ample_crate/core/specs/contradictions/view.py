"""A spec as the checks look at it: what each property may be once all its rules are put
together.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import islice, product
from math import prod
from typing import Any, Literal

from ... import formats
from ...errors import BadValue
from ...facts.properties import lookup
from ...formats.codec import PictureCodec
from ...formats.levels import Level, Levels
from ...units.values import Size
from ..requirement import Requirement
from ..rules import bounds, limits, test
from ..spec import Spec, check_choice
from ..wording import asked

MOST_VARIANTS = 64


@dataclass(frozen=True)
class Repair:
    """A proposed change: rules by property, None for a requirement to take out."""

    says: str
    changes: Mapping[str, Mapping[str, Any] | None] = field(default_factory=dict)


Grade = Literal["contradiction", "doubt"]


@dataclass(frozen=True)
class Contradiction:
    """Requirements that no file can meet together, or that can hardly be meant.

    Attributes:
        kind: short name of the check.
        grade: "contradiction" where no file can meet it, "doubt" where it can hardly be meant.
        properties: what it is about, the first the one to mend.
        clauses: the requirements concerned, in words with their sources.
        repair: what to do; with changes where they can be made by themselves.
    """

    kind: str
    grade: Grade
    what: str
    why: str
    properties: tuple[str, ...]
    clauses: tuple[str, ...]
    repair: Repair

    def doubtful(self, doubt: bool = True) -> Contradiction:
        """Give the same as what can hardly be meant, or as it is."""
        return replace(self, grade="doubt") if doubt else self


class View:
    """One way through a spec: an alternative taken in each choice, and perhaps one condition taken
    to hold.
    """

    def __init__(self, spec: Spec, requirements: list[Requirement]) -> None:
        self.spec, self.requirements = spec, requirements
        self._by_key: dict[str, list[Requirement]] = {}
        for one in requirements:
            self._by_key.setdefault(one.property, []).append(one)
        self._found: list[Contradiction] = []

    def on(self, *keys: str) -> list[Requirement]:
        """List the requirements on properties."""
        return [r for key in keys for r in self._by_key.get(key, [])]

    def asks(self, key: str) -> bool:
        """Say whether anything is asked of a property."""
        return key in self._by_key

    def values(self, key: str) -> list[Any] | None:
        """List the values that a property may have, or None where they are not listed."""
        rules = self.on(key)
        listed = [
            list(limits(r))
            for r in rules
            if r.rule.operator in {"is", "one_of"} and not r.rule.tolerance
        ]
        if not listed:
            return None
        return [
            v
            for v in listed[0]
            if all(test(r)(v) for r in rules if r.rule.operator not in {"present", "same_as"})
        ]

    def only(self, key: str) -> Any:
        """Give the one value that a property may have, or None."""
        values = self.values(key)
        return values[0] if values is not None and len(values) == 1 else None

    def low(self, key: str) -> Fraction | None:
        """Give the least that an ordered property may be, or None."""
        return self._edge(key, 0)

    def high(self, key: str) -> Fraction | None:
        """Give the most that an ordered property may be, or None."""
        return self._edge(key, 1)

    def _edge(self, key: str, side: Literal[0, 1]) -> Fraction | None:
        listed = self.values(key)
        if listed:
            found = [Fraction(v) for v in listed]
            return max(found) if side else min(found)
        edges = [b[side] for r in self.on(key) if (b := bounds(r)) is not None]
        found = [e for e in edges if e is not None]
        return (min(found) if side else max(found)) if found else None

    @property
    def sizes(self) -> list[Size]:
        """List the frame sizes that are asked for by name."""
        return self.values("picture.size") or []

    @property
    def rates(self) -> list[Fraction]:
        """List the frame rates that are asked for by name."""
        return self.values("motion.rate") or []

    @property
    def codec(self) -> str | None:
        """Name the one picture codec that is asked for, or None."""
        found: str | None = self.only("picture.codec")
        return found

    @property
    def able(self) -> PictureCodec | None:
        """Give what that codec is able to carry; None where it is not known here."""
        row = formats.PICTURE.get(self.codec or "")
        return row if row is not None and row.wrappers is not None else None

    @property
    def called(self) -> str:
        """Give that codec's name as it is spoken."""
        return formats.label(self.codec or "")

    def clause(self, requirement: Requirement) -> str:
        """Name a requirement as its reader finds it."""
        prop = lookup(requirement.property)
        source = f" [{requirement.source}]" if requirement.source else ""
        where = f", {requirement.part}" if requirement.part else ""
        return f"{prop.group}: {prop.label} {asked(requirement)}{where}{source}"

    def against(
        self,
        kind: str,
        what: str,
        why: str,
        keys: tuple[str, ...],
        says: str,
        changes: Mapping[str, Mapping[str, Any] | None] | None = None,
    ) -> Contradiction:
        """Make a contradiction of the requirements on `keys`."""
        return Contradiction(
            kind,
            "contradiction",
            what,
            why,
            keys,
            tuple(self.clause(r) for r in self.on(*keys)),
            Repair(says, changes or {}),
        )

    def show(self, key: str, value: Any) -> str:
        """Show a value of a property."""
        return lookup(key).kind.show(value)


def views(spec: Spec) -> Iterator[View]:
    """Give every way through a spec, at most `MOST_VARIANTS` of its alternatives, and each
    condition by itself.
    """
    for resolved in _resolved(spec):
        plain = [r for r in resolved.requirements if r.when is None]
        yield View(resolved, plain)
        yield from (
            v for one in resolved.requirements if (v := _with(resolved, plain, one)) is not None
        )


def never_asked(spec: Spec) -> Iterator[Contradiction]:
    """Find requirements whose condition can hold in no file that meets the rest."""
    ways = list(_resolved(spec))
    for one in spec.requirements:
        if one.when is not None and not any(
            _with(w, [r for r in w.requirements if r.when is None], one) for w in ways
        ):
            view = View(spec, [one])
            yield view.against(
                "never asked",
                f"The condition on the {lookup(one.property).label} can never hold.",
                f"It counts where the {lookup(one.when.property).label} is {asked(one.when)}, "
                f"which the rest of the spec forbids.",
                (one.property,),
                "Take it out, or mend its condition.",
            ).doubtful()


def beyond(spec: Spec) -> Iterator[Contradiction]:
    """Say where a spec has more ways through it than are looked at."""
    ways = prod(len(either.any) for either in spec.either)
    if ways > MOST_VARIANTS:
        yield (
            View(spec, [])
            .against(
                "too many ways",
                f"There are {ways} ways through this spec; {MOST_VARIANTS} were looked at.",
                "What contradicts itself in the others is not found.",
                (),
                "Ask for fewer choices, or fewer alternatives in each.",
            )
            .doubtful()
        )


def useless_choices(spec: Spec) -> Iterator[Contradiction]:
    """Find house choices that no way through the spec lets pass: the planner would pass them
    over.
    """
    ways = list(_resolved(spec))
    for name, choices in [
        ("the usual", spec.house),
        *((name, s.choices) for name, s in spec.house_sets.items()),
    ]:
        for key, choice in choices.items():
            if not any(_lets(way, key, choice.value) for way in ways):
                view = View(spec, [r for r in spec.everything() if r.property == key])
                shown = lookup(key).kind.show(lookup(key).read(choice.value))
                yield view.against(
                    "house choice",
                    f"The house choice of {shown} ({name}) lies in no alternative.",
                    "It can never be taken, and another value would be without a word.",
                    (key,),
                    "Choose a value that an alternative allows.",
                ).doubtful()


def _lets(spec: Spec, key: str, value: object) -> bool:
    try:
        check_choice(spec, key, value)
    except BadValue:
        return False
    return True


def _resolved(spec: Spec) -> Iterator[Spec]:
    names = [[(either.name, a.name) for a in either.any] for either in spec.either]
    for taken in islice(product(*names), MOST_VARIANTS):
        yield spec.resolved(dict(taken))


def _with(spec: Spec, plain: list[Requirement], one: Requirement) -> View | None:
    """Give the view in which a requirement's condition holds; None where there is none, or it
    cannot hold.
    """
    if one.when is None:
        return None
    condition = Requirement(
        property=one.when.property, rule=one.when.rule, source=one.source, note="", when=None
    )
    view = View(spec, [*plain, condition, one])
    key = condition.property
    if lookup(key).group == "sound" and key != "sound.tracks" and view.high("sound.tracks") == 0:
        return None
    low, high = (
        (view.low(key), view.high(key))
        if lookup(key).kind.ordered and view.values(key) is None
        else (None, None)
    )
    impossible = view.values(key) == [] or (low is not None and high is not None and low > high)
    return None if impossible else view


@dataclass(frozen=True)
class AskedLevel:
    """The highest level that a spec allows of its codec."""

    levels: Levels
    key: str
    name: str
    profile: str

    @property
    def level(self) -> Level | None:
        """Give the level itself; None where it is not known."""
        return self.levels.by_name(self.name, self.profile)


def asked_level(view: View) -> AskedLevel | None:
    """Give the highest level that the spec allows; None where nothing is asked of it."""
    levels = view.able.levels if view.able is not None else None
    if levels is None:
        return None
    if levels.named_with_profile:
        named = view.values(levels.key) or []
        known = [v.name for v in levels.table("") if v.name in named]
        return AskedLevel(levels, levels.key, known[-1], known[-1].split("@")[0]) if known else None
    highest = view.high(levels.key)
    if highest is None:
        return None
    profiles = view.values("picture.profile")
    return AskedLevel(levels, levels.key, f"{float(highest):g}", profiles[-1] if profiles else "")
