"""What the API takes and gives; the OpenAPI document and the front end's types are made from
these.
"""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, RootModel


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
    """How far work has come; `remaining` is in seconds and None where it is not known."""

    stage: str
    frame: int
    frames: int | None = None
    speed: float
    elapsed: float
    remaining: float | None = None
    share: float
    passes: int = 1
    pass_: int = Field(1, alias="pass", serialization_alias="pass")
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
    plays: int
    crates: int
    runs: int
    uploads: int
    jobs: int
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


class MasterOut(Out):
    """A master in the list."""

    id: int
    name: str
    origin: str
    size: int
    state: str
    sha256: str | None
    progress: Progress | None
    error: ErrorOut | None
    notes: list[str]
    summary: list[str]
    frames: int
    seconds: float | None
    rate: str | None
    has_picture: bool
    production: str
    contradictions: list[str]
    created_at: datetime
    mark: str


class MasterList(Out):
    """A page of the masters that a search finds; `unread` is what of it was not understood."""

    rows: list[MasterOut]
    total: int
    unread: list[str]


class FindMasters(In):
    """A search: words and figures such as `interlaced 5.1 over 10 GB`; `ids` asks for these
    alone.
    """

    q: str = Field("", max_length=300)
    production: str | None = Field(None, max_length=200)
    ids: str = Field("", max_length=4000, pattern=r"^[0-9,]*$")
    offset: int = Field(0, ge=0)
    limit: int = Field(100, ge=1, le=500)


class Production(Out):
    """A production and how many masters it has."""

    name: str
    masters: int


class Productions(RootModel[list[Production]]):
    """All productions."""


class FitOut(Out):
    """How a spec would take a master as it is."""

    spec: str
    title: str
    recipient: str
    answer: Literal["accepts", "rewrap only", "needs an encode", "cannot", "not known yet"]
    why: str


class EventOut(Out):
    """What measuring found at a place: seconds, and frames where there is a picture."""

    kind: str
    start: float
    end: float
    first: int | None
    last: int | None
    track: int | None
    what: str


class SpanOut(Out):
    """A named range of a master."""

    model_config = ConfigDict(from_attributes=True)
    id: int
    name: str
    first: int
    frames: int


class SpanIn(In):
    """A range to keep: its name, first frame and how many frames."""

    name: str = Field(min_length=1, max_length=100)
    first: int = Field(ge=0)
    frames: int = Field(ge=1)


class Correctable(Out):
    """A fact that a person may correct, the usual values, and the correction in force."""

    key: str
    label: str
    usual: list[str]
    now: str
    corrected: bool


class PlayOut(Out):
    """The light copy for smooth play: none, waiting, making, ready or failed."""

    state: Literal["none", "waiting", "making", "ready", "failed"]
    share: float = 0.0
    channels: int = 0
    error: ErrorOut | None = None


class MasterPage(MasterOut):
    """A master's page."""

    facts: list[FactOut]
    fits: list[FitOut]
    crates: list[str]
    playable: bool
    events: list[EventOut]
    spans: list[SpanOut]
    correctable: list[Correctable]
    same_as: list[str]
    start_frame: int
    drop_frame: bool
    display_aspect: float | None
    alpha: bool
    interlaced: bool
    still: bool
    play: PlayOut


class FrameAt(Out):
    """The frame that a timecode names."""

    frame: int


class LabelQuery(In):
    """A timecode as a person writes it, or a plain frame number."""

    label: str = Field(min_length=1, max_length=40)


class TrackTrace(Out):
    """A sound track's curve: `low` and `high` in percent of full scale by channel, momentary
    loudness in LUFS.
    """

    step: float = 0.1
    channels: list[dict[str, list[int]]] = []
    momentary: list[float] = []


class PictureTrace(Out):
    """Coded bits in each second, or longest second of a step."""

    step: float
    bits: list[int]


class TracesOut(Out):
    """The curves of a master."""

    picture: PictureTrace | None = None
    tracks: list[TrackTrace] = []


class Correct(In):
    """A correction of a fact; None takes it back."""

    key: str = Field(max_length=100)
    value: str | None = Field(max_length=100)


