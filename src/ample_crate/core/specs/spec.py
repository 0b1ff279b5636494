"""A spec: one recipient's requirements as data."""

from __future__ import annotations

from calendar import monthrange
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from ..errors import BadSpec, BadValue
from ..facts.properties import Property, lookup, split_track
from ..units.values import Value, read_bit_rate
from . import rules
from .delivery import Coding, Delivery
from .playback import Playback
from .requirement import Choice, Either, HouseSet, Requirement
from .rules import Ask, Rule, Strict
from .wording import asked

RecipientKind = Literal["broadcaster", "disc", "venue", "platform", "collaborator"]
Status = Literal["draft", "in force", "withdrawn"]
# What can be chosen besides properties, and is no one master's own.
BEGINS_WITH = (
    "framing",
    "region",
    "background",
    "levels",
    "speed",
    "pitch",
    "retime",
    "pulldown",
    "leader",
    "tail",
    "burn_in",
    "watermark",
    "mix",
    "loudness",
    "captions",
    "pace",
    "picture",
    "sound",
)
EITHER = "either."  # before the name of a choice of alternatives


class Spec(Strict):
    """A recipient's spec. Sizes say MB (10^6 bytes) or MiB (2^20 bytes)."""

    id: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{1,60}$")
    version: int = Field(ge=1)
    recipient: str = Field(description="key of the recipient")
    title: str = Field(min_length=1, max_length=200)
    status: Status = "in force"
    valid_from: str | None = Field(
        None,
        pattern=r"^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$",
        description="first day, as 2026-11-23",
    )
    source: str = Field("", description="where the requirements come from")
    summary: str = ""
    requirements: list[Requirement] = Field(min_length=1)
    either: list[Either] = Field(default_factory=list, description="choices of alternatives")
    house: dict[str, Choice] = Field(
        default_factory=dict, description="the usual house choices, by property"
    )
    house_sets: dict[str, HouseSet] = Field(
        default_factory=dict, description="house choices for one kind of material, by name"
    )
    begins_with: dict[str, Annotated[str, Field(min_length=1, max_length=2000)]] = Field(
        default_factory=dict,
        description="what new crates choose at first besides properties, such as framing: crop",
    )
    coding: Coding = Coding()  # type: ignore[call-arg]
    delivery: Delivery = Delivery()  # type: ignore[call-arg]
    playback: Playback | None = Field(None, description="how the recipient plays the files")

    @field_validator("valid_from")
    @classmethod
    def _a_day(cls, text: str | None) -> str | None:
        year, month, day = map(int, text.split("-")) if text else (1, 1, 1)
        if day > monthrange(year, month)[1]:
            raise ValueError(f"There is no day {text}.")
        return text

    @field_validator("begins_with")
    @classmethod
    def _can_begin(cls, chosen: dict[str, str]) -> dict[str, str]:
        for key in chosen:
            if key not in BEGINS_WITH and not key.startswith(EITHER):
                raise ValueError(
                    f"A crate cannot begin with '{key}': choose of {', '.join(BEGINS_WITH)}."
                )
        return chosen

    @model_validator(mode="after")
    def _sound(self) -> Spec:
        said = [(r.property, r.rule.operator, repr(r.when)) for r in self.requirements]
        twice = sorted({row[0] for row in said if said.count(row) > 1})
        if twice:
            raise ValueError(f"asked for twice: {', '.join(twice)}")
        names = [e.name for e in self.either]
        if len(set(names)) < len(names) or any(
            len({a.name for a in e.any}) < len(e.any) for e in self.either
        ):
            raise ValueError("two choices, or two alternatives of one, have the same name")
        try:
            for choices in (self.house, *(s.choices for s in self.house_sets.values())):
                for key, choice in choices.items():
                    read = check_choice(self, key, choice.value)
                    choice.value = read if isinstance(read, str) else choice.value
        except (BadSpec, BadValue) as error:
            raise ValueError(error.sentence()) from None
        return self

    def requirement(self, key: str) -> Requirement | None:
        """Find the first unconditional requirement on a property, or None."""
        return next((r for r in self.requirements if r.property == key and r.when is None), None)

    def on(self, key: str) -> list[Requirement]:
        """List every requirement on a property, conditional ones first."""
        mine = [r for r in self.requirements if r.property == key]
        return [r for r in mine if r.when is not None] + [r for r in mine if r.when is None]

    def everything(self) -> Iterator[Requirement]:
        """Give every requirement, those of all alternatives and of the name too."""
        yield from self.requirements
        for either in self.either:
            for alternative in either.any:
                yield from either.requirements(alternative)
        yield from self._name()

    def resolved(self, taken: Mapping[str, str]) -> Spec:
        """Give the spec with one alternative taken in each choice, by the choice's name; the first
        where none is named.
        """
        if not self.either:
            return self
        more = []
        for either in self.either:
            chosen = next(
                (a for a in either.any if a.name == taken.get(either.name)), either.any[0]
            )
            more += either.requirements(chosen)
        return self._with({"requirements": [*self.requirements, *more], "either": []})

    def besides(self, requirement: Requirement) -> Spec:
        """Give the spec with one requirement more."""
        return self._with({"requirements": [*self.requirements, requirement]})

    def under_any_name(self) -> Spec:
        """Give the spec without the name that it asks for: of a file that has one already."""
        return self._with({"delivery": Delivery.model_validate({})})

    def _with(self, change: Mapping[str, Any]) -> Spec:
        made = self.model_copy(update=change)
        for name in ("tests", "choices", "allows_silence", "said"):
            made.__dict__.pop(name, None)
        return made

    def _name(self) -> list[Requirement]:
        asked = self.delivery.asked
        if asked is None:
            return []
        rule = Rule.model_validate(
            {
                "matches": self.delivery.pattern().expression(),
                "words": self.delivery.pattern().words(),
            }
        )
        made = [
            Requirement(
                property="file.name",
                rule=rule,
                severity=asked,
                source=self.delivery.source,
                note="",
                when=None,
            )
        ]
        if self.delivery.longest < 200:
            longest = Rule.model_validate(
                {
                    "matches": f".{{1,{self.delivery.longest}}}",
                    "words": f"at most {self.delivery.longest} characters long",
                }
            )
            made.append(
                Requirement(
                    property="file.name",
                    rule=longest,
                    severity=asked,
                    source=self.delivery.source,
                    note="",
                    when=None,
                )
            )
        return made

    @cached_property
    def tests(self) -> tuple[Test, ...]:
        """Give the requirements outside of choices, ready to judge with."""
        return tuple(Test.of(r) for r in [*self.requirements, *self._name()])

    @cached_property
    def choices(self) -> tuple[tuple[tuple[str, tuple[Test, ...]], ...], ...]:
        """Give the alternatives of each choice by name, ready to judge with."""
        return tuple(
            tuple((a.name, tuple(Test.of(r) for r in either.requirements(a))) for a in either.any)
            for either in self.either
        )

    @cached_property
    def said(self) -> str:
        """Give the words of all that is asked, to search in: "codec H.264; frame size 1920x1080;
        ...".
        """
        return "; ".join(
            dict.fromkeys(f"{lookup(r.property).label} {asked(r)}" for r in self.everything())
        )

    @cached_property
    def allows_silence(self) -> bool:
        """Say whether a file without any sound track may meet the spec."""
        plain = [
            t.passes(0)
            for t in self.tests
            if t.key == "sound.tracks" and t.operator not in {"present", "same_as"}
        ]
        inside = [
            t.passes(0)
            for alternatives in self.choices
            for _, tests in alternatives
            for t in tests
            if t.key == "sound.tracks"
        ]
        return (bool(plain) and all(plain)) or any(inside)


