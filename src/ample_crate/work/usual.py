"""What is usual for a recipient: the spec that new crates go by, the house's set, and when they are
due.
"""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from ..core.errors import NotFound, Refused
from ..store import specs
from ..store.models import Crate, Recipient, Usual
from .zones import TimeOfDay, Zone

SATURDAY = 5  # as `date.weekday` counts
MOST_DAYS = 365
DAY = timedelta(days=1)


class DueRule(BaseModel):
    """When a crate is due: so many days after it is made, at a time of the recipient's day.

    Working days are Monday to Friday; holidays are not known.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    days: Annotated[int, Field(ge=0, le=MOST_DAYS)] = 1
    working: Annotated[bool, Field(description="whether only working days count")] = True
    at: TimeOfDay = "16:00"
    zone: Zone = "UTC"

    def due(self, now: datetime) -> datetime:
        """Give when a crate is due that is made now: where that is past already, the day after.

        Args:
            now: with its zone.
        """
        here = now.astimezone(ZoneInfo(self.zone))
        first = self._on(here, self.days)
        return first if first > now else self._on(here, self.days + 1)

    def _on(self, here: datetime, days: int) -> datetime:
        day = self._working(here.date())
        for _ in range(days):
            day = self._working(day + DAY)
        return datetime.combine(day, time.fromisoformat(self.at), here.tzinfo)

    def _working(self, day: date) -> date:
        """Give a day, or where only working days count the first that is one."""
        while self.working and day.weekday() >= SATURDAY:
            day += DAY
        return day


class UsualSettings(BaseModel):
    """What is usual for a recipient; `house` names one of the spec's sets, empty for none."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    spec: Annotated[str, Field(max_length=100)]
    house: Annotated[str, Field(max_length=100)] = ""
    due: DueRule = DueRule()


def of(session: Session, recipient: str) -> UsualSettings | None:
    """Give what is usual for a recipient; None where nothing is kept."""
    row = session.get(Usual, recipient)
    return None if row is None else UsualSettings.model_validate(row.document)


def keep(session: Session, recipient: str, wanted: UsualSettings) -> None:
    """Keep what is usual for a recipient, in place of what was.

    Raises:
        NotFound: there is no such recipient, or spec.
        Refused: the spec is another recipient's, or has no such set.
    """
    if session.get(Recipient, recipient) is None:
        raise NotFound(f"There is no recipient '{recipient}'.", "Choose one of the list.")
    row = specs.get(session, wanted.spec)
    if row.recipient_key != recipient:
        raise Refused(
            f"The spec '{wanted.spec}' is not one of this recipient.", "Choose one of theirs."
        )
    sets = specs.read(row).house_sets
    if wanted.house and wanted.house not in sets:
        raise Refused(
            f"The spec has no set '{wanted.house}' of house choices.",
            f"It has {', '.join(sets) or 'none'}.",
        )
    session.merge(Usual(recipient_key=recipient, document=wanted.model_dump(mode="json")))


def forget(session: Session, recipient: str) -> None:
    """Keep nothing as usual for a recipient any more."""
    row = session.get(Usual, recipient)
    if row is not None:
        session.delete(row)


def house_of(crate: Crate) -> str:
    """Give the set of house choices that is usual for a crate's spec; empty where none is."""
    session = object_session(crate)
    kept = None if session is None else of(session, crate.recipient_key)
    return kept.house if kept is not None and kept.spec == crate.spec_id else ""


def recipients(session: Session) -> list[tuple[Recipient, UsualSettings | None]]:
    """List the recipients, with what is usual for each."""
    rows = session.scalars(select(Recipient).order_by(Recipient.name))
    return [(row, of(session, row.key)) for row in rows]
