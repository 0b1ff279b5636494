"""What every frame of a master looks like, to tell it from others that are nearly the same."""

from __future__ import annotations

from base64 import b64decode
from collections.abc import Mapping
from pathlib import PurePath

from sqlalchemy import ForeignKey, func, or_, select
from sqlalchemy.orm import Mapped, Session, mapped_column

from .base import Base
from .models import Master

MOST = 24  # others that are looked at
LONGER = 0.25  # share of its length by which another may differ, or
SECONDS = 120.0


class Outline(Base):
    """The outline of a master (`core.quality.alike`), and the SHA-256 of its coded frames."""

    __tablename__ = "outline"
    master_id: Mapped[int] = mapped_column(
        ForeignKey("master.id", ondelete="CASCADE"), primary_key=True
    )
    coded: Mapped[str]
    frames: Mapped[bytes]


def keep(session: Session, id: int, outline: Mapping[str, str] | None) -> None:
    """Keep the outline of a master as it was measured; one without pictures has none."""
    there = session.get(Outline, id)
    if there is not None:
        session.delete(there)
        session.flush()
    if outline is not None and session.get(Master, id) is not None:
        frames = b64decode(outline["frames"])
        session.add(Outline(master_id=id, coded=outline["coded"], frames=frames))


def likely(session: Session, row: Master) -> list[tuple[Master, Outline]]:
    """List other masters that might be nearly the same, with their outlines: those of the same
    name or production, and of about its length; the likeliest first.
    """
    stem = PurePath(row.name).stem.lower()
    seconds = row.seconds or 0.0
    apart = max(SECONDS, LONGER * seconds)
    named = func.lower(Master.name).like(func.concat(_plain(stem), ".%"), escape="\\")
    alike = or_(
        named,
        Master.seconds.between(seconds - apart, seconds + apart),
    )
    query = (
        select(Master, Outline)
        .join(Outline, Outline.master_id == Master.id)
        .where(Master.id != row.id, Master.state == "ready", alike)
        .order_by(
            named.desc(),
            (Master.production == row.production).desc(),
            func.abs(func.coalesce(Master.seconds, 0.0) - seconds),
            Master.id.desc(),
        )
        .limit(MOST)
    )
    return [(master, outline) for master, outline in session.execute(query)]


def _plain(text: str) -> str:
    """Give a text whose signs mean themselves in a pattern."""
    return text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
