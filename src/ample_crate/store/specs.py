"""Specs in their versions: which are in force, and a new version saved beside those that crates
keep.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import func, select, true
from sqlalchemy.orm import Session, selectinload

from ..core.errors import NotFound, Refused
from ..core.specs import specfile
from ..core.specs.contradictions import contradictions
from ..core.specs.spec import Recipient as RecipientDocument
from ..core.specs.spec import Spec
from . import library
from .models import Crate, Recipient, SpecVersion

_read: OrderedDict[tuple[str, int, datetime], Spec] = OrderedDict()
MOST_READ = 1024


def read(row: SpecVersion) -> Spec:
    """Read a version's document; one that has not changed since is read once."""
    key = (row.id, row.version, row.changed_at)
    spec = _read.get(key)
    if spec is None:
        spec = Spec.model_validate(row.document)
        if row.changed_at is not None:
            _read[key] = spec
        while len(_read) > MOST_READ:
            _read.popitem(last=False)
    return spec


def versions(session: Session, id: str | None = None) -> list[SpecVersion]:
    """List all versions of one spec, or of all, by id and version."""
    query = (
        select(SpecVersion)
        .options(selectinload(SpecVersion.recipient))
        .order_by(SpecVersion.id, SpecVersion.version)
    )
    return list(session.scalars(query if id is None else query.where(SpecVersion.id == id)))


def counts(row: SpecVersion, today: date | None = None) -> bool:
    """Say whether a version is in force on a day, by its status and its first day."""
    since = row.document.get("valid_from")
    day = (today or datetime.now(UTC).date()).isoformat()
    return row.document.get("status", "in force") == "in force" and (since is None or since <= day)


def current(rows: Sequence[SpecVersion], today: date | None = None) -> SpecVersion | None:
    """Give, of one spec's versions in their order, the one in force: a withdrawal takes those
    before it out; None where there is none.
    """
    found: SpecVersion | None = None
    for row in rows:
        if row.document.get("status") == "withdrawn":
            found = None
        elif counts(row, today):
            found = row
    return found


def by_spec(rows: Sequence[SpecVersion]) -> dict[str, list[SpecVersion]]:
    """Sort versions by the spec they are of."""
    made: dict[str, list[SpecVersion]] = {}
    for row in rows:
        made.setdefault(row.id, []).append(row)
    return made


def in_force(session: Session, today: date | None = None) -> list[SpecVersion]:
    """List the version in force of every spec that has one."""
    held = (current(rows, today) for rows in by_spec(versions(session)).values())
    return [row for row in held if row is not None]


def newest(session: Session, id: str) -> SpecVersion:
    """Get the newest version of a spec, in force or not.

    Raises:
        NotFound: there is no such spec.
    """
    rows = versions(session, id)
    if not rows:
        raise NotFound(f"There is no spec '{id}'.", "Go back to the register.")
    return rows[-1]


def get(session: Session, id: str, version: int | None = None) -> SpecVersion:
    """Get a version of a spec: the one asked for, else the one in force, else the newest.

    Raises:
        NotFound: there is none.
    """
    rows = versions(session, id)
    if version is not None:
        row = next((r for r in rows if r.version == version), None)
        if row is None:
            raise NotFound(
                f"There is no version {version} of the spec '{id}'.", "Choose one from its page."
            )
        return row
    return current(rows) or newest(session, id)


def use(
    session: Session, id: str | None = None, removed: bool = True
) -> dict[tuple[str, int], tuple[int, int]]:
    """Count the crates of each version: (open ones, all); removed ones, which may come back, with
    the others where asked.
    """
    counted = true() if removed else Crate.removed_at.is_(None)
    query = (
        select(
            Crate.spec_id,
            Crate.spec_version,
            func.count().filter(Crate.state == "open"),
            func.count(),
        )
        .where(counted)
        .group_by(Crate.spec_id, Crate.spec_version)
    )
    rows = session.execute(query if id is None else query.where(Crate.spec_id == id))
    return {(spec, version): (is_open, every) for spec, version, is_open, every in rows}


def crates_of(session: Session, id: str) -> list[Crate]:
    """List the crates planned with any version of a spec, newest first."""
    return list(
        session.scalars(
            select(Crate)
            .where(Crate.spec_id == id, Crate.removed_at.is_(None))
            .order_by(Crate.number.desc(), Crate.revision.desc())
        )
    )


