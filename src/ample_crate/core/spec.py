"""A spec: one recipient's requirements as data, and the rules a requirement can have."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from .errors import BadSpec, BadValue
from .properties import Property, lookup
from .values import Value, fraction, read_seconds

Severity = Literal["must", "should"]
RecipientKind = Literal["broadcaster", "disc", "venue", "platform", "collaborator"]
Scalar = str | bool | int | float
OPERATORS = ("is", "one_of", "at_least", "at_most", "between", "present", "same_as")


class Strict(BaseModel):
    """A model that refuses names it does not know."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True, arbitrary_types_allowed=True)


class Rule(Strict):
    """One rule: exactly one operator, and a tolerance where values are compared."""

    is_: Scalar | None = Field(None, alias="is", description="the one value allowed")
    one_of: list[Scalar] | None = Field(None, description="any of these values")
    at_least: Scalar | None = Field(None, description="this value or more")
    at_most: Scalar | None = Field(None, description="this value or less")
    between: tuple[Scalar, Scalar] | None = Field(None, description="from the first to the second, both allowed")
    present: bool | None = Field(None, description="whether the file says anything about the property")
    same_as: Literal["master", "crate"] | None = Field(
        None, description="the master's value, or one value over all items of the crate"
    )
    tolerance: str | None = Field(None, description="a share such as '2 %', or a figure in the property's unit")

    @model_validator(mode="after")
    def _one_operator(self) -> Rule:
        said = [name for name in OPERATORS if self.operand(name) is not None]
        if len(said) != 1:
            raise ValueError(f"a rule has exactly one of {', '.join(OPERATORS)}; this one has {said or 'none'}")
        return self

    def operand(self, name: str) -> Any:
        """Give what stands after an operator, or None."""
        return self.is_ if name == "is" else getattr(self, name)

    @property
    def operator(self) -> str:
        """Name the rule's operator."""
        return next(name for name in OPERATORS if self.operand(name) is not None)


class Requirement(Strict):
    """One line of a spec."""

    property: str = Field(description="key of the property asked about, such as picture.size")
    rule: Rule
    severity: Severity = "must"
    note: str = Field("", description="what the recipient's engineer would add")
    source: str = Field("", description="the clause of the recipient's document, or 'common practice'")

    @model_validator(mode="after")
    def _readable(self) -> Requirement:
        try:
            limits(self)
        except (BadSpec, BadValue) as error:
            raise ValueError(error.sentence()) from None
        return self


class Choice(Strict):
    """A value this house prefers inside the room that a spec leaves."""

    value: Scalar
    note: str = ""


class Coding(Strict):
    """How the encoder is to reach what the requirements ask."""

    passes: Literal[1, 2] = Field(1, description="2 where the rate must land on a figure")
    buffer_bits: int | None = Field(None, gt=0, description="size of the decoder's rate buffer (VBV), in bits")
    key_frame_every: str = Field("2 s", description="longest time from one key frame to the next")
    active_width: int | None = Field(None, gt=0, description="samples the picture's shape is spread over: 720, 704, 702")
    framing: Literal["pad", "crop", "stretch"] = Field("pad", description="what to do when the shapes differ")


class Delivery(Strict):
    """The name the recipient asks for."""

    name: str = Field("{master}_{recipient}", description="pattern of the file name, without its ending")


class Spec(Strict):
    """A recipient's spec. Sizes say MB (10^6 bytes) or MiB (2^20 bytes)."""

    id: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{1,60}$")
    version: int = Field(ge=1)
    recipient: str = Field(description="key of the recipient")
    title: str
    status: Literal["draft", "in force", "withdrawn"] = "in force"
    source: str = Field("", description="where the requirements come from")
    summary: str = ""
    requirements: list[Requirement] = Field(min_length=1)
    house: dict[str, Choice] = Field(default_factory=dict)
    coding: Coding = Coding()  # type: ignore[call-arg]
    delivery: Delivery = Delivery()  # type: ignore[call-arg]

    @model_validator(mode="after")
    def _sound(self) -> Spec:
        keys = [r.property for r in self.requirements]
        twice = sorted({k for k in keys if keys.count(k) > 1})
        if twice:
            raise ValueError(f"asked for twice: {', '.join(twice)}")
        try:
            read_seconds(self.coding.key_frame_every)
            for key, choice in self.house.items():
                check_choice(self, key, choice.value)
        except (BadSpec, BadValue) as error:
            raise ValueError(error.sentence()) from None
        return self

    def requirement(self, key: str) -> Requirement | None:
        """Find the requirement on a property, or None."""
        return next((r for r in self.requirements if r.property == key), None)


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


def limits(requirement: Requirement) -> tuple[Value, ...]:
    """Read the operands of a requirement's rule as values of the property's kind.

    Returns:
        one value for is, at_least and at_most; two for between; all for one_of; none for the others.

    Raises:
        BadSpec: no such property, or an operator that means nothing for it.
        BadValue: an operand is not in the property's unit.
    """
    prop, rule = lookup(requirement.property), requirement.rule
    operator = rule.operator
    if operator in {"at_least", "at_most", "between"} and not prop.kind.ordered:
        raise BadSpec(f"'{operator}' means nothing for {prop.label} ({prop.key}).", "Use is or one_of.")
    if rule.tolerance is not None:
        margin(prop, rule.tolerance, Fraction(0))
    if operator in {"present", "same_as"}:
        return ()
    operand = rule.operand(operator)
    items: Sequence[object] = operand if isinstance(operand, list | tuple) else [operand]
    values = tuple(prop.kind.read(item) for item in items)
    if operator == "between" and values[0] > values[1]:  # type: ignore[operator]
        raise BadSpec(f"'between' of {prop.key} runs backwards.", "Put the smaller value first.")
    return values


