"""What the API of specs takes and gives."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import Field, RootModel

from .crate_schemas import FindingOut, OptionOut, RecipientOut
from .schemas import In, Out, Verdict


class RequirementOut(Out):
    """A requirement as sentence and as row; `part` names the alternative that it is a part of."""

    property: str
    label: str
    group: str
    part: str
    asked: str
    severity: str
    note: str
    source: str
    sentence: str
    choosable: bool
    house: str | None
    house_note: str


class RepairOut(Out):
    """A proposed change: rules by property, null for a requirement to take out; empty where a
    person must decide.
    """

    says: str
    changes: dict[str, dict[str, Any] | None]


class ContradictionOut(Out):
    """What in a spec contradicts itself, or can hardly be meant."""

    kind: str
    grade: Literal["contradiction", "doubt"]
    what: str
    why: str
    properties: list[str]
    clauses: list[str]
    repair: RepairOut


class SpecOut(Out):
    """A spec in the register, by its version in force or else its newest."""

    id: str
    version: int
    title: str
    status: str
    in_force: bool
    valid_from: str | None
    summary: str
    asks: str = Field(description="the words of all that it asks, to search in")
    recipient: RecipientOut
    requirements: int
    cap: int | None
    cap_of: str
    open_crates: int
    crates: int
    newest: int
    newest_status: str


class SpecList(RootModel[list[SpecOut]]):
    """The register."""


class VersionOut(Out):
    """One version of a spec, and who uses it."""

    version: int
    status: str
    in_force: bool
    valid_from: str | None
    origin: str
    changed_at: datetime
    open_crates: int
    crates: int


class HouseSetOut(Out):
    """A named set of house choices."""

    name: str
    note: str
    choices: list[str]


class Reading(Out):
    """A spec as its reader sees it."""

    id: str
    version: int
    title: str
    status: str
    valid_from: str | None
    summary: str
    source: str
    recipient: RecipientOut | None
    rows: list[RequirementOut]
    coding: list[str]
    delivery: list[str]
    name_pattern: str
    house_sets: list[HouseSetOut]
    contradictions: list[ContradictionOut]


class CrateUsing(Out):
    """A crate planned with a spec."""

    id: int
    number: int
    revision: int
    title: str
    state: str
    version: int


class SpecPage(Out):
    """A spec to read, its document to edit, its versions."""

    reading: Reading
    document: dict[str, Any]
    yaml: str
    versions: list[VersionOut]
    crates: list[CrateUsing]
    in_force: bool


class SpecPath(In):
    """A path with a spec's id."""

    id: str = Field(max_length=80)


class VersionQuery(In):
    """Which version; the one in force where none is named."""

    version: int | None = Field(None, ge=1)


class FileQuery(VersionQuery):
    """Which version, and in which form."""

    form: Literal["yaml", "json"] = "yaml"


class CheckIn(In):
    """A spec being written: its document, or the text of a file."""

    document: dict[str, Any] | None = None
    text: str | None = Field(None, max_length=500_000)
    name: str = Field("the spec", max_length=200)


class Wrong(Out):
    """What is wrong with a spec: where, if it can be said, and what to do."""

    what: str
    way_out: str
    place: list[str | int]


class Checked(Out):
    """A spec being written, read: what is wrong, or how it reads; and the sentence of every
    requirement that can be read by itself.
    """

    wrong: list[Wrong]
    sentences: list[str]
    document: dict[str, Any] | None
    reading: Reading | None


class SaveIn(In):
    """A spec to keep; `base` is the version that the person began from, null for a new one."""

    document: dict[str, Any]
    base: int | None = Field(None, ge=1)


class RepairIn(In):
    """A repair to make in a document."""

    document: dict[str, Any]
    changes: dict[str, dict[str, Any] | None]


class DocumentOut(Out):
    """A spec's document."""

    document: dict[str, Any]


class CompareQuery(In):
    """Two specs, or two versions of one."""

    left: str = Field(max_length=80)
    right: str = Field(max_length=80)
    left_version: int | None = Field(None, ge=1)
    right_version: int | None = Field(None, ge=1)


class DifferenceOut(Out):
    """One row of a comparison."""

    group: str
    label: str
    left: str
    right: str
    change: Literal["same", "changed", "added", "taken out"]


class Comparison(Out):
    """Two specs side by side."""

    left: Reading
    right: Reading
    rows: list[DifferenceOut]


class ProposalOut(Out):
    """A rule that a file's fact suggests; `usual` where such a rule is usually meant."""

    row: dict[str, Any]
    property: str
    label: str
    group: str
    shown: str
    because: str
    usual: bool
    sentence: str


class Trial(Out):
    """What a file looked at gave: its facts' proposals, and its ledger where a spec was named."""

    name: str
    seconds: float
    notes: list[str]
    proposals: list[ProposalOut]
    verdict: Verdict | None
    findings: list[FindingOut]


class TrialQuery(In):
    """A file to look at: its name, and the spec to hold it against."""

    name: str = Field(min_length=1, max_length=300)
    spec: str | None = Field(None, max_length=80)
    version: int | None = Field(None, ge=1)


class PropertyOut(Out):
    """A property that a rule can be put on."""

    key: str
    label: str
    group: str
    kind: str
    meaning: str
    operators: list[str]
    values: list[OptionOut]
    closed: bool
    unit: str


class LevelOut(Out):
    """A level and what it holds."""

    codec: str
    name: str
    says: str


class ProfilesOut(Out):
    """The profiles of a codec."""

    codec: str
    profiles: list[str]


class RateOut(Out):
    """A frame rate: as a fraction, and as people say it."""

    value: str
    said: str


class Vocabulary(Out):
    """All that an editor of specs offers."""

    properties: list[PropertyOut]
    rates: list[RateOut]
    sizes: list[str]
    levels: list[LevelOut]
    profiles: list[ProfilesOut]
    name_fields: list[str]
    sidecars: dict[str, list[str]]
    recipients: list[RecipientOut]


class RefusedSpec(Out):
    """A spec file that is not in the register, and why."""

    file: str
    what: str
    way_out: str


class RegisterRead(Out):
    """What reading the spec files again gave."""

    specs: int
    refused: list[RefusedSpec]
