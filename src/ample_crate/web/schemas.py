"""What the API takes and gives; the OpenAPI document and the front end's types are made from
these.
"""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field


class Out(BaseModel):
    """Given by the API."""

    model_config = ConfigDict(from_attributes=True)


class In(BaseModel):
    """Taken by the API; unknown names are refused."""

    model_config = ConfigDict(extra="forbid")


Verdict = Literal["meets", "breaks", "advice", "unproven"]


class Problem(Out):
    """Problem details (RFC 9457); `way_out` says what to do."""

    type: str
    title: str
    status: int
    detail: str
    way_out: str


class ErrorOut(Out):
    """An error kept with a row; `said` are the own words of what failed, such as an encoder's."""

    code: str
    what: str
    way_out: str
    said: str = ""


class Progress(Out):
    """How far work has come; `remaining` is in seconds and None where it is not known; so many runs
    go on from one reading, `together`, or so many `workers` at it.
    """

    stage: str
    frame: int
    frames: int | None = None
    speed: float
    elapsed: float
    remaining: float | None = None
    share: float
    passes: int = 1
    pass_: int = Field(1, alias="pass", serialization_alias="pass")
    together: int = 1
    workers: int = 1
    model_config = ConfigDict(populate_by_name=True)


class FactOut(Out):
    """A fact as the screen shows it; `values` has what each source says."""

    key: str
    label: str
    group: str
    track: int
    shown: str
    provenance: str
    values: dict[str, str]
    contradicts: bool
    meaning: str


class Health(Out):
    """Whether the application is well.

    `database` is here or away, `workers` those with a sign of life, disk in bytes; `sandbox` is how
    media processes are confined.
    """

    status: Literal["well", "unwell"]
    instance: str
    database: Literal["here", "away"]
    workers: int
    sandbox: Literal["bubblewrap", "changed user", "limits alone"]
    disk_free: int
    disk_total: int


class HoldingOut(Out):
    """What one thing takes on disk, and what bounds it."""

    name: str
    what: str
    bytes: int
    files: int
    bound: str


class TidyingOut(Out):
    """What one tidying cleared away, by count."""

    at: datetime
    pictures: int
    proxies: int
    crates: int
    runs: int
    uploads: int
    jobs: int
    trials: int = 0
    logs: int
    bytes: int


class HousekeepingOut(Out):
    """The disk, what takes it, and the work of the engine."""

    disk_free: int
    disk_total: int
    place: str
    database_bytes: int
    workers: int
    waiting: int
    at_work: int
    holdings: list[HoldingOut]
    tidyings: list[TidyingOut]


class Numbered(In):
    """A path with an id."""

    id: int = Field(ge=1, le=2**31 - 1)


class FramePath(In):
    """A path to one picture."""

    id: int = Field(ge=1, le=2**31 - 1)
    frame: int = Field(ge=0, le=10**8)


class FrameQuery(In):
    """The picture's width on screen; `of` changes with what the picture is made of, and is not
    read.
    """

    width: int = Field(960, ge=16, le=1920)
    of: str = Field("", max_length=4000)


Ground = Literal["checker", "black", "white", "green", "matte"]


class PlannedQuery(FrameQuery):
    """How a frame of a deliverable is shown before it is coded; `alpha` is what shows through."""

    width: int = Field(960, ge=16, le=4096)
    alpha: Ground = "checker"


Shown = Literal["woven", "upper", "lower"]


class LookQuery(PlannedQuery):
    """How a frame of what was made, or of what it was made of, is shown; one field alone too."""

    field: Shown = "woven"


class DifferenceQuery(FrameQuery):
    """How much a difference is amplified."""

    gain: int = Field(8, ge=1, le=64)


class DisplayQuery(In):
    """How a master's frame is shown: width 0 is sample for sample."""

    width: int = Field(960, ge=0, le=4096)
    field: Shown = "woven"
    alpha: Ground = "checker"
    # Changes with what is assumed of the master, so that no picture made before a correction is
    # shown after it.
    v: str = Field("", max_length=100)