def margin(prop: Property, tolerance: str | None, around: Value) -> Fraction:
    """Give a tolerance as an absolute figure in the property's base unit.

    Raises:
        BadValue: the tolerance is below nought or not in the property's unit.
    """
    if tolerance is None:
        return Fraction(0)
    if not prop.kind.ordered:
        raise BadValue(f"{prop.label} ({prop.key}) has no tolerance.", "Leave the tolerance out.")
    text = tolerance.strip()
    if text.endswith("%"):
        share = fraction(text[:-1].strip()) / 100
        size = share * abs(Fraction(around))  # type: ignore[arg-type]
    else:
        share = size = Fraction(prop.kind.read(text))  # type: ignore[arg-type]
    if share < 0:
        raise BadValue(f"The tolerance '{tolerance}' is below nought.", "Give a figure above nought.")
    return size


def check_choice(spec: Spec, key: str, value: object) -> Value:
    """Read a choice and make sure it lies in the room the spec leaves.

    Raises:
        BadValue: the choice is outside the room, with what the spec allows.
        BadSpec: no such property.
    """
    prop = lookup(key)
    read = prop.kind.read(value)
    requirement = spec.requirement(key)
    if requirement is not None and not allows(requirement, read):
        raise BadValue(
            f"{prop.kind.show(read)} is outside what the spec allows for {prop.label}: {asked(requirement)}.",
            "Choose a value inside the room the spec leaves.",
        )
    return read


def allows(requirement: Requirement, value: Value) -> bool:
    """Say whether a value satisfies a rule by itself; rules that look elsewhere allow anything here."""
    prop, rule = lookup(requirement.property), requirement.rule
    operands = limits(requirement)
    match rule.operator:
        case "is" | "one_of":
            return any(_equal(prop, rule, value, operand) for operand in operands)
        case "at_least":
            return value >= operands[0] - margin(prop, rule.tolerance, operands[0])  # type: ignore[operator]
        case "at_most":
            return value <= operands[0] + margin(prop, rule.tolerance, operands[0])  # type: ignore[operator]
        case "between":
            low, high = operands
            return (  # type: ignore[no-any-return]
                low - margin(prop, rule.tolerance, low) <= value <= high + margin(prop, rule.tolerance, high)  # type: ignore[operator]
            )
        case _:
            return True


def _equal(prop: Property, rule: Rule, value: Value, operand: Value) -> bool:
    if rule.tolerance is None or not prop.kind.ordered:
        return value == operand
    return abs(Fraction(value) - Fraction(operand)) <= margin(prop, rule.tolerance, operand)  # type: ignore[arg-type]


def leaves_room(requirement: Requirement) -> bool:
    """Say whether the technician may choose inside the rule."""
    rule = requirement.rule
    return rule.operator in {"at_least", "at_most", "between"} or (
        rule.operator == "one_of" and len(rule.one_of or []) > 1
    )


def asked(requirement: Requirement) -> str:
    """Say what a requirement asks, in the trade's units, as a table cell."""
    prop, rule = lookup(requirement.property), requirement.rule
    show = prop.kind.show
    values = [show(v) for v in limits(requirement)]
    tolerance = f" ± {rule.tolerance}" if rule.tolerance else ""
    match rule.operator:
        case "is":
            return values[0] + tolerance
        case "one_of":
            return " or ".join(values) + tolerance
        case "at_least":
            return f"at least {values[0]}{tolerance}"
        case "at_most":
            return f"at most {values[0]}{tolerance}"
        case "between":
            return f"{values[0]} to {values[1]}{tolerance}"
        case "present":
            return "present" if rule.present else "absent"
        case _:
            return "as the master" if rule.same_as == "master" else "one value over the crate"


# Requirements that read badly as "the … must be …": by property, for "yes" where it is a question of yes or no.
PHRASES = {
    "motion.steady": "Every frame {verb} last equally long",
    "motion.intra_only": "Every frame {verb} decode by itself",
    "file.index_in_front": "The index {verb} stand in front, so that the file plays before it is all there",
    "picture.alpha": "Transparency {verb} be carried",
    "sound.start_offset": "The sound {verb} start {asked} after the picture",
    "sound.length_difference": "The sound {verb} end {asked} after the picture",
    "sound.tracks": "The number of sound tracks {verb} be {asked}",
}


def sentence(requirement: Requirement) -> str:
    """Say a requirement as a plain sentence."""
    prop, rule = lookup(requirement.property), requirement.rule
    verb = "must" if requirement.severity == "must" else "should"
    note = f" {requirement.note}" if requirement.note else ""
    phrase = PHRASES.get(prop.key)
    if phrase is not None and rule.operator not in {"present", "same_as"}:
        if prop.kind.name == "flag" and limits(requirement) == (False,):
            verb += " not"
        return phrase.format(verb=verb, asked=asked(requirement)) + "." + note
    plain = prop.group in prop.label or prop.group in {"file", "motion"}
    subject = f"The {prop.label}" if plain else f"The {prop.group}'s {prop.label}"
    match rule.operator:
        case "present":
            tail = "be stated" if rule.present else "not be stated"
        case "same_as":
            tail = "stay as it is in the master" if rule.same_as == "master" else "be the same for every item of the crate"
        case _:
            tail = f"be {asked(requirement)}"
    return f"{subject} {verb} {tail}.{note}"