class ChangeMaster(In):
    """What a person keeps with a master."""

    production: str = Field(max_length=200)


class IntakeItem(Out):
    """A file, a folder or a sequence of images in an intake folder on the server."""

    kind: Literal["file", "folder", "sequence"]
    name: str
    size: int
    count: int
    missing: int
    taken: bool


class IntakeFolder(Out):
    """An intake folder on the server."""

    path: str
    watched: bool


class IntakeOut(Out):
    """What lies in one place of the intake folders."""

    folders: list[IntakeFolder]
    folder: int
    inner: str
    items: list[IntakeItem]


class BrowseIntake(In):
    """Which place to look at: an intake folder, and a folder inside it."""

    folder: int = Field(0, ge=0)
    inner: str = Field("", max_length=2000)


class TakeIn(In):
    """Files and sequences to take from an intake folder, read in place; `rate` is for sequences."""

    folder: int = Field(ge=0)
    inner: str = Field("", max_length=2000)
    names: list[str] = Field(min_length=1, max_length=5000)
    rate: str = Field("25", max_length=20)
    production: str = Field("", max_length=200)


class WatchFolder(In):
    """Whether an intake folder is watched."""

    folder: int = Field(ge=0)
    on: bool


class UnfinishedOne(Out):
    """An upload that was begun and not finished."""

    id: str
    name: str
    length: int
    arrived: int
    begun_at: datetime


class Unfinished(RootModel[list[UnfinishedOne]]):
    """All uploads that were begun and not finished."""


class Join(In):
    """Stills to join as one sequence, and its rate."""

    ids: list[int] = Field(min_length=2, max_length=5000)
    rate: str = Field("25", max_length=20)


class RecipientOut(Out):
    """One who receives."""

    key: str
    name: str
    kind: str
    line_rate: str
    note: str


class FindingOut(Out):
    """What the ledger says of one requirement."""

    property: str
    label: str
    group: str
    part: str
    asked: str
    found: str
    verdict: Verdict
    why: str
    severity: str
    source: str
    sentence: str
    applies: bool


class NewerSpec(Out):
    """A newer version of an open crate's spec, and what changed."""

    version: int
    changes: list[str]


class ReadyOut(Out):
    """Seconds until the recipient has everything, by part."""

    encode: float
    measure: float
    seal: float
    transfer: float
    total: float
    ready_at: datetime
    spare: float


class StripOut(Out):
    """A deliverable's verdicts, counted."""

    deliverable: int
    name: str
    verdict: Verdict
    meets: int
    advice: int
    unproven: int
    breaks: int


class RunOut(Out):
    """One run."""

    id: int
    state: str
    progress: Progress | None
    size: int | None
    sha256: str | None
    error: ErrorOut | None
    notes: list[str]
    starts: int
    encode_seconds: float | None
    measure_seconds: float | None
    started_at: datetime | None
    finished_at: datetime | None


class StageOut(Out):
    """What one stage of a deliverable shows for a requirement."""

    found: str
    verdict: Verdict
    why: str
    provenance: str


class ExceptionOut(Out):
    """A signed-off exception."""

    property: str
    reason: str
    by: str
    at: str


class LedgerRow(Out):
    """A row of the ledger."""

    property: str
    part: str
    label: str
    group: str
    kind: str
    severity: str
    source: str
    sentence: str
    room: bool
    asked: str
    contradiction: str
    master: StageOut
    route: StageOut | None
    file: StageOut | None
    verdict: Verdict
    why: str
    exception: ExceptionOut | None
    may_except: bool


class StepOut(Out):
    """A step of the route."""

    title: str
    reason: str
    rows: list[str]


class CautionOut(Out):
    """Something to know before running."""

    row: str
    what: str
    why: str
    figures: str
    way_out: str
    blocks: bool


class OptionOut(Out):
    """A value to pick: as it is stored, and as it is said."""

    value: str
    label: str


class SizeRange(Out):
    """Bytes between which a size lies that follows from the pictures."""

    least: int
    most: int


