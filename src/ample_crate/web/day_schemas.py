"""What the day sheet's API takes and gives."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field

from ..work.crew import Wanted
from ..work.turns import Priority, Rules
from .schemas import In, Out

RunIds = Annotated[list[int], Field(min_length=1, max_length=2000)]


class WorkerOut(Out):
    """A worker as it announced itself; `resting` says that something that it is at holds still."""

    id: int
    machine: str
    place: str
    processors: int
    encoders: list[str]
    room: int = Field(description="bytes that are free where it writes")
    wanted: Wanted
    heard: Wanted = Field(description="what it has heard of that")
    resting: bool
    since: datetime


class RunOnSheet(Out):
    """A run on the time line; `worker` is the number of who makes it, or is foretold to."""

    id: int
    deliverable: int
    item: str
    crate: int
    number: int
    title: str
    recipient: str
    codec: str
    state: str
    worker: int | None
    begins: datetime
    ends: datetime


class RunOfTheDay(RunOnSheet):
    """A run that goes on or waits."""

    due_at: datetime
    seconds: float = Field(description="that it takes still")
    priority: Priority
    held: bool
    night: bool
    waits_for_night: bool


class HelpOut(Out):
    """What would help, and the seconds that are to spare then."""

    way: Literal["let go", "first", "worker", "quicker"]
    pace: str
    spare: float


class LateOut(Out):
    """A crate that is foretold to be late."""

    id: int
    number: int
    title: str
    due_at: datetime
    spare: float
    helps: list[HelpOut]


class AccuracyOut(Out):
    """How far off the times foretold of the newest runs were, as shares of what came."""

    runs: int
    middle: float
    worst: float


class DayOut(Out):
    """The day sheet: runs that go on first, then those that wait, in their order."""

    now: datetime
    rules: Rules
    workers: list[WorkerOut]
    past: list[RunOnSheet]
    runs: list[RunOfTheDay]
    late: list[LateOut]
    accuracy: AccuracyOut | None


class MoveRuns(In):
    """Runs that are put before another one; null for after all."""

    runs: RunIds
    before: int | None = None


class ChangeTurns(In):
    """What changes of the turns of runs that wait; null leaves it."""

    runs: RunIds
    priority: Priority | None = None
    held: bool | None = None
    night: bool | None = None


class WantWorker(In):
    """What is wanted of a worker."""

    wanted: Wanted


class HistoryQuery(In):
    """Which runs are looked for."""

    words: str = Field("", max_length=200)
    state: Literal["", "done", "failed", "cancelled"] = ""
    codec: str = Field("", max_length=40)
    since: date | None = None
    until: date | None = None


class HistoryPageQuery(HistoryQuery):
    """Which runs are looked for, and which page of them."""

    limit: int = Field(100, ge=1, le=500)
    offset: int = Field(0, ge=0, le=10**6)


class EndedRun(Out):
    """A run that has ended; sizes in bytes, times in seconds."""

    id: int
    state: str
    finished_at: datetime
    deliverable: int
    crate: int
    number: int
    revision: int
    title: str
    recipient: str
    item: str
    codec: str
    size: int | None
    seconds: float | None
    encode_seconds: float | None
    measure_seconds: float | None
    foretold_seconds: float | None
    speed: float | None = Field(description="seconds of film encoded a second")
    quality: float | None = Field(description="mean of its XPSNR in dB, where it was compared")
    workers: int
    machine: str
    starts: int
    error: str


class CodecCompared(Out):
    """How runs were coded: medians over so many of them."""

    codec: str
    runs: int
    speed: float | None = Field(description="seconds of film encoded a second")
    bit_rate: int | None = Field(description="bits a second of the whole file")
    quality: float | None = Field(description="XPSNR in dB, of those that were compared")


class History(Out):
    """Runs that have ended, the newest first."""

    total: int
    rows: list[EndedRun]
    by_codec: list[CodecCompared]
    codecs: dict[str, str] = Field(description="labels of those that may be looked for, by key")
