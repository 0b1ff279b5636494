"""What of an item, or of a row of its ledger, a person looks at first."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from .notes import Caution

Worst = Literal[
    "breaks", "cannot be made", "needs a choice", "cautions", "advice", "unproven", "meets"
]
WORST_FIRST: tuple[Worst, ...] = (
    "breaks",
    "cannot be made",
    "needs a choice",
    "cautions",
    "advice",
    "unproven",
    "meets",
)
Matter = Literal["breaks", "advice", "unproven", "caution", "choice", "change", ""]
FORETOLD = ("breaks", "advice")


@dataclass(frozen=True)
class Concerns:
    """What is to be looked at of an item, counted.

    Attributes:
        breaks: requirements that its file breaks, or that its route is foretold to break.
        stops: what keeps it from being made, and no choice would settle.
        choices: what waits for a choice.
        cautions: what is to be known besides.
        advice, unproven: requirements of its file.
    """

    breaks: int = 0
    stops: int = 0
    choices: int = 0
    cautions: int = 0
    advice: int = 0
    unproven: int = 0

    @property
    def worst(self) -> Worst:
        """Name the worst of it."""
        counts = (
            self.breaks,
            self.stops,
            self.choices,
            self.cautions,
            self.advice,
            self.unproven,
            1,
        )
        return next(name for name, count in zip(WORST_FIRST, counts, strict=True) if count)

    @property
    def rank(self) -> int:
        """Give the place among items that are looked at, the worst first."""
        return WORST_FIRST.index(self.worst)


def of_item(
    rows: Collection[Mapping[str, Any]], cautions: Collection[Caution], troubles: int = 0
) -> Concerns:
    """Count what is to be looked at of an item.

    Args:
        rows: of its ledger (`table.rows`).
        cautions: of its route.
        troubles: what keeps it from having a route.
    """
    blocking = [one for one in cautions if one.blocks]
    # What stops it, or waits for a choice, is counted as that.
    told = {one.row for one in blocking}
    verdicts = [
        _verdict(row)
        for row in rows
        if not row.get("exception") and (row["file"] or row["property"] not in told)
    ]
    choices = sum(bool(one.choice) for one in blocking)
    return Concerns(
        breaks=verdicts.count("breaks"),
        stops=len(blocking) - choices + troubles,
        choices=choices,
        cautions=len(cautions) - len(blocking),
        advice=verdicts.count("advice"),
        unproven=sum(row["verdict"] == "unproven" for row in rows),
    )


def of_row(row: Mapping[str, Any], warned: Collection[str], choosable: Collection[str]) -> Matter:
    """Say why a row of a ledger is looked at before others; nothing where it simply meets.

    What was chosen, or is changed on the way, is of interest until a file shows that it meets.

    Args:
        row: of a ledger (`table.rows`).
        warned: properties that cautions are about.
        choosable: properties whose value may be chosen now.
    """
    verdict, is_warned = _verdict(row), row["property"] in warned
    if verdict == "breaks" and (row["file"] or not is_warned):
        return "breaks"
    if is_warned:
        return "caution"
    if verdict == "advice":
        return "advice"
    if row["file"] and verdict == "unproven":
        return "unproven"
    if row["file"]:
        return ""
    if row["property"] in choosable:
        return "choice"
    return "change" if _changes(row) else ""


def _verdict(row: Mapping[str, Any]) -> str:
    """Give the verdict on the file, or where there is none what is foretold and does not meet."""
    route = row["route"]
    if not row["file"] and route and route["verdict"] in FORETOLD:
        return str(route["verdict"])
    return str(row["verdict"])


def _changes(row: Mapping[str, Any]) -> bool:
    """Say whether the master does not meet, and the route makes it."""
    return row["master"]["verdict"] in ("breaks", "advice") or bool(row["contradiction"])
