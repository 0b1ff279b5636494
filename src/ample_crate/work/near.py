"""Masters that are nearly the same as another one, and what tells them apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ..core.quality import alike
from ..core.quality.alike import Alike
from ..store import outlines
from ..store.models import Master
from ..store.outlines import Outline


@dataclass(frozen=True)
class Near:
    """Another master that is nearly the same.

    Attributes:
        master: the other one.
        coded: whether its coded frames are the very same.
        found: how they go together.
    """

    master: Master
    coded: bool
    found: Alike


def near(session: Session, row: Master) -> Sequence[Near] | None:
    """List the masters that are nearly the same as one, those that differ least first; None where
    it was not looked at yet, or has no moving picture.
    """
    mine = session.get(Outline, row.id)
    if mine is None:
        return None
    frames = alike.unpacked(mine.frames)
    found = [
        Near(master, other.coded == mine.coded, alike.compare(frames, alike.unpacked(other.frames)))
        for master, other in outlines.likely(session, row)
    ]
    return sorted((one for one in found if one.found.near), key=_apart)


def _apart(one: Near) -> tuple[bool, int, int]:
    found = one.found
    other = found.shared - found.same + abs(found.before) + abs(found.after)
    return not one.coded, other, -one.master.id
