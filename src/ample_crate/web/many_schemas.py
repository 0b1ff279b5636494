"""What is sent and given where many are dealt with at once: specs, items, lines of a sheet."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field, RootModel

from ..core.planning.concerns import Worst
from ..core.planning.sheets import MOST
from .crate_schemas import CrateOut
from .schemas import In, Out

Ids = list[int]
LONGEST_SHEET = 1_000_000  # characters


class SpecDue(In):
    """One of several specs that are delivered to, and when its crate is due."""

    spec: str = Field(max_length=100)
    due_at: datetime


class NewCrates(In):
    """Crates to make of the same masters, one for each spec."""

    title: str = Field(min_length=1, max_length=200)
    to: list[SpecDue] = Field(min_length=1, max_length=100)
    masters: Ids = Field(default_factory=list, max_length=500)
    spans: Ids = Field(default_factory=list, max_length=500)


class NewCrateOut(Out):
    """One of several crates that were made; `left_out` is what the house begins with and does not
    fit, in words.
    """

    id: int
    number: int
    spec_title: str
    recipient: str
    left_out: list[str]


class NewCratesOut(RootModel[list[NewCrateOut]]):
    """Crates that were made in one act."""


class TakersQuery(In):
    """Masters, by their numbers with commas between."""

    masters: str = Field(pattern=r"^[0-9]{1,10}(,[0-9]{1,10}){0,499}$")


class TakerOut(Out):
    """How a spec in force would take some masters: the answer that is furthest from taking them as
    they are.
    """

    spec: str
    title: str
    recipient: str
    recipient_key: str
    kind: str
    answer: str
    why: str
    could: bool = Field(description="whether all of them can be delivered to it")


class TakersOut(RootModel[list[TakerOut]]):
    """All specs in force."""


class SheetIn(In):
    """A sheet to look at: for a new crate to a spec, or for an open crate."""

    text: str = Field(min_length=1, max_length=LONGEST_SHEET)
    spec: str | None = Field(None, max_length=100)
    crate: int | None = Field(None, ge=1, le=2**31 - 1)


class LaySheet(In):
    """A sheet to lay into an open crate; with `partly` without the lines that have mistakes."""

    text: str = Field(min_length=1, max_length=LONGEST_SHEET)
    partly: bool = False


class NewFromSheet(LaySheet):
    """A crate to make of a sheet."""

    title: str = Field(min_length=1, max_length=200)
    spec: str = Field(max_length=100)
    due_at: datetime


class MistakeOut(Out):
    """What is wrong on a line of a sheet, and in which column; none where it is the line."""

    line: int
    column: str
    what: str
    way_out: str


class LineOut(Out):
    """A line of a sheet as it would be laid into the crate."""

    line: int
    item: str
    master: int
    fresh: bool = Field(description="whether it adds an item; else it changes one")
    file: str = Field(description="name of the file")
    chosen: list[str] = Field(description="what is chosen for it, in words")
    worst: Worst
    says: str = Field(description="what keeps it from being made, or is to be known")


class SheetOut(Out):
    """What would come of a sheet: nothing of it is kept."""

    lines: list[LineOut]
    mistakes: list[MistakeOut]
    columns: list[str] = Field(description="the columns that it may have")
    most: int = MOST


class ChooseForMany(In):
    """Choices for several items of a crate, by key; None goes back to what is planned."""

    to: Ids = Field(min_length=1, max_length=500)
    choices: dict[str, str | int | float | bool | None] = Field(min_length=1, max_length=60)


class FillNames(In):
    """How fields of names are filled in for several items, in their order."""

    to: Ids = Field(min_length=1, max_length=500)
    fields: dict[str, str] = Field(min_length=1, max_length=20)
    pattern: str = Field("", max_length=200)
    first: int = Field(1, ge=0, le=10**6)
    keep: bool = Field(True, description="else it is only looked at")


class NamedOut(Out):
    """An item's file name, or why it could not be filled in."""

    id: int
    item: str
    file: str
    wrong: str
    way_out: str


class NamesOut(RootModel[list[NamedOut]]):
    """The names of several items."""


class LikeIn(In):
    """An item to make like another: `like` is its number, `span` a named range of the master."""

    like: int = Field(ge=1, le=2**31 - 1)
    master: int = Field(ge=1, le=2**31 - 1)
    span: int | None = Field(None, ge=1, le=2**31 - 1)


class CloneIn(In):
    """A crate to make like another, with other masters."""

    title: str = Field(min_length=1, max_length=200)
    due_at: datetime
    items: list[LikeIn] = Field(min_length=1, max_length=500)


class CrateIds(In):
    """Several crates."""

    crates: Ids = Field(min_length=1, max_length=100)


class Begun(Out):
    """What came of running several crates: which begun, and why others could not."""

    begun: Ids
    not_begun: dict[int, str]


class CrateList(RootModel[list[CrateOut]]):
    """Several crates as on the floor."""
