"""What the API takes and gives of masters and of what arrives."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import ConfigDict, Field, RootModel

from .schemas import ErrorOut, FactOut, In, Out, Progress


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


class ProxyOut(Out):
    """The proxy: none, waiting, making, ready or failed."""

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
    proxy: ProxyOut


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


class Ingest(In):
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


class MasterSpan(In):
    """A path with a master's id and a range's."""

    id: int = Field(ge=1, le=2**31 - 1)
    span: int = Field(ge=1, le=2**31 - 1)


class Masters(RootModel[list[MasterOut]]):
    """A list of masters."""
