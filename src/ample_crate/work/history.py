"""The runs that have ended, for a table of them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from fractions import Fraction
from statistics import median
from typing import Any

from sqlalchemy import Select, String, cast, func, or_, select
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Session, joinedload, undefer

from ..core.planning import sheets, stored
from ..store.day import Worker
from ..store.models import Crate, Deliverable, Master, Recipient, Run
from ..store.past import PLAN, records
from ..store.studied import Comparison
from .status import item_name

ENDED = ("done", "failed", "cancelled")
MOST_COMPARED = 2000  # runs
AT_ONCE = 200  # runs
COLUMNS = (
    "run",
    "finished",
    "state",
    "crate",
    "title",
    "recipient",
    "item",
    "codec",
    "bytes",
    "seconds of film",
    "encode seconds",
    "measure seconds",
    "speed",
    "foretold seconds",
    "quality",
    "workers",
    "machine",
    "starts",
    "error",
)
Document = dict[str, Any]


@dataclass(frozen=True)
class Wanted:
    """Which runs are looked for; what is empty does not matter.

    Attributes:
        words: that their item, crate or recipient has, or the number of the crate.
        state: done, failed or cancelled.
        codec: its key.
        since, until: days (UTC) on which they ended, both counted in.
    """

    words: str = ""
    state: str = ""
    codec: str = ""
    since: date | None = None
    until: date | None = None


def found(
    session: Session, wanted: Wanted, limit: int, offset: int = 0
) -> tuple[int, list[Document]]:
    """List runs that have ended, the newest first.

    Returns:
        how many there are, and of these the wanted page.
    """
    query = _query(wanted)
    count = session.scalar(
        select(func.count()).select_from(query.with_only_columns(Run.id).subquery())
    )
    page = (
        query.options(*_WHOSE)
        .order_by(Run.finished_at.desc(), Run.id.desc())
        .limit(limit)
        .offset(offset)
    )
    return int(count or 0), [_row(run, mean) for run, mean in session.execute(page)]


def every(session: Session, wanted: Wanted) -> list[Document]:
    """List all runs that have ended, the newest first; read a page at a time, for plans are long
    and only a few figures of each are kept.
    """
    rows: list[Document] = []
    while True:
        _, page = found(session, wanted, AT_ONCE, len(rows))
        session.expunge_all()
        rows += page
        if len(page) < AT_ONCE:
            return rows


def by_codec(session: Session, wanted: Wanted) -> list[Document]:
    """Compare how runs were coded: what was made of pictures at which speed, rate and quality.

    Args:
        session: knows them.
        wanted: which runs; of these the newest that were finished.
    """
    columns = (
        Run.id,
        func.md5(PLAN).label("digest"),
        Run.size,
        Run.encode_seconds,
        Run.route["plan"]["seconds"].astext.label("film"),
        Comparison.mean,
    )
    query = _query(wanted).with_only_columns(*columns)
    rows = session.execute(
        query.where(Run.state == "done").order_by(Run.id.desc()).limit(MOST_COMPARED)
    ).all()
    known = records(session, [(row.id, row.digest) for row in rows if row.digest])
    kinds: dict[str, list[Any]] = defaultdict(list)
    for row in rows:
        if row.id in known and known[row.id].effort:
            kinds[known[row.id].coded_as].append(row)
    return [_compared(codec, kinds[codec]) for codec in sorted(kinds)]


def _compared(codec: str, rows: Sequence[Any]) -> Document:
    timed = [(float(Fraction(row.film)), row) for row in rows if row.film]
    speeds = [film / row.encode_seconds for film, row in timed if row.encode_seconds]
    rates = [row.size * 8 / film for film, row in timed if film and row.size]
    qualities = [row.mean for row in rows if row.mean is not None]
    return {
        "codec": codec,
        "runs": len(rows),
        "speed": median(speeds) if speeds else None,
        "bit_rate": round(median(rates)) if rates else None,
        "quality": median(qualities) if qualities else None,
    }


def written(rows: Sequence[Document]) -> str:
    """Write a table of runs as CSV."""
    return sheets.write(COLUMNS, [_in_columns(row) for row in rows])


def _query(wanted: Wanted) -> Select[Run, float | None]:
    query = (
        select(Run, Comparison.mean)
        .join(Run.deliverable)
        .join(Deliverable.crate)
        .join(Deliverable.master)
        .join(Recipient, Recipient.key == Crate.recipient_key)
        .outerjoin(Comparison, Comparison.run_id == Run.id)
        .where(Run.state.in_(ENDED), Run.finished_at.is_not(None))
    )
    for word in wanted.words.split():
        query = query.where(_has(word))
    if wanted.state:
        query = query.where(Run.state == wanted.state)
    if wanted.codec:
        query = query.where(_coded_as(wanted.codec))
    day = func.date(func.timezone("UTC", Run.finished_at))
    if wanted.since is not None:
        query = query.where(day >= wanted.since)
    if wanted.until is not None:
        query = query.where(day <= wanted.until)
    return query


_WHOSE = (
    undefer(Run.route),
    joinedload(Run.worker),
    joinedload(Run.deliverable).options(
        joinedload(Deliverable.crate).joinedload(Crate.recipient),
        joinedload(Deliverable.master),
    ),
)


def _has(word: str) -> Any:
    said = (Master.name, Crate.title, Recipient.document["name"].astext)
    return or_(
        *(one.icontains(word, autoescape=True) for one in said),
        cast(Crate.number, String) == word,
    )


def _coded_as(codec: str) -> Any:
    streams = cast(Run.route["plan"]["streams"], JSONB)
    return or_(
        streams.contains([{"encoding": {"codec": codec}}]), streams.contains([{"codec": codec}])
    )


def _row(run: Run, mean: float | None) -> Document:
    item, plan = run.deliverable, run.route.get("plan") or {}
    film = float(Fraction(plan["seconds"])) if plan.get("seconds") else None
    worker: Worker | None = run.worker
    foretold = run.foretold or {}
    return {
        "id": run.id,
        "state": run.state,
        "finished_at": run.finished_at,
        "deliverable": item.id,
        "crate": item.crate_id,
        "number": item.crate.number,
        "revision": item.crate.revision,
        "title": item.crate.title,
        "recipient": item.crate.recipient.name,
        "item": item_name(item),
        "codec": stored.record_of(plan).coded_as if plan else "",
        "size": run.size,
        "seconds": film,
        "encode_seconds": run.encode_seconds,
        "measure_seconds": run.measure_seconds,
        "foretold_seconds": foretold.get("encode"),
        "speed": film / run.encode_seconds if film and run.encode_seconds else None,
        "quality": mean,
        "workers": run.workers,
        "machine": worker.machine if worker is not None else "",
        "starts": run.starts,
        "error": (run.error or {}).get("what", ""),
    }


def _in_columns(row: Document) -> Document:
    ended: datetime = row["finished_at"]
    return {
        "run": row["id"],
        "finished": ended.isoformat(timespec="seconds"),
        "state": row["state"],
        "crate": f"{row['number']} r{row['revision']}",
        "title": row["title"],
        "recipient": row["recipient"],
        "item": row["item"],
        "codec": row["codec"],
        "bytes": row["size"],
        "seconds of film": row["seconds"],
        "encode seconds": _figure(row["encode_seconds"]),
        "measure seconds": _figure(row["measure_seconds"]),
        "speed": _figure(row["speed"]),
        "foretold seconds": _figure(row["foretold_seconds"]),
        "quality": _figure(row["quality"]),
        "workers": row["workers"],
        "machine": row["machine"],
        "starts": row["starts"],
        "error": row["error"],
    }


def _figure(value: float | None) -> float | None:
    return None if value is None else round(value, 3)
