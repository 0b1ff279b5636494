"""What an order asks a person, where it cannot or shall not go on by itself, and the answers that
it proposes.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any, Literal

from ..specs import naming
from ..specs.order import StandingOrder
from ..units.parts import Part
from .notes import Caution

Kind = Literal["choice", "cannot be made", "breaks", "caution", "trouble"]
NAME = "name."
ALWAYS_KNOWN = {"master", "recipient", *naming.SHAPES}
LEAVE, GO_ON, AGAIN = "leave out", "go on", "again"


class Answer(Part):
    """An answer that is proposed.

    Attributes:
        key: names it.
        label: says it to a person.
        choices: what is chosen then, by key.
    """

    key: str
    label: str
    choices: dict[str, str] = {}


class Question(Part):
    """What is asked.

    Attributes:
        kind: why it is.
        row: of the ledger, that it is about; empty where it is about all.
        what, why, way_out: as it is said.
        answers: that are proposed.
        fields: choices that a person may write: fields of a name.
    """

    kind: Kind
    row: str
    what: str
    why: str
    way_out: str
    answers: tuple[Answer, ...]
    fields: tuple[str, ...] = ()

    @property
    def mark(self) -> str:
        """Name what it is about, so that one who agreed is not asked again."""
        return f"{self.row} {self.what}"


LEFT_OUT = Answer(key=LEAVE, label="Leave it out: nothing is delivered of this master")
WENT_ON = Answer(key=GO_ON, label="Go on as it is")
ONCE_MORE = Answer(key=AGAIN, label="Try it again")


def questions(
    order: StandingOrder,
    cautions: Sequence[Caution],
    rows: Collection[Mapping[str, Any]],
    options: Mapping[str, Sequence[Mapping[str, str]]],
    empty: Sequence[str] = (),
    agreed: Collection[str] = (),
) -> list[Question]:
    """List what an order asks of an item that is planned.

    Args:
        order: says for which cautions it stops.
        cautions: of the item's route.
        rows: of its ledger (`table.rows`).
        options: values to pick from, by the choice's key.
        empty: fields of its name that nothing fills in, as choices.
        agreed: marks of questions that a person answered by going on.
    """
    blocking = [one for one in cautions if one.blocks]
    asked = [_of_blocking(one, options, empty) for one in blocking]
    told = {one.row for one in blocking}
    asked += [_of_break(row) for row in rows if _breaks(row) and row["property"] not in told]
    stopping = set(order.stops(one.row for one in cautions))
    asked += [_of_caution(one) for one in cautions if not one.blocks and one.row in stopping]
    return [one for one in asked if one.mark not in agreed]


def trouble(what: str, way_out: str, why: str = "") -> Question:
    """Ask what is to become of an item that came to nothing."""
    return Question(
        kind="trouble",
        row="",
        what=what,
        why=why,
        way_out=way_out,
        answers=(ONCE_MORE, LEFT_OUT),
    )


def _of_blocking(
    one: Caution, options: Mapping[str, Sequence[Mapping[str, str]]], empty: Sequence[str]
) -> Question:
    proposed = [
        Answer(
            key=f"{one.choice}={option['value']}",
            label=f"Choose {option['label']}",
            choices={one.choice: option["value"]},
        )
        for option in options.get(one.choice, ())
        if option["value"]
    ]
    return Question(
        kind="choice" if one.choice else "cannot be made",
        row=one.row,
        what=one.what,
        why=_why(one),
        way_out=one.way_out,
        answers=(*proposed, LEFT_OUT),
        fields=tuple(filter(_is_asked, empty)) if one.choice == NAME else (),
    )


def _is_asked(field: str) -> bool:
    """Say whether a field of a name has no value but by a person or the master's name."""
    return field.removeprefix(NAME) not in ALWAYS_KNOWN


def _why(one: Caution) -> str:
    figures = "" if one.figures in one.way_out else one.figures
    return " ".join(filter(None, [one.why, figures]))


def _breaks(row: Mapping[str, Any]) -> bool:
    """Say whether a file breaks a must, or where there is none its route is foretold to."""
    if row["severity"] != "must" or row.get("exception"):
        return False
    if row["file"]:
        return bool(row["verdict"] == "breaks")
    return bool(row["route"] and row["route"]["verdict"] == "breaks")


def _of_break(row: Mapping[str, Any]) -> Question:
    made = bool(row["file"])
    return Question(
        kind="breaks",
        row=row["property"],
        what=f"{row['label']}: {row['sentence']}".rstrip("."),
        why=row["why"] if made else "The route is foretold to break it.",
        way_out="Choose otherwise on the crate's page, or leave it out.",
        answers=(ONCE_MORE, LEFT_OUT) if made else (LEFT_OUT,),
    )


def _of_caution(one: Caution) -> Question:
    return Question(
        kind="caution",
        row=one.row,
        what=one.what,
        why=_why(one),
        way_out=one.way_out,
        answers=(WENT_ON, LEFT_OUT),
    )