class DeliverableOut(Out):
    """A deliverable of a crate."""

    id: int
    master: MasterOut
    name: str
    item: str
    first: int
    master_frames: int
    verdict: Verdict
    rows: list[LedgerRow]
    steps: list[StepOut]
    cautions: list[CautionOut]
    choices: dict[str, Any]
    chosen: dict[str, Any]
    options: dict[str, list[OptionOut]]
    trouble: ErrorOut | None
    predicted_size: int
    predicted_range: SizeRange | None
    cap: int | None
    cap_of: str
    picture_size: str | None
    frames: int
    rate: str | None
    display_aspect: float | None
    stale: bool
    doing: str
    run: RunOut | None
    finished: RunOut | None
    playable: bool


class CrateOut(Out):
    """A crate on the floor."""

    id: int
    number: int
    revision: int
    title: str
    state: str
    recipient: RecipientOut
    spec: str
    spec_version: int
    spec_title: str
    due_at: datetime
    next_step: str
    blocked: str | None = Field(
        description="what keeps an item from being run, where something does"
    )
    worked_out: bool = Field(
        description="whether all of this is known; else it is being worked out, and news will tell"
    )
    strips: list[StripOut]
    bytes: int
    cap: int | None
    cap_of: str
    ready: ReadyOut
    sealed_at: datetime | None
    removed_at: datetime | None
    error: ErrorOut | None


class ReceiptOut(Out):
    """What came back."""

    id: int
    crate: int
    number: int
    revision: int
    title: str
    recipient: str
    accepted: bool
    sent_bytes: int
    message: str
    files: list[dict[str, Any]]
    created_at: datetime


class CratePage(CrateOut):
    """A crate's page."""

    deliverables: list[DeliverableOut]
    obstacles: list[str]
    receipts: list[ReceiptOut]
    bag: str | None
    bag_bytes: int | None
    whole: list[FindingOut]
    newer_spec: NewerSpec | None
    beside: list[str]
    taken_back: list[str] = Field(
        description="choices that the one just made took back, for they do not fit it"
    )


class RunningOut(Out):
    """A run on the floor."""

    run: RunOut
    crate: int
    number: int
    title: str
    name: str
    codec: str


class Floor(Out):
    """The floor: crates due, runs going on, what needs a person."""

    crates: list[CrateOut]
    running: list[RunningOut]
    attention: list[dict[str, Any]]
    now: datetime


class NewCrate(In):
    """A crate to make."""

    title: str = Field(min_length=1, max_length=200)
    spec: str
    due_at: datetime
    masters: list[int] = Field(default_factory=list, max_length=500)
    spans: list[int] = Field(default_factory=list, max_length=500)


class ChangeCrate(In):
    """What may change in an open crate."""

    title: str | None = Field(None, min_length=1, max_length=200)
    due_at: datetime | None = None


class AddMasters(In):
    """Masters, and named ranges of masters, to add to an open crate."""

    masters: list[int] = Field(default_factory=list, max_length=500)
    spans: list[int] = Field(default_factory=list, max_length=500)


class FollowSpec(In):
    """The version of its spec that a crate is to be planned with."""

    version: int = Field(ge=1)


class Choose(In):
    """A value in the room a spec leaves; None goes back to the planned one."""

    property: str
    value: str | int | float | bool | None


class SignOff(In):
    """An exception to sign off."""

    property: str
    reason: str = Field(min_length=1, max_length=2000)
    by: str = Field(min_length=1, max_length=200)


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


class LookQuery(In):
    """How a master's frame is shown: width 0 is sample for sample."""

    width: int = Field(960, ge=0, le=4096)
    field: Literal["woven", "upper", "lower"] = "woven"
    alpha: Literal["checker", "black", "white", "green", "matte"] = "checker"
    # Changes with what is assumed of the master, so that no picture made before a correction is
    # shown after it.
    v: str = Field("", max_length=100)


class MasterSpan(In):
    """A path with a master's id and a range's."""

    id: int = Field(ge=1, le=2**31 - 1)
    span: int = Field(ge=1, le=2**31 - 1)


class Removed(Out):
    """Something was removed."""

    id: int


class Masters(RootModel[list[MasterOut]]):
    """A list of masters."""


class Receipts(RootModel[list[ReceiptOut]]):
    """Every receipt."""
