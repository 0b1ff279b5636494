"""What a route says: its steps, each with its reason, and its cautions."""

from __future__ import annotations

from dataclasses import dataclass

from ..units.parts import Part


class Step(Part):
    """One step of the route, its reason, and the ledger rows it bridges."""

    title: str
    reason: str
    rows: list[str]


class Caution(Part):
    """Something to know before running: what, why it matters, the figures, the way out.

    Attributes:
        row: of the ledger, that it is about.
        blocks: whether nothing can be made as long as it holds.
        choice: of what blocks, the choice that would settle it: its key, or "name." of any field of
        the name; nothing where none would.
    """

    row: str
    what: str
    why: str
    figures: str
    way_out: str
    blocks: bool = False
    choice: str = ""


@dataclass(frozen=True)
class Notes:
    """Steps and cautions, in order; those of several stages add up."""

    steps: tuple[Step, ...] = ()
    cautions: tuple[Caution, ...] = ()

    def __add__(self, other: Notes) -> Notes:
        return Notes(self.steps + other.steps, self.cautions + other.cautions)

    @property
    def blocks(self) -> bool:
        """Say whether one of the cautions blocks."""
        return any(c.blocks for c in self.cautions)


NOTHING = Notes()


def step(title: str, reason: str, *rows: str) -> Notes:
    """Note a step and the ledger rows that it bridges."""
    return Notes(steps=(Step(title=title, reason=reason, rows=list(rows)),))


def caution(
    row: str, what: str, why: str, figures: str, way_out: str, *, blocks: bool = False
) -> Notes:
    """Note a caution."""
    one = Caution(row=row, what=what, why=why, figures=figures, way_out=way_out, blocks=blocks)
    return Notes(cautions=(one,))


def question(choice: str, row: str, what: str, why: str, figures: str, way_out: str) -> Notes:
    """Note a caution that blocks until something is chosen; but for the choice as `caution`."""
    blocking = caution(row, what, why, figures, way_out, blocks=True).cautions[0]
    return Notes(cautions=(blocking.model_copy(update={"choice": choice}),))


def in_all(*notes: Notes) -> Notes:
    """Add up notes."""
    return sum(notes, NOTHING)