def save(session: Session, document: dict[str, Any], base: int | None) -> SpecVersion:
    """Keep a spec that was written here.

    A draft that no crate uses is written over; anything else stays, and a version is added beside
    it.

    Args:
        session: the session.
        document: the spec's document; its version is set here.
        base: the version that the person began from; None for a new spec.

    Raises:
        BadSpec: the document is no spec.
        NotFound: its recipient is not known.
        Refused: the id is taken, somebody saved a newer version in the meantime, or it is to be in
        force and contradicts itself.
    """
    id = str(document.get("id", ""))
    # Two people who save at once wait for each other here.
    session.execute(select(func.pg_advisory_xact_lock(func.hashtext(f"spec {id}"))))
    rows = versions(session, id)
    last = rows[-1] if rows else None
    if base is None and last is not None:
        raise Refused(
            f"There is a spec '{id}' already.",
            "Give the new one another short name, or edit the one that is there.",
        )
    if base is not None and last is not None and last.version > base:
        raise Refused(
            f"Version {last.version} was saved while you edited version {base}.",
            "Nothing of yours is lost: compare the two, then save yours as a copy, or take the "
            "newer one and change it again.",
        )
    over = (
        last is not None
        and last.document.get("status") == "draft"
        and not use(session, id).get((id, last.version))
    )
    version = 1 if last is None else last.version if over else last.version + 1
    spec = specfile.parse_document(document | {"version": version}, "The spec")
    if session.get(Recipient, spec.recipient) is None:
        raise NotFound(f"There is no recipient '{spec.recipient}'.", "Choose one of the list.")
    against = (
        [c for c in contradictions(spec) if c.grade == "contradiction"]
        if spec.status == "in force"
        else []
    )
    if against:
        raise Refused(
            f"No file can meet this spec: {against[0].what}",
            f"{against[0].repair.says} Or keep it as a draft.",
        )
    kept = specfile.document_of(spec)
    if last is not None and not over and specfile.same(last.document, kept):
        raise Refused("Nothing has changed.", "Change something, then save.")
    row = session.merge(
        SpecVersion(
            id=id,
            version=version,
            recipient_key=spec.recipient,
            document=kept,
            origin="here",
            changed_at=datetime.now(UTC),
        )
    )
    session.flush()
    return row


def drop(session: Session, id: str, version: int) -> None:
    """Remove a draft that nobody uses.

    Raises:
        Refused: it is in force, withdrawn, or a crate was planned with it.
    """
    row = get(session, id, version)
    if row.document.get("status") != "draft" or use(session, id).get((id, version)):
        raise Refused(
            f"Version {version} of '{id}' is not an unused draft.",
            "Withdraw it instead: crates and ledgers refer to it.",
        )
    session.delete(row)


def keep_files(
    session: Session, recipients: Sequence[RecipientDocument], specs: Sequence[Spec]
) -> None:
    """Bring the register up to the spec files; versions that crates use, and those written here,
    stay as they are.
    """
    for recipient in recipients:
        session.merge(
            Recipient(
                key=recipient.key,
                name=recipient.name,
                kind=recipient.kind,
                document=recipient.model_dump(mode="json"),
            )
        )
    session.flush()
    used, there = use(session), {(r.id, r.version): r for r in versions(session)}
    for spec in specs:
        row, kept = there.get((spec.id, spec.version)), specfile.document_of(spec)
        if row is None:
            session.add(
                SpecVersion(
                    id=spec.id, version=spec.version, recipient_key=spec.recipient, document=kept
                )
            )
        elif row.origin == "file" and (spec.id, spec.version) not in used and row.document != kept:
            # What a crate was planned with and judged by must not change under it.
            row.document, row.recipient_key, row.changed_at = (
                kept,
                spec.recipient,
                datetime.now(UTC),
            )


def passed_over(session: Session, specs: Sequence[Spec]) -> list[library.Refused]:
    """List the spec files that say something else than the version of theirs which is kept, and so
    count nowhere.
    """
    kept = versions(session)
    there, newest = {(r.id, r.version): r for r in kept}, {r.id: r.version for r in kept}
    odd = [
        s
        for s in specs
        if (row := there.get((s.id, s.version))) is not None
        and row.document != specfile.document_of(s)
    ]
    return [
        library.Refused(
            spec.id,
            Refused(
                f"{spec.id}: what the file says is not what is kept as version {spec.version}, "
                f"which crates use or which was written here.",
                f"Give the file version {newest[spec.id] + 1} to put it in force beside the one "
                f"that is kept.",
            ),
        )
        for spec in odd
    ]
