"""Whether a master is still the file that was read."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import delete

from ..core.errors import Changed, NotFound
from ..store import masters, outlines
from ..store.database import Database, tell
from ..store.models import Deliverable, Master, Trace
from ..store.queries import get
from . import sums


def require_same(db: Database, id: int) -> str:
    """Make sure that a master's file is the one that was read, and give its SHA-256.

    Size, time of change and inode are compared; where these differ, the bytes.
    A master that is another file now is marked as changed, and its facts are void.

    Raises:
        Changed: it is another one.
        NotFound: it is not there.
    """
    with db.session() as session:
        row = get(session, Master, id)
        name, path, known, sum = row.name, Path(row.path), row.identity, row.sha256
    try:
        now = sums.identity(path)
        if sum is not None and now == known:
            return sum
        found = sums.of(path)
    except OSError:
        raise NotFound(
            f"'{name}' is not there any more.", "Put the file back, then run again."
        ) from None
    with db.session() as session:
        row = get(session, Master, id, lock=True)
        if found == row.sha256:
            row.identity = now
            return found
        masters.void(row)
        for waiting in session.query(Deliverable).filter(Deliverable.uses(id)):
            waiting.wanted_at = None
        session.execute(delete(Trace).where(Trace.master_id == id))
        outlines.keep(session, id, None)
        tell(session, "master", id)
        used = session.query(Deliverable.crate_id).filter(Deliverable.uses(id))
        for (crate,) in used.distinct():
            tell(session, "crate", crate)
        error = row.error or {}
    raise Changed(error["what"], error["way_out"])
