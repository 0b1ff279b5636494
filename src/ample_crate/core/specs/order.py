"""A standing order: what arrives in a place goes by a spec, without a person while all is well."""

from __future__ import annotations

import re
from collections.abc import Iterable
from fnmatch import fnmatchcase
from typing import Annotated, Literal

from pydantic import Field, field_validator

from ..errors import BadSpec, BadValue
from ..facts.properties import lookup
from ..units.values import read_bytes
from .documents import Form
from .filling import Filling, expression
from .rules import Strict

TimeOfDay = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]
ID = r"^[a-z0-9][a-z0-9-]{1,60}$"


class Source(Strict):
    """Where masters arrive."""

    folder: str = Field(
        min_length=1,
        max_length=500,
        description="a folder inside an intake folder, such as incoming/spots",
    )
    names: list[Annotated[str, Field(min_length=1, max_length=200)]] = Field(
        default_factory=list,
        max_length=20,
        description="names that count, such as *.mov; none for all",
    )
    deeper: bool = Field(True, description="whether folders inside the folder count too")

    def counts(self, name: str) -> bool:
        """Say whether a file of this name is meant; capital letters do not matter."""
        small = name.lower()
        return not self.names or any(fnmatchcase(small, one.lower()) for one in self.names)

    @field_validator("folder")
    @classmethod
    def _inside(cls, folder: str) -> str:
        if folder.startswith("/") or ".." in folder.split("/"):
            raise ValueError("name a folder inside an intake folder, such as incoming/spots")
        return folder


class Naming(Strict):
    """What stands in the fields of names, read from the masters' names, or as it is."""

    pattern: str = Field(
        "", max_length=200, description="of the masters' names, such as lantern_l{lesson}_{*}"
    )
    fields: dict[str, Annotated[str, Field(max_length=200)]] = Field(default_factory=dict)

    def filling(self, first: int = 1) -> Filling:
        """Give it as names are filled in."""
        return Filling(self.fields, self.pattern, first)

    @field_validator("pattern")
    @classmethod
    def _reads(cls, pattern: str) -> str:
        try:
            expression(pattern)
        except BadValue as error:
            raise ValueError(error.sentence()) from None
        return pattern


class Due(Strict):
    """When a crate is due: so many days after its master came, at a time of a day."""

    days: int = Field(1, ge=0, le=365)
    working: bool = Field(True, description="whether only Monday to Friday count")
    at: TimeOfDay = "16:00"
    zone: str = Field("UTC", max_length=60)


class Hours(Strict):
    """The hours in which something is done; from one time to the next, by the clock of a zone."""

    begins: TimeOfDay
    ends: TimeOfDay
    zone: str = Field("UTC", max_length=60)


class Limits(Strict):
    """How much an order does by itself."""

    at_once: int = Field(5, ge=1, le=500, description="masters that are at work at a time")
    a_day: int | None = Field(None, ge=1, le=100_000, description="hand-overs on one day")
    bytes_a_day: str | None = Field(None, description="that are handed over on one day: 200 GB")

    @field_validator("bytes_a_day")
    @classmethod
    def _a_size(cls, text: str | None) -> str | None:
        if text is not None:
            try:
                read_bytes(text)
            except BadValue as error:
                raise ValueError(error.sentence()) from None
        return text


class StandingOrder(Strict):
    """An order that stands: from where, by which spec, chosen and named how, and how far it goes by
    itself.
    """

    id: str = Field(pattern=ID)
    title: str = Field(min_length=1, max_length=200)
    source: Source
    spec: str = Field(description="id of the spec")
    crate: str = Field(
        "{master}",
        min_length=1,
        max_length=200,
        description="title of the crates: {master}, {date}, {order}",
    )
    choices: dict[str, Annotated[str, Field(min_length=1, max_length=2000)]] = Field(
        default_factory=dict, description="in the room that the spec leaves, such as framing: crop"
    )
    name: Naming = Naming()  # type: ignore[call-arg]
    due: Due = Due()  # type: ignore[call-arg]
    goes_to: Literal["plan", "run", "seal", "hand over"] = Field(
        "hand over", description="how far it goes by itself"
    )
    priority: Literal[1, 0, -1] = 0
    makes: Literal["at once", "at night"] = Field(
        "at once", description="at night: in the night of the day sheet"
    )
    sends: Hours | None = Field(None, description="hours in which crates are handed over")
    limits: Limits = Limits()  # type: ignore[call-arg]
    stops_for: list[str] = Field(
        default_factory=list,
        max_length=100,
        description="cautions that wait for a person: properties such as motion.scan, or any",
    )

    @field_validator("stops_for")
    @classmethod
    def _kinds(cls, kinds: list[str]) -> list[str]:
        for one in kinds:
            if one != ANY:
                try:
                    lookup(one)
                except BadValue as error:
                    raise ValueError(error.sentence()) from None
        return kinds

    @field_validator("crate")
    @classmethod
    def _fields(cls, title: str) -> str:
        odd = [field for field in FIELDS.findall(title) if field not in IN_TITLES]
        if odd:
            known = ", ".join(f"{{{field}}}" for field in IN_TITLES)
            raise ValueError(f"'{{{odd[0]}}}' is not filled in here; known are {known}")
        return title

    def stops(self, rows: Iterable[str]) -> list[str]:
        """List which of the cautions of some rows wait for a person."""
        every = ANY in self.stops_for
        return [row for row in rows if every or row in self.stops_for]

    def titled(self, master: str, date: str) -> str:
        """Give the title of a crate."""
        values = {"master": master, "date": date, "order": self.title}
        return FIELDS.sub(lambda found: values[found[1]], self.crate)[:LONGEST_TITLE]

    def said(self, spec: str, recipient: str) -> str:
        """Say the order as one sentence.

        Args:
            spec: title of the spec.
            recipient: name of the recipient.
        """
        names = f" as {' or '.join(self.source.names)}" if self.source.names else ""
        then = {
            "hand over": f"goes by {spec} to {recipient}",
            "seal": f"is sealed by {spec} for {recipient}",
            "run": f"is made by {spec} for {recipient}",
            "plan": f"is planned by {spec} for {recipient}",
        }[self.goes_to]
        nights = ", made at night" if self.makes == "at night" else ""
        return f"What arrives in {self.source.folder}{names} {then}{nights}."


ANY = "any"
LONGEST_TITLE = 200
FIELDS = re.compile(r"\{([a-z]+)\}")
IN_TITLES = ("master", "date", "order")
FORM = Form(
    StandingOrder,
    BadSpec,
    "an order",
    "id",
    "docs/order.schema.json",
    "docs/order.schema.json",
)
