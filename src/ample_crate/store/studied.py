"""What workers find out when a person asks: rows of their own, each kept with what it is of."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, func
from sqlalchemy.orm import Mapped, mapped_column, relationship

from .base import Base
from .models import Deliverable, Master, Run


class Studied:
    """What a worker finds out when a person asks.

    States: waiting, comparing, sampling, hearing, rehearsing, viewing or trying, stopping, done,
    failed, cancelled.
    """

    id: Mapped[int] = mapped_column(primary_key=True)
    state: Mapped[str] = mapped_column(default="waiting")
    progress: Mapped[dict[str, Any] | None]
    found: Mapped[dict[str, Any] | None] = mapped_column(deferred=True)
    error: Mapped[dict[str, Any] | None]
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class Comparison(Studied, Base):
    """What a run made, held against its master frame by frame (`core.quality.Likeness`); `mean` is
    its XPSNR's.
    """

    __tablename__ = "comparison"
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id", ondelete="CASCADE"), unique=True)
    mean: Mapped[float | None]
    run: Mapped[Run] = relationship()


class Sampling(Studied, Base):
    """How hard the pictures of a deliverable are (`work.hardness.Learned`), by the plan that it was
    learned on (`recipe`).
    """

    __tablename__ = "sampling"
    deliverable_id: Mapped[int] = mapped_column(
        ForeignKey("deliverable.id", ondelete="CASCADE"), unique=True
    )
    recipe: Mapped[str] = mapped_column(default="")
    deliverable: Mapped[Deliverable] = relationship()


class Easing(Studied, Base):
    """What would make a deliverable's pictures look better at its rate (`work.easing`), by the plan
    that it was found of (`recipe`).
    """

    __tablename__ = "easing"
    deliverable_id: Mapped[int] = mapped_column(
        ForeignKey("deliverable.id", ondelete="CASCADE"), unique=True
    )
    recipe: Mapped[str] = mapped_column(default="")
    deliverable: Mapped[Deliverable] = relationship()


class Hearing(Studied, Base):
    """What is made of a deliverable's sound (`media.hearing`), by the plan that it was heard on
    (`recipe`); `found` names the files that can be listened to.
    """

    __tablename__ = "hearing"
    deliverable_id: Mapped[int] = mapped_column(
        ForeignKey("deliverable.id", ondelete="CASCADE"), unique=True
    )
    recipe: Mapped[str] = mapped_column(default="")
    deliverable: Mapped[Deliverable] = relationship()


class Rehearsal(Studied, Base):
    """How a run's file plays (`media.rehearsing`)."""

    __tablename__ = "rehearsal"
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id", ondelete="CASCADE"), unique=True)
    run: Mapped[Run] = relationship()


class Viewing(Studied, Base):
    """What a run made beside what went into its encoder, to be played (`media.viewing`); `found`
    names the copy.
    """

    __tablename__ = "viewing"
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id", ondelete="CASCADE"), unique=True)
    run: Mapped[Run] = relationship()


class CodecTrial(Studied, Base):
    """Codecs tried on a part of a master (`work.tried`): `asked` names them and the part."""

    __tablename__ = "codec_trial"
    master_id: Mapped[int] = mapped_column(ForeignKey("master.id", ondelete="CASCADE"), unique=True)
    asked: Mapped[dict[str, Any]]
    master: Mapped[Master] = relationship()
