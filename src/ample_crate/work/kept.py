"""What was worked out of crates and masters, kept with the digest of all that it depends on.

It is worked out again only where the digest is another: in the process that changed what it depends
on, else when it is asked for.
"""

from __future__ import annotations

import hashlib
import json
import logging
import os
from collections.abc import Collection, Sequence
from datetime import datetime
from functools import lru_cache
from pathlib import Path
from typing import Any

from psycopg.errors import SerializationFailure
from sqlalchemy import select, text
from sqlalchemy.dialects.postgresql import Insert, insert
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from ..core.planning.assess import assess
from ..media import folders
from ..store import masters, specs
from ..store.database import AWAY
from ..store.models import Crate, Deliverable, KeptCrate, KeptFits, Master, Run, SpecVersion
from ..store.queries import week_sums
from .worked_out import WorkedOut, work_out

log = logging.getLogger(__name__)
CODE = ("core", "work")  # parts whose rules make what is kept
UNREAD = frozenset({"reading", "failed", "changed"})


@lru_cache
def rules() -> str:
    """Give the digest of the rules themselves: another version of them works everything out
    anew.
    """
    package, found = Path(__file__).resolve().parents[1], hashlib.sha256()
    for part in CODE:
        for file in sorted((package / part).rglob("*.py")):
            found.update(file.read_bytes())
    return found.hexdigest()


# Read as the code is: its files may be replaced under a process that runs.
rules()


def _digest(*what: Any) -> str:
    return hashlib.sha256(json.dumps([rules(), *what], default=str).encode()).hexdigest()


def digests(session: Session, ids: Collection[int]) -> dict[int, str]:
    """Give the digest of all that crates' plans and verdicts depend on, by crate."""
    rows = session.execute(_MARKS, {"ids": list(ids)}).all()
    weekly = [
        row.id
        for row in rows
        if row.state == "open" and _weekly(session, row.spec_id, row.spec_version, row.changed_at)
    ]
    sent = week_sums(session, weekly) if weekly else {}
    made = {}
    for row in rows:
        # What is sealed is in its bag; the files of an open crate must be where their runs left
        # them.
        lost = [
            path
            for path in row.paths or ()
            if row.state == "open" and not folders.is_there(Path(path))
        ]
        made[row.id] = _digest(row.mark, sent.get(row.id), lost)
    return made


# Of each item the newest finished run counts, and the newest of the others.
_MARKS = text(
    """
    select
        crate.id, crate.state, crate.spec_id, crate.spec_version, spec.changed_at, paths,
        md5(row(
            crate.id, crate.number, crate.revision, crate.created_at, crate.state,
            crate.spec_id, crate.spec_version, spec.changed_at, items
        )::text) as mark
    from crate
    join spec on spec.id = crate.spec_id and spec.version = crate.spec_version
    left join lateral (
        select
            array_agg(of_item.file) filter (where of_item.file is not null) as paths,
            string_agg(row(
                item.id, item.span, item.cut, item.choices, item.earlier, item.later,
                item.exceptions, item.wanted_at,
                master.id, master.name, master.state, master.sha256,
                master.production, master.error, master.notes, master.facts_mark, of_item.runs,
                sound.id, sound.name, sound.state, sound.sha256, sound.error, sound.notes,
                sound.facts_mark,
                under.id, under.name, under.state, under.sha256, under.error, under.notes,
                under.facts_mark
            )::text, chr(10) order by item.position, item.id) as items
        from deliverable item
        join master on master.id = item.master_id
        left join master sound on sound.id = item.sound_id
        left join master under on under.id = item.under_id
        left join lateral (
            select
                max(path) filter (where state = 'done') as file,
                string_agg(row(
                    id, state, path, size, sha256, master_sha256, error, facts_mark
                )::text, chr(10) order by newest.id) as runs
            from (
                select distinct on (state = 'done')
                    id, state, path, size, sha256, master_sha256, error, facts_mark
                from run
                where deliverable_id = item.id
                order by state = 'done', id desc
            ) newest
        ) of_item on true
        where item.crate_id = crate.id
    ) of_crate on true
    where crate.id = any(:ids)
    """
)
_asks_by_week: dict[tuple[str, int, datetime], bool] = {}


def _weekly(session: Session, id: str, version: int, changed_at: datetime) -> bool:
    """Say whether a version of a spec looks at what else is sent in the week."""
    key = (id, version, changed_at)
    if key not in _asks_by_week:
        row = session.get_one(SpecVersion, (id, version))
        _asks_by_week[key] = bool(specs.read(row).on("delivery.week"))
    return _asks_by_week[key]


