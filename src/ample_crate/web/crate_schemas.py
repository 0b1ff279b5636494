"""What the API takes and gives of crates, their runs and receipts."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import Field, RootModel

from ..core.planning.concerns import Matter, Worst
from .master_schemas import MasterOut
from .schemas import ErrorOut, In, Out, Progress, Verdict


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
    """Seconds until the recipient has everything: what each part takes by itself, and in total with
    what stands before it and as many workers as there are.
    """

    wait: float = Field(description="until the first of its runs begins")
    encode: float
    measure: float
    seal: float
    transfer: float
    total: float
    held: int = Field(description="runs that a person holds back, counted as if let go now")
    ready_at: datetime
    spare: float


class ConcernsOut(Out):
    """What a person looks at first of a deliverable, counted, and the worst of it."""

    breaks: int = Field(description="requirements broken by the file, or by what is foretold of it")
    stops: int = Field(description="what keeps it from being made, and no choice would settle")
    choices: int = Field(description="what waits for a choice")
    cautions: int
    advice: int
    unproven: int
    worst: Worst
    rank: int = Field(description="place among others, the worst first")


class StripOut(Out):
    """A deliverable's verdicts, counted."""

    deliverable: int
    name: str
    verdict: Verdict
    meets: int
    advice: int
    unproven: int
    breaks: int
    concerns: ConcernsOut


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
    choosable: bool
    asked: str
    contradiction: str
    master: StageOut
    route: StageOut | None
    file: StageOut | None
    verdict: Verdict
    why: str
    exception: ExceptionOut | None
    may_except: bool
    matters: Matter = Field(description="why it is looked at first; empty where it simply meets")


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
    choice: str = Field(description='key of the choice that settles it; "name." of any of a name')


class OptionOut(Out):
    """A value to pick: as it is stored, and as it is said."""

    value: str
    label: str


class SizeRange(Out):
    """Bytes between which a size lies that follows from the pictures."""

    least: int
    most: int


class OtherMaster(Out):
    """Another master that a deliverable is made of."""

    id: int
    name: str


class FrontAndBack(Out):
    """Frames of a master, in a row."""

    first: int
    frames: int


class DeliverableOut(Out):
    """A deliverable of a crate."""

    id: int
    master: MasterOut
    sound: OtherMaster | None
    under: OtherMaster | None
    name: str
    item: str
    first: int
    master_frames: int = Field(description="frames of the master that are taken")
    left_out: list[FrontAndBack] = Field(
        description="what is not taken between the first and the last of them, in order"
    )
    verdict: Verdict
    rows: list[LedgerRow]
    steps: list[StepOut]
    cautions: list[CautionOut]
    choices: dict[str, Any]
    chosen: dict[str, Any]
    options: dict[str, list[OptionOut]]
    can_undo: bool
    can_redo: bool
    trouble: ErrorOut | None
    predicted_size: int
    predicted_range: SizeRange | None
    cap: int | None
    cap_of: str
    codec: str
    picture_size: str | None
    frames: int
    seconds: float | None = Field(description="of the finished file, measured")
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
    begins_with: dict[str, str] = Field(
        description="what its spec has new crates choose at first, by what is chosen"
    )
    beside: list[str]
    taken_back: list[str] = Field(
        description="choices that were taken back, or not taken: they do not fit what was done"
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


class TakeSound(In):
    """Another master whose sound goes with the picture; None for the master's own."""

    master: int | None


class LayOver(In):
    """Another master whose first picture transparency is laid over; None for what was before."""

    master: int | None


class SignOff(In):
    """An exception to sign off."""

    property: str
    reason: str = Field(min_length=1, max_length=2000)
    by: str = Field(min_length=1, max_length=200)


class Removed(Out):
    """Something was removed."""

    id: int


class Receipts(RootModel[list[ReceiptOut]]):
    """Every receipt."""