@dataclass(frozen=True, slots=True)
class Test:
    """A requirement made ready to judge with.

    Attributes:
        key: the property's key with its track, if it names one.
        passes: tests a value.
        every_track: whether it counts for each sound track.
        needs_proof: whether a header alone does not prove it.
        looks_elsewhere: whether more than the value counts.
        special: whether a condition or the tracks of sound come into it.
    """

    requirement: Requirement
    prop: Property
    key: str
    operator: str
    passes: Any
    bad: Literal["breaks", "advice"]
    sound: bool
    every_track: bool
    needs_proof: bool
    of_crate: bool
    when: Test | None
    looks_elsewhere: bool
    special: bool

    @staticmethod
    def of(ask: Ask) -> Test:
        """Make a requirement or a condition ready."""
        requirement = (
            ask
            if isinstance(ask, Requirement)
            else Requirement(property=ask.property, rule=ask.rule, note="", source="", when=None)
        )
        prop = lookup(ask.property)
        base, track = split_track(ask.property)
        sound = prop.group == "sound" and base != "sound.tracks"
        return Test(
            requirement,
            prop,
            base if track == 1 else ask.property,
            ask.rule.operator,
            rules.test(ask),
            "breaks" if requirement.severity == "must" else "advice",
            sound,
            sound and "@" not in ask.property,
            prop.proof == "measured",
            prop.group == "delivery",
            Test.of(requirement.when) if requirement.when else None,
            ask.rule.operator in {"present", "same_as"},
            sound or requirement.when is not None,
        )


class Recipient(Strict):
    """One who receives.

    Attributes:
        line_rate: bits a second of the line to the recipient.
        inbox: name of the folder their stand-in watches.
    """

    key: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{1,40}$")
    name: str
    kind: RecipientKind
    line_rate: str = Field(description="speed of the line to them, such as '20 Mb/s'")
    inbox: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{1,40}$")
    note: str = ""

    @model_validator(mode="after")
    def _readable(self) -> Recipient:
        try:
            read_bit_rate(self.line_rate)
        except BadValue as error:
            raise ValueError(error.sentence()) from None
        return self


def check_choice(spec: Spec, key: str, value: object) -> Value:
    """Read a choice and make sure it lies in the room the spec leaves.

    Raises:
        BadValue: the choice is outside the room, with what the spec allows.
        BadSpec: no such property.
    """
    prop = lookup(key)
    read = prop.read(value)
    for requirement in spec.on(key):
        if requirement.when is None and not rules.test(requirement)(read):
            raise BadValue(
                f"{prop.kind.show(read)} is outside what the spec allows for {prop.label}: "
                f"{asked(requirement)}.",
                "Choose a value inside the room the spec leaves.",
            )
    return read


def leaves_room(spec: Spec, key: str) -> bool:
    """Say whether the technician may choose a property inside its rules."""
    mine = [r.rule for r in spec.requirements if r.property == key]
    return bool(mine) and all(
        rule.operator in rules.RANGES or (rule.operator == "one_of" and len(rule.one_of or []) > 1)
        for rule in mine
    )
