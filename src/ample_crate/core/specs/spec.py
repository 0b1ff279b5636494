"""A spec: one recipient's requirements as data."""

from __future__ import annotations

from calendar import monthrange
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

from pydantic import Field, PrivateAttr, field_validator, model_validator

from ..errors import BadSpec, BadValue
from ..facts.properties import Property, lookup, split_track
from ..units.values import Value, read_bit_rate, read_seconds
from . import naming, rules
from .rules import Ask, Rule, Scalar, Strict
from .wording import asked, sentence

Severity = Literal["must", "should"]
RecipientKind = Literal["broadcaster", "disc", "venue", "platform", "collaborator"]
Status = Literal["draft", "in force", "withdrawn"]


class Requirement(Ask):
    """One line of a spec."""

    severity: Severity = "must"
    when: Ask | None = Field(
        None, description="the requirement counts only where this holds of the same file"
    )
    note: str = Field("", description="what the recipient's engineer would add")
    source: str = Field(
        "", description="the clause of the recipient's document, or 'common practice'"
    )
    # Which alternative of which choice this stands for, once one is taken.
    _part: str = PrivateAttr("")

    @property
    def part(self) -> str:
        """Name the alternative that this requirement is a part of, or nothing."""
        return self._part

    def sentence(self) -> str:
        """Say the requirement as a plain sentence."""
        return sentence(self, self.severity, self.when, self._part, self.note)


class Alternative(Strict):
    """One of several ways to meet a spec, such as a picture format: a named set of rules."""

    name: str = Field(min_length=1, max_length=80)
    rules: dict[str, Rule] = Field(min_length=1, description="rules by property")
    note: str = ""

    @model_validator(mode="after")
    def _readable(self) -> Alternative:
        self.rules = {key: Ask(property=key, rule=rule).rule for key, rule in self.rules.items()}
        return self


class Either(Strict):
    """A choice of alternatives, of which a file meets one: "either 1080i25 upper first or
    1080p25".
    """

    name: str = Field(
        min_length=1, max_length=80, description="what is chosen, such as 'picture format'"
    )
    any: list[Alternative] = Field(min_length=2)
    severity: Severity = "must"
    note: str = ""
    source: str = ""

    def requirements(self, alternative: Alternative) -> list[Requirement]:
        """Give an alternative's rules as requirements."""
        made = []
        for key, rule in alternative.rules.items():
            one = Requirement(
                property=key,
                rule=rule,
                severity=self.severity,
                note=alternative.note or self.note,
                source=self.source,
                when=None,
            )
            one._part = f"{self.name}: {alternative.name}"
            made.append(one)
        return made


class Choice(Strict):
    """A value this house prefers inside the room that a spec leaves."""

    value: Scalar
    note: str = ""


class HouseSet(Strict):
    """A named set of house choices, for one kind of material; it goes before the usual ones."""

    note: str = ""
    choices: dict[str, Choice] = Field(min_length=1)


class Coding(Strict):
    """How the encoder is to reach what the requirements ask."""

    passes: Literal[1, 2] = Field(1, description="2 where the rate must land on a figure")
    buffer_bits: int | None = Field(
        None, gt=0, description="size of the decoder's rate buffer (VBV), in bits"
    )
    key_frame_every: str = Field("2 s", description="longest time from one key frame to the next")
    active_width: int | None = Field(
        None, gt=0, description="samples the picture's shape is spread over: 720, 704, 702"
    )
    framing: Literal["pad", "crop", "stretch"] = Field(
        "pad", description="what to do when the shapes differ"
    )
    without_sound: Literal["silent track", "no track"] = Field(
        "silent track",
        description="what to do where the master has no sound and the spec allows either",
    )

    @field_validator("key_frame_every")
    @classmethod
    def _a_time(cls, text: str) -> str:
        try:
            read_seconds(text)
        except BadValue as error:
            raise ValueError(error.sentence()) from None
        return text


class NameField(Strict):
    """A field of the file name that a person fills in."""

    matches: str = Field(
        "[A-Za-z0-9-]+",
        max_length=rules.LONGEST_PATTERN,
        description="a regular expression (RE2) that it fits",
    )
    note: str = ""


class Sidecar(Strict):
    """A small file that goes beside the deliverables."""

    kind: Literal["checksums", "metadata", "html snippet", "captions"]
    form: Literal["md5", "sha256", "sha512", "xml", "json", "html", "srt", "webvtt"]
    note: str = ""

    def said(self) -> str:
        """Say what lies beside the files: "checksums as MD5"."""
        return f"{self.kind} as {FORM_NAMES[self.form]}"

    @model_validator(mode="after")
    def _suits(self) -> Sidecar:
        forms = FORMS[self.kind]
        if self.form not in forms:
            raise ValueError(f"{self.kind} come as {' or '.join(forms)}, not as {self.form}")
        return self


FORMS = {
    "checksums": ("md5", "sha256", "sha512"),
    "metadata": ("xml", "json"),
    "html snippet": ("html",),
    "captions": ("srt", "webvtt"),
}


FORM_NAMES = {
    "md5": "MD5",
    "sha256": "SHA-256",
    "sha512": "SHA-512",
    "xml": "XML",
    "json": "JSON",
    "html": "HTML",
    "srt": "SubRip",
    "webvtt": "WebVTT",
}


class Delivery(Strict):
    """The name the recipient asks for, what goes beside the files, and where they go."""

    name: str = Field(
        "{master}_{recipient}",
        description="pattern of the file name without its ending; [parts "
        "in brackets] may be left out",
    )
    asked: Severity | None = Field(
        None,
        description="whether the recipient asks for the name; left out "
        "where it is the house's own habit",
    )
    fields: dict[str, NameField] = Field(
        default_factory=dict, description="free fields of the pattern"
    )
    characters: str = Field(
        "A-Z a-z 0-9 _ - .", description="characters allowed, as ranges and single ones"
    )
    case: Literal["any", "lower", "upper"] = "any"
    longest: int = Field(200, ge=8, le=255, description="characters of the name with its ending")
    source: str = ""
    sidecars: list[Sidecar] = Field(default_factory=list)
    carrier: str = Field("", description="how the crate travels, such as 'inbox'")
    address: str = Field("", description="where it goes")

    @model_validator(mode="after")
    def _readable(self) -> Delivery:
        try:
            self.pattern()
        except BadValue as error:
            raise ValueError(error.sentence()) from None
        return self

    def pattern(self) -> naming.Pattern:
        """Give the name's pattern, read.

        Raises:
            BadValue: a field or a set of characters that cannot be understood.
        """
        free = {key: field.matches for key, field in self.fields.items()}
        return naming.Pattern(self.name, free, self.characters, self.case, self.longest)


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
    coding: Coding = Coding()  # type: ignore[call-arg]
    delivery: Delivery = Delivery()  # type: ignore[call-arg]

    @field_validator("valid_from")
    @classmethod
    def _a_day(cls, text: str | None) -> str | None:
        year, month, day = map(int, text.split("-")) if text else (1, 1, 1)
        if day > monthrange(year, month)[1]:
            raise ValueError(f"There is no day {text}.")
        return text

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

    def on(self, key: str) -> Iterator[Requirement]:
        """Give every requirement on a property, conditional ones first."""
        mine = [r for r in self.requirements if r.property == key]
        yield from (r for r in mine if r.when is not None)
        yield from (r for r in mine if r.when is None)

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
