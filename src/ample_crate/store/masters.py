"""Masters in the store: what is known of one, its card for the list, and the search."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import ColumnElement, func, not_, select
from sqlalchemy.orm import Session, undefer

from ..core.facts import Facts, corrections, search
from ..core.facts.properties import lookup
from .database import tell
from .models import Master


def known(row: Master) -> Facts:
    """Give what is known of a master: what header and decoding say, and a person's corrections over
    it.
    """
    return corrections.apply(Facts.from_json(row.facts), row.corrections)


def file_identity(path: Path) -> str:
    """Say which bytes a path stands for, without reading them: size, time of change, inode."""
    told = path.stat()
    return f"{told.st_size}|{told.st_mtime_ns}|{told.st_ino}"


def mark(row: Master) -> str:
    """Give a short mark that changes with a master's bytes, for addresses of pictures made of
    it.
    """
    return hashlib.sha256(f"{row.identity}|{row.path}".encode()).hexdigest()[:12]


def void(row: Master) -> None:
    """Mark a master as changed: what is known of it is known of bytes that are no longer there."""
    row.state, row.facts, row.events, row.notes, row.proxy, row.progress = (
        "changed",
        {},
        [],
        [],
        None,
        None,
    )
    row.error = {
        "code": "changed",
        "what": f"'{row.name}' is not the file that was read: it was changed or replaced since.",
        "way_out": "Read it again; what was made from the old one must be run again.",
    }
    recard(row)


def recard(row: Master) -> None:
    """Make a master's card and search words anew from what is known of it."""
    facts = known(row)
    seconds, rate = facts.fraction("file.duration"), facts.fraction("motion.rate")
    frames = facts.value("motion.frames")
    if not frames and seconds and rate:
        frames = int(seconds * rate)
    row.card = {
        "summary": search.summary(facts),
        "frames": int(frames or 0),
        "rate": f"{rate.numerator}/{rate.denominator}" if rate else None,
        "has_picture": facts.value("picture.size") is not None,
        "contradictions": [
            lookup(k).label for k in facts.contradictions() if facts[k].assumed is None
        ],
    }
    row.seconds = float(seconds) if seconds else None
    row.words = search.words(
        row.name,
        row.production,
        facts,
        [
            row.state,
            "damaged" if row.notes else "",
            "corrected" if row.corrections else "",
            "contradiction" if row.card["contradictions"] else "",
        ],
    )


def fill_cards(session: Session) -> None:
    """Make the cards of masters that were handed in before cards were kept."""
    for row in session.scalars(
        select(Master).where(Master.words == "").options(undefer(Master.facts))
    ):
        recard(row)


def add(
    session: Session,
    path: Path,
    name: str,
    origin: str,
    size: int | None = None,
    production: str = "",
) -> Master:
    """Add a master; the caller orders its reading once the session is committed."""
    row = Master(
        name=name,
        path=str(path),
        origin=origin,
        size=path.stat().st_size if size is None else size,
        production=production,
        facts={},
        corrections={},
        notes=[],
        state="reading",
    )
    recard(row)
    session.add(row)
    session.flush()
    tell(session, "master", row.id)
    return row


@dataclass(frozen=True)
class Found:
    """A page of a search: its rows, how many there are in all, and what of the search was not
    understood.
    """

    rows: Sequence[Master]
    total: int
    unread: tuple[str, ...]


def find(
    session: Session,
    text: str = "",
    production: str | None = None,
    offset: int = 0,
    limit: int = 100,
) -> Found:
    """Find masters by words and figures, newest first (see `core.search`)."""
    asked = search.read(text)
    where: list[ColumnElement[bool]] = [
        Master.words.contains(word, autoescape=True) for word in asked.words
    ]
    where += [not_(Master.words.contains(word, autoescape=True)) for word in asked.barred]
    for bound in asked.bounds:
        column: Any = Master.size if bound.what == "size" else Master.seconds
        where.append(column > bound.figure if bound.over else column < bound.figure)
    if production is not None:
        where.append(Master.production == production)
    total = session.scalar(select(func.count()).select_from(Master).where(*where)) or 0
    rows = session.scalars(
        select(Master).where(*where).order_by(Master.id.desc()).offset(offset).limit(limit)
    ).all()
    return Found(rows, total, asked.unread)


def productions(session: Session) -> list[tuple[str, int]]:
    """List the productions and how many masters each has."""
    query = (
        select(Master.production, func.count())
        .where(Master.production != "")
        .group_by(Master.production)
    )
    return [(name, count) for name, count in session.execute(query.order_by(Master.production))]


def same_bytes(session: Session, row: Master) -> list[Master]:
    """List the other masters that have the very same bytes."""
    if row.sha256 is None:
        return []
    return list(
        session.scalars(
            select(Master)
            .where(Master.sha256 == row.sha256, Master.id != row.id)
            .order_by(Master.id)
        )
    )