def floors(
    session: Session, ids: Collection[int], most: int | None = None
) -> dict[int, dict[str, Any]]:
    """Give what the floor shows of crates.

    Args:
        session: what is worked out is kept in it.
        ids: the crates.
        most: how many are worked out now, where what is kept is out of date; the others are left
        out.
    """
    wanted = digests(session, ids)
    rows = session.execute(
        select(KeptCrate.crate_id, KeptCrate.digest, KeptCrate.floor).where(
            KeptCrate.crate_id.in_(ids)
        )
    )
    found = {row.crate_id: row.floor for row in rows if row.digest == wanted.get(row.crate_id)}
    for id in [id for id in sorted(wanted) if id not in found][:most]:
        found[id] = _work_out(session, id, wanted[id]).floor
    return found


def whole(session: Session, id: int) -> WorkedOut:
    """Give all that is kept of a crate, which there is."""
    digest = digests(session, [id])[id]
    row = session.execute(
        select(KeptCrate.digest, KeptCrate.floor, KeptCrate.page).where(KeptCrate.crate_id == id)
    ).one_or_none()
    if row is not None and row.digest == digest:
        return WorkedOut(row.floor, row.page)
    return _work_out(session, id, digest)


def _work_out(session: Session, id: int, digest: str) -> WorkedOut:
    """Work a crate out, and keep it under the digest that was taken before: what changes meanwhile
    makes it out of date.
    """
    made = work_out(session.get_one(Crate, id))
    row = {"digest": digest, "floor": made.floor, "page": made.page}
    _put(
        session,
        insert(KeptCrate)
        .values(crate_id=id, **row)
        .on_conflict_do_update(index_elements=["crate_id"], set_=row),
    )
    return made


def _put(session: Session, statement: Insert) -> None:
    """Keep something, unless another has kept it since this session looked: theirs is newer."""
    try:
        with session.begin_nested():
            session.execute(statement)
    except OperationalError as error:
        if not isinstance(error.orig, SerializationFailure):
            raise


def concerned(session: Session, table: str, id: int) -> list[int]:
    """List the crates whose plans or verdicts a master, a run or a crate is part of."""
    if table == "crate":
        return [id]
    part = Deliverable.uses(id) if table == "master" else Deliverable.runs.any(Run.id == id)
    return list(
        session.scalars(
            select(Deliverable.crate_id).where(part).distinct().order_by(Deliverable.crate_id)
        )
    )


def keep(session: Session, table: str, id: int) -> None:
    """Work out anew what hangs on a master, a run or a crate that a session has changed; what
    cannot be is when it is asked for. A machine that does not see the files leaves it to those that
    do.
    """
    if os.environ.get("AMPLE_HOME"):
        return
    session.flush()
    session.expire_all()
    try:
        with session.begin_nested():
            floors(session, concerned(session, table, id))
            master = session.get(Master, id) if table == "master" else None
            if master is not None and master.state not in UNREAD:
                fits(session, master, specs.in_force(session))
    except AWAY:
        raise
    except Exception:
        log.warning(
            "%s %s changed, and what hangs on it could not be worked out", table, id, exc_info=True
        )


def out_of_date(session: Session) -> list[int]:
    """List the crates, of those that are not received yet, of which nothing is kept that counts."""
    ids = list(
        session.scalars(
            select(Crate.id)
            .where(Crate.removed_at.is_(None), Crate.state != "received")
            .order_by(Crate.id)
        )
    )
    wanted = digests(session, ids)
    kept = session.execute(
        select(KeptCrate.crate_id, KeptCrate.digest).where(KeptCrate.crate_id.in_(ids))
    )
    held = {row.crate_id: row.digest for row in kept}
    return [id for id in ids if held.get(id) != wanted[id]]


def fits(session: Session, row: Master, versions: Sequence[SpecVersion]) -> list[dict[str, Any]]:
    """Give how specs would take a master as it is, each worked out once: spec, title, recipient,
    answer, why.
    """
    kept = session.get(KeptFits, row.id)
    held = kept.document if kept is not None else {}
    known = row.state not in UNREAD
    of_master = (row.facts_mark, row.name, row.production, known)
    facts, made = None, {}
    for version in versions:
        digest = _digest(*of_master, version.id, version.version, version.changed_at)
        if held.get(version.id, {}).get("digest") == digest:
            made[version.id] = held[version.id]
            continue
        facts = masters.known(row) if facts is None else facts
        spec = specs.read(version)
        taken = assess(facts, spec, row.name, known, row.production)
        made[version.id] = {
            "digest": digest,
            "title": spec.title,
            "answer": taken.answer,
            "why": taken.why,
        }
    if made != held:
        values = {"document": made}
        _put(
            session,
            insert(KeptFits)
            .values(master_id=row.id, **values)
            .on_conflict_do_update(index_elements=["master_id"], set_=values),
        )
    return [_fit(version, made[version.id]) for version in versions]


def _fit(version: SpecVersion, one: dict[str, Any]) -> dict[str, Any]:
    return {
        "spec": version.id,
        "title": one["title"],
        "recipient": version.recipient.name,
        "answer": one["answer"],
        "why": one["why"],
    }
