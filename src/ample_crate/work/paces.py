"""Trials of the paces of encoders: ordered by a person, carried out by a worker of this machine."""

from __future__ import annotations

import platform
from collections.abc import Sequence
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import BadValue
from ..core.formats import PICTURE
from ..media import ops
from ..store.database import AWAY, Database, tell
from ..store.models import PaceTrial
from . import logs
from .orders import order

UNFINISHED = frozenset({"waiting", "trying"})


def several() -> list[str]:
    """List the codecs that have more paces than one."""
    made = {key: row.made for key, row in PICTURE.items()}
    return [key for key, making in made.items() if making is not None and len(making.paces) > 1]


def newest(session: Session) -> Sequence[PaceTrial]:
    """Give the newest trial of each codec."""
    rows = select(PaceTrial).distinct(PaceTrial.codec)
    return session.scalars(rows.order_by(PaceTrial.codec, PaceTrial.id.desc())).all()


def begin(session: Session, codec: str) -> None:
    """Order a trial of a codec, unless one is going on.

    Raises:
        BadValue: it has no paces to choose from.
    """
    if codec not in several():
        raise BadValue(
            f"'{codec}' has no paces to choose from.", f"Try one of {', '.join(several())}."
        )
    if any(one.codec == codec and one.state in UNFINISHED for one in newest(session)):
        return
    made = PaceTrial(codec=codec, host="", state="waiting", document={})
    session.add(made)
    session.flush()
    order(session, "trial", made.id)
    tell(session, "pace", made.id)


def carry_out(db: Database, id: int) -> None:
    """Carry a trial out; one whose worker was lost starts over."""
    with db.session() as session:
        row = session.get(PaceTrial, id)
        if row is None or row.state not in UNFINISHED:
            return
        row.state, row.host, codec = "trying", platform.node(), row.codec
        tell(session, "pace", id)
    try:
        state, document = "done", ops.trial(codec)
    except AWAY:
        raise
    except Exception as error:
        state, document = "failed", {"error": logs.as_error(error)}

    def keep(session: Session) -> None:
        row = session.get(PaceTrial, id)
        if row is not None:
            row.state, row.document, row.at = state, document, datetime.now(UTC)
            tell(session, "pace", id)

    db.lasting(keep)
