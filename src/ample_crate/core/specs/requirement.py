"""A requirement, and choices between several ways to meet a spec."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, PrivateAttr, model_validator

from .rules import Ask, Rule, Scalar, Strict
from .wording import sentence

Severity = Literal["must", "should"]


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
