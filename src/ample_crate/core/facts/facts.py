"""What is known of a media file, with the provenance of every fact."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from typing import Any, Literal

from ..units.values import Value
from .properties import PROPERTIES, disagree, lookup, split_track, track_key

Provenance = Literal["assumed", "measured", "declared", "predicted", "second"]
# The order of belief: a person's correction, then what decoding showed, then the header.
PROVENANCES: tuple[Provenance, ...] = ("assumed", "measured", "declared", "predicted")


@dataclass(frozen=True)
class Fact:
    """One property of a file, as far as each source knows it.

    What a second reader says is not believed: it makes what is measured doubtful.
    """

    declared: Value | None = None
    measured: Value | None = None
    assumed: Value | None = None
    predicted: Value | None = None
    second: Value | None = None

    @property
    def provenance(self) -> Provenance | None:
        """Name the source that is believed."""
        return next((p for p in PROVENANCES if getattr(self, p) is not None), None)

    @property
    def value(self) -> Value | None:
        """Give the believed value, or None where nothing is known."""
        source = self.provenance
        return None if source is None else getattr(self, source)


NOTHING = Fact()
_ORDER = {key: number for number, key in enumerate(PROPERTIES)}


def _place(key: str) -> tuple[int, int]:
    """Give a key's place in a list of facts: by track, then as the registry has it."""
    base, track = split_track(key)
    return track, _ORDER[base]


class Facts(Mapping[str, Fact]):
    """An immutable table of facts by property key; sound tracks after the first carry "@2",
    "@3".
    """

    def __init__(self, table: Mapping[str, Fact] | None = None) -> None:
        self._table = dict(table or {})

    def __getitem__(self, key: str) -> Fact:
        return self._table[key]

    def __iter__(self) -> Iterator[str]:
        return iter(self._table)

    def __len__(self) -> int:
        return len(self._table)

    def __repr__(self) -> str:
        return f"Facts({ {k: f.value for k, f in self._table.items()} })"

    @cached_property
    def believed(self) -> dict[str, tuple[Any, str]]:
        """Give the believed value and who says it, by key; what nobody knows is left out."""
        told = {key: (fact.value, fact.provenance) for key, fact in self._table.items()}
        return {key: (value, source) for key, (value, source) in told.items() if source is not None}

    def fact(self, key: str) -> Fact:
        """Give the fact, or an empty one."""
        return self._table.get(key, NOTHING)

    def value(self, key: str) -> Any:
        """Give the believed value, or None."""
        return self.believed.get(key, (None, ""))[0]

    def fraction(self, key: str) -> Fraction | None:
        """Give a rate, time or aspect as an exact fraction, or None."""
        value = self.value(key)
        return None if value is None else Fraction(value)

    def tracks(self, base: str) -> list[tuple[str, Fact]]:
        """List the facts of a sound property over all tracks, first track first."""
        count = self.value("sound.tracks") or 1
        keys = [track_key(base, n) for n in range(1, int(count) + 1)]
        return [(key, self.fact(key)) for key in keys]

    def with_values(self, provenance: Provenance, values: Mapping[str, Value | None]) -> Facts:
        """Give new facts in which one source also says these values; None is passed over.

        Raises:
            BadSpec: a key is no known property.
        """
        table = dict(self._table)
        for key, value in values.items():
            lookup(key)
            if value is not None:
                before = table.get(key)
                table[key] = (
                    Fact(**{provenance: value})
                    if before is None
                    else replace(before, **{provenance: value})
                )
        return Facts(table)

    def contradictions(self) -> list[str]:
        """List the keys where header and decoding disagree."""
        return [key for key in self._table if self.contradicts(key)]

    def contradicts(self, key: str) -> bool:
        """Say whether the header and the decoded file disagree on a property."""
        fact = self.fact(key)
        return disagree(key, fact.declared, fact.measured)

    @cached_property
    def doubtful(self) -> frozenset[str]:
        """Name the keys of which a second reader says something else, that no person settled."""
        return frozenset(
            key
            for key, fact in self._table.items()
            if fact.second is not None
            and fact.assumed is None
            and disagree(
                key, fact.second, fact.measured if fact.measured is not None else fact.declared
            )
        )

    def as_json(self) -> dict[str, dict[str, Any]]:
        """Give the table as JSON: {key: {declared?, measured?, assumed?, predicted?}}, without
        loss.
        """
        made: dict[str, dict[str, Any]] = {}
        for key in sorted(self._table, key=_place):
            stored, fact = lookup(key).kind.stored, self._table[key]
            said = {source: getattr(fact, source) for source in (*PROVENANCES, "second")}
            made[key] = {
                source: stored(value) for source, value in said.items() if value is not None
            }
        return made

    @staticmethod
    def from_json(table: Mapping[str, Mapping[str, Any]]) -> Facts:
        """Read what `as_json` wrote."""
        return Facts(
            {
                key: Fact(**{source: lookup(key).kind.read(value) for source, value in row.items()})
                for key, row in table.items()
            }
        )
