"""Settling values in the room a spec leaves, and the notes a planner takes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from .errors import Impossible
from .facts import Facts
from .plan import Caution, Step
from .spec import Spec, check_choice, limits
from .values import Value


class Notes:
    """Collects the steps and cautions of a route while it is planned."""

    def __init__(self) -> None:
        self.steps: list[Step] = []
        self.cautions: list[Caution] = []

    def step(self, title: str, reason: str, *rows: str) -> None:
        """Note a step and the ledger rows that it bridges."""
        self.steps.append(Step(title=title, reason=reason, rows=list(rows)))

    def caution(self, row: str, what: str, why: str, figures: str, way_out: str, blocks: bool = False) -> None:
        """Note a caution."""
        self.cautions.append(Caution(row=row, what=what, why=why, figures=figures, way_out=way_out, blocks=blocks))


class Settled:
    """Finds the value that each property gets: the choice, else the house's, else the nearest allowed to the master's."""

    def __init__(self, spec: Spec, master: Facts, choices: Mapping[str, Any]) -> None:
        self.spec, self.master = spec, master
        self.chosen: dict[str, Value] = {
            key: check_choice(spec, key, value) for key, value in choices.items() if key != "framing"
        }
        self.house: dict[str, Value] = {k: check_choice(spec, k, c.value) for k, c in spec.house.items()}
        self.framing = str(choices.get("framing", spec.coding.framing))
        if self.framing not in {"pad", "crop", "stretch"}:
            raise Impossible(f"'{self.framing}' is no framing.", "Choose pad, crop or stretch.")

    def get(self, key: str, default: Value | None = None) -> Any:
        """Settle a property.

        Args:
            key: the property.
            default: taken where neither the spec, the choices nor the master say anything, and where
                an open-ended rule needs a starting point.
        """
        if key in self.chosen:
            return self.chosen[key]
        requirement = self.spec.requirement(key)
        if key in self.house:
            return self.house[key]
        theirs = self.master.value(key)
        if requirement is None:
            return default if default is not None else theirs
        operands = limits(requirement)
        start: Any = default if default is not None else theirs
        match requirement.rule.operator:
            case "is":
                return operands[0]
            case "one_of":
                return theirs if theirs in operands else (default if default in operands else operands[0])
            case "at_least":
                return operands[0] if start is None else max(start, operands[0])
            case "at_most":
                return operands[0] if start is None else min(start, operands[0])
            case "between":
                return operands[0] if start is None else max(operands[0], min(start, operands[1]))  # type: ignore[type-var]
            case "same_as":
                return theirs if theirs is not None else default
            case _:
                return default if default is not None else theirs

    def cap(self, key: str) -> Any:
        """Give the most that a property may be, or None."""
        requirement = self.spec.requirement(key)
        if requirement is None or requirement.severity != "must":
            return None
        operands = limits(requirement)
        return operands[-1] if requirement.rule.operator in {"at_most", "between", "is"} else None
