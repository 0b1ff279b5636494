"""The tables."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    JSON,
    BigInteger,
    ColumnElement,
    Computed,
    ForeignKey,
    ForeignKeyConstraint,
    Index,
    UniqueConstraint,
    func,
    or_,
    text,
)
from sqlalchemy.orm import Mapped, mapped_column, relationship

from .base import Base
from .day import Worker


class Recipient(Base):
    """One who receives; the document is the recipient as its file gives it."""

    __tablename__ = "recipient"
    key: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    kind: Mapped[str]
    document: Mapped[dict[str, Any]]


class Usual(Base):
    """What is usual for a recipient (`work.usual.UsualSettings`)."""

    __tablename__ = "usual"
    recipient_key: Mapped[str] = mapped_column(
        ForeignKey("recipient.key", ondelete="CASCADE"), primary_key=True
    )
    document: Mapped[dict[str, Any]]


class SpecVersion(Base):
    """One version of a spec; the document is the spec as its file gives it, its origin "file" or
    "here".
    """

    __tablename__ = "spec"
    id: Mapped[str] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(primary_key=True)
    recipient_key: Mapped[str] = mapped_column(ForeignKey("recipient.key"))
    # JSON as it was written: its order is the order in which the spec is read.
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    origin: Mapped[str] = mapped_column(default="file")
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now(), onupdate=func.now())
    recipient: Mapped[Recipient] = relationship()


class Master(Base):
    """A source handed in. States: reading, measuring, ready, failed, changed.

    `identity` says which bytes were read, without reading them again (`file_identity`); `sha256`
    are they. A master whose file is another one now is *changed*: its facts are void until it is
    read again. `facts` is what header and decoding say, `corrections` what a person assumes over
    it. `card`, `words` and `seconds` are made from both for the list and its search. `proxy` tells
    of the proxy, `came_from` names the folder and numbering of an image
    sequence.
    """

    __tablename__ = "master"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    path: Mapped[str]
    origin: Mapped[str]
    size: Mapped[int] = mapped_column(BigInteger)
    sha256: Mapped[str | None] = mapped_column(index=True)
    identity: Mapped[str | None]
    state: Mapped[str] = mapped_column(default="reading", index=True)
    production: Mapped[str] = mapped_column(default="", index=True)
    words: Mapped[str] = mapped_column(default="")
    seconds: Mapped[float | None]
    card: Mapped[dict[str, Any]] = mapped_column(default=dict)
    facts: Mapped[dict[str, Any]] = mapped_column(default=dict, deferred=True)
    corrections: Mapped[dict[str, Any]] = mapped_column(default=dict)
    # Changes with what is known, whoever changes it.
    facts_mark: Mapped[str] = mapped_column(
        Computed("md5(facts::text || corrections::text)", persisted=True)
    )
    events: Mapped[list[Any]] = mapped_column(default=list, deferred=True)
    proxy: Mapped[dict[str, Any] | None]
    came_from: Mapped[str | None]
    notes: Mapped[list[Any]] = mapped_column(default=list)
    progress: Mapped[dict[str, Any] | None]
    error: Mapped[dict[str, Any] | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    spans: Mapped[list[NamedSpan]] = relationship(
        order_by="NamedSpan.first, NamedSpan.id", cascade="all, delete-orphan"
    )


class Trace(Base):
    """The curves measured of a master, for its page: rate over time, waveforms, loudness."""

    __tablename__ = "trace"
    master_id: Mapped[int] = mapped_column(
        ForeignKey("master.id", ondelete="CASCADE"), primary_key=True
    )
    document: Mapped[dict[str, Any]]


class NamedSpan(Base):
    """A named range of a master, in frames."""

    __tablename__ = "span"
    id: Mapped[int] = mapped_column(primary_key=True)
    master_id: Mapped[int] = mapped_column(ForeignKey("master.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    first: Mapped[int]
    frames: Mapped[int]


class WatchedFolder(Base):
    """An intake folder that is watched: what is new there is taken in without being asked for."""

    __tablename__ = "watch"
    folder: Mapped[str] = mapped_column(primary_key=True)


class PassedOver(Base):
    """What a person dismissed: it lies in its intake folder still, and a watched folder does not
    hand it in again.
    """

    __tablename__ = "passed_over"
    place: Mapped[str] = mapped_column(primary_key=True)


class Upload(Base):
    """A file that is still coming in, in pieces; `said` is the metadata of the client's own
    words.
    """

    __tablename__ = "upload"
    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    length: Mapped[int] = mapped_column(BigInteger)
    said: Mapped[str] = mapped_column("metadata", default="")
    master_id: Mapped[int | None] = mapped_column(ForeignKey("master.id", ondelete="SET NULL"))
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Crate(Base):
    """One hand-over. States: open, sealing, sealed, handing over, received, refused.

    One that was removed has `removed_at`, and can be had back for a while. `bag_digest` and
    `bag_files` are what was recorded of the bag when it was sealed (`handover.bag.Sealed`).
    """

    __tablename__ = "crate"
    __table_args__ = (
        ForeignKeyConstraint(
            ["spec_id", "spec_version"], ["spec.id", "spec.version"], name="fk_crate_spec"
        ),
        UniqueConstraint("number", "revision", name="uq_crate_number_revision"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    number: Mapped[int] = mapped_column(index=True)
    revision: Mapped[int] = mapped_column(default=1)
    title: Mapped[str]
    recipient_key: Mapped[str] = mapped_column(ForeignKey("recipient.key"))
    spec_id: Mapped[str]
    spec_version: Mapped[int]
    due_at: Mapped[datetime]
    state: Mapped[str] = mapped_column(default="open", index=True)
    bag: Mapped[str | None]
    bag_bytes: Mapped[int | None] = mapped_column(BigInteger)
    bag_digest: Mapped[str | None]
    bag_files: Mapped[dict[str, Any] | None] = mapped_column(deferred=True)
    sealed_at: Mapped[datetime | None]
    error: Mapped[dict[str, Any] | None]
    removed_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    recipient: Mapped[Recipient] = relationship()
    spec: Mapped[SpecVersion] = relationship(viewonly=True)
    deliverables: Mapped[list[Deliverable]] = relationship(
        back_populates="crate",
        cascade="all, delete-orphan",
        order_by="Deliverable.position, Deliverable.id",
    )
    receipts: Mapped[list[Receipt]] = relationship(
        back_populates="crate", order_by="Receipt.id", cascade="all, delete-orphan"
    )


class Deliverable(Base):
    """One output of a crate: a master or a range of it, the crate's spec, and choices.

    `sound` is another master whose sound goes with the picture; None for its own. `under` is
    another whose first picture its transparency may be laid over.
    `cut` is where a copy of the range begins and ends: {of: SHA-256 of the master, first, frames}.
    `exceptions` are signed-off departures. `wanted_at` is when somebody asked for its run, while it
    waits for what the run needs. `earlier` are choices that can be gone back to, the newest last,
    and `later` those that were gone back from.
    """

    __tablename__ = "deliverable"
    id: Mapped[int] = mapped_column(primary_key=True)
    crate_id: Mapped[int] = mapped_column(ForeignKey("crate.id", ondelete="CASCADE"), index=True)
    master_id: Mapped[int] = mapped_column(ForeignKey("master.id"))
    sound_id: Mapped[int | None] = mapped_column(ForeignKey("master.id"))
    under_id: Mapped[int | None] = mapped_column(ForeignKey("master.id"))
    position: Mapped[int] = mapped_column(default=0)
    span: Mapped[dict[str, Any] | None]
    cut: Mapped[dict[str, Any] | None]
    choices: Mapped[dict[str, Any]] = mapped_column(default=dict)
    earlier: Mapped[list[Any]] = mapped_column(default=list)
    later: Mapped[list[Any]] = mapped_column(default=list)
    exceptions: Mapped[list[Any]] = mapped_column(default=list)
    wanted_at: Mapped[datetime | None]
    crate: Mapped[Crate] = relationship(back_populates="deliverables")
    master: Mapped[Master] = relationship(foreign_keys=[master_id])
    sound: Mapped[Master | None] = relationship(foreign_keys=[sound_id])
    under: Mapped[Master | None] = relationship(foreign_keys=[under_id])
    runs: Mapped[list[Run]] = relationship(
        back_populates="deliverable", order_by="Run.id", cascade="all, delete-orphan"
    )

    @classmethod
    def uses(cls, master: int) -> ColumnElement[bool]:
        """Pick those that a master is part of."""
        return or_(cls.master_id == master, cls.sound_id == master, cls.under_id == master)


class Run(Base):
    """One execution of a route. States: queued, running, stopping, done, failed, cancelled.

    `master_sha256` are the bytes of the masters that the file was made from, joined by "+".
    While it is made from the reading of another run, that is its lead. `workers` is how many
    encoded it, `worker_id` which took it. Among those that wait one of a higher priority (1, 0, -1)
    comes first, of these the one with the lower place; one that is held, or is for the night by
    day, is not begun.
    """

    __tablename__ = "run"
    __table_args__ = (
        Index(
            "uq_run_unfinished",
            "deliverable_id",
            unique=True,
            postgresql_where=text("state in ('queued', 'running', 'stopping')"),
        ),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    deliverable_id: Mapped[int] = mapped_column(
        ForeignKey("deliverable.id", ondelete="CASCADE"), index=True
    )
    state: Mapped[str] = mapped_column(default="queued", index=True)
    route: Mapped[dict[str, Any]] = mapped_column(deferred=True)
    choices: Mapped[dict[str, Any]] = mapped_column(default=dict)
    progress: Mapped[dict[str, Any] | None]
    path: Mapped[str | None]
    size: Mapped[int | None] = mapped_column(BigInteger)
    sha256: Mapped[str | None]
    master_sha256: Mapped[str | None]
    facts: Mapped[dict[str, Any] | None] = mapped_column(deferred=True)
    facts_mark: Mapped[str | None] = mapped_column(Computed("md5(facts::text)", persisted=True))
    notes: Mapped[list[Any]] = mapped_column(default=list)
    error: Mapped[dict[str, Any] | None]
    foretold: Mapped[dict[str, Any] | None]
    encode_seconds: Mapped[float | None]
    measure_seconds: Mapped[float | None]
    starts: Mapped[int] = mapped_column(default=0)
    workers: Mapped[int] = mapped_column(default=1)
    lead_id: Mapped[int | None] = mapped_column(
        ForeignKey("run.id", ondelete="SET NULL"), index=True
    )
    priority: Mapped[int] = mapped_column(default=0, server_default="0")
    place: Mapped[int] = mapped_column(server_default=text("nextval('run_place')"))
    held: Mapped[bool] = mapped_column(default=False, server_default="false")
    night: Mapped[bool] = mapped_column(default=False, server_default="false")
    worker_id: Mapped[int | None] = mapped_column(
        ForeignKey("worker.id", ondelete="SET NULL"), index=True
    )
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    started_at: Mapped[datetime | None]
    finished_at: Mapped[datetime | None]
    deliverable: Mapped[Deliverable] = relationship(back_populates="runs")
    worker: Mapped[Worker | None] = relationship()


class Segment(Base):
    """One of several segments in which a run's picture is made, while it is made.

    States: offered to any worker; making, by one that took it; kept by the run's own worker; done;
    failed. `count` is how many there are of the run, `worker` which made it.
    """

    __tablename__ = "segment"
    __table_args__ = (UniqueConstraint("run_id", "number", name="uq_segment_run_id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id", ondelete="CASCADE"))
    number: Mapped[int]
    count: Mapped[int]
    state: Mapped[str] = mapped_column(default="offered")
    worker: Mapped[str] = mapped_column(default="")
    share: Mapped[float] = mapped_column(default=0.0)
    error: Mapped[dict[str, Any] | None]
    run: Mapped[Run] = relationship()


class KeptCrate(Base):
    """What was worked out of a crate, for the floor and for its page, with the digest of all that
    it depends on (`work.kept`).
    """

    __tablename__ = "kept_crate"
    crate_id: Mapped[int] = mapped_column(
        ForeignKey("crate.id", ondelete="CASCADE"), primary_key=True
    )
    digest: Mapped[str]
    floor: Mapped[dict[str, Any]]
    page: Mapped[dict[str, Any]]


class KeptFits(Base):
    """How specs would take a master, each with the digest of what that depends on (`work.kept`)."""

    __tablename__ = "kept_fits"
    master_id: Mapped[int] = mapped_column(
        ForeignKey("master.id", ondelete="CASCADE"), primary_key=True
    )
    document: Mapped[dict[str, Any]]


class Tidying(Base):
    """What the daily housekeeping cleared away."""

    __tablename__ = "tidying"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    document: Mapped[dict[str, Any]]


class PaceTrial(Base):
    """A trial of the paces of a codec on one machine (`media.trial`), or what kept it from ending:
    its state is waiting, trying, done or failed.
    """

    __tablename__ = "pace_trial"
    id: Mapped[int] = mapped_column(primary_key=True)
    codec: Mapped[str] = mapped_column(index=True)
    host: Mapped[str]
    state: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    document: Mapped[dict[str, Any]]


class Receipt(Base):
    """What the recipient's side answered."""

    __tablename__ = "receipt"
    id: Mapped[int] = mapped_column(primary_key=True)
    crate_id: Mapped[int] = mapped_column(ForeignKey("crate.id", ondelete="CASCADE"), index=True)
    accepted: Mapped[bool]
    sent_bytes: Mapped[int] = mapped_column(BigInteger)
    document: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    crate: Mapped[Crate] = relationship(back_populates="receipts")
