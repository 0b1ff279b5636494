"""Levels of codecs: what each holds, asked the same way of every codec that has them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from ..units.values import Size


@dataclass(frozen=True)
class Load:
    """A picture as it weighs on a level: `kept` frames stay in the decoder for reference."""

    size: Size
    rate: Fraction
    interlaced: bool = False
    kept: int = 1


@dataclass(frozen=True)
class Level:
    """A level of a codec.

    Attributes:
        name: as it is spoken, "4.1"; with its profile where the codec says both in one, as in
            "main@main".
        bit_rate: the most that it allows, in b/s.
        buffer: bits of the buffer that a decoder of it has; None where no table here gives it.
        says: what it holds, in words.
        holds: whether it holds a picture, fields left aside.
        fields: whether fields may be coded at it.
        main_tier: the b/s of its main tier, where it has two; `bit_rate` is then the high one's.
    """

    name: str
    bit_rate: int
    buffer: int | None
    says: str
    holds: Callable[[Load], bool]
    fields: bool = True
    main_tier: int | None = None

    @property
    def number(self) -> Fraction:
        """Give the level as a number, where its name is one."""
        return Fraction(self.name)


def samples_said(load: Load) -> str:
    """Say what a picture weighs in samples."""
    size, rate = load.size, load.rate
    samples = float(size.width * size.height * rate)
    return f"{size} at {float(rate):g} fps is {samples:.0f} samples a second"


@dataclass(frozen=True)
class Levels:
    """The levels of one codec.

    Attributes:
        source: the published tables.
        table: gives the levels of a profile, lowest first.
        named_with_profile: whether a level is said together with its profile.
        by_profile: whether the rate that a level allows differs from profile to profile.
        said: says what a picture weighs in the units of the levels.
        fields_source: where it is laid down at which levels fields may be coded.
        also: other writings of levels, by name.
        number: gives a level from the number that the codec library reads, which depends on the
            profile.
        untold: levels, by wrapper, that cannot be told in it.
    """

    source: str
    table: Callable[[str], Sequence[Level]]
    named_with_profile: bool = False
    by_profile: bool = False
    said: Callable[[Load], str] = samples_said
    fields_source: str = ""
    also: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    number: Callable[[str, int], str | None] | None = None
    untold: Mapping[str, frozenset[str]] = field(default_factory=dict)

    @property
    def key(self) -> str:
        """Name the property by which a level is asked for."""
        return "picture.profile_level" if self.named_with_profile else "picture.level"

    def by_name(self, name: str, profile: str = "") -> Level | None:
        """Find a level by its name."""
        return next((v for v in self.table(profile) if v.name == name), None)

    def by_number(self, number: Fraction, profile: str = "") -> Level | None:
        """Find a level by its number."""
        return self.by_name(f"{float(number):g}", profile)

    def lowest(
        self,
        load: Load,
        bit_rate: int = 0,
        profile: str = "",
        main_tier: bool = False,
        wrapper: str = "",
    ) -> Level | None:
        """Find the lowest level that holds a picture at a bit rate, or None where none does."""
        untold = self.untold.get(wrapper, frozenset())
        for level in (v for v in self.mine(profile) if v.name not in untold):
            held = level.holds(load) and (level.fields or not load.interlaced)
            tier = level.main_tier if main_tier else None
            if held and bit_rate <= (level.bit_rate if tier is None else tier):
                return level
        return None

    def mine(self, profile: str) -> list[Level]:
        """List the levels of a profile alone."""
        head = f"{profile or 'main'}@" if self.named_with_profile else ""
        return [v for v in self.table(profile) if v.name.startswith(head)]

    def with_fields(self, profile: str = "") -> list[Level]:
        """List the levels at which fields may be coded."""
        return [v for v in self.table(profile) if v.fields]

    def rule(self, level: Level) -> dict[str, Any]:
        """Give the rule that asks for a level."""
        return {"is": level.name} if self.named_with_profile else {"at_most": float(level.name)}
