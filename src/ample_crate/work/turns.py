"""Whose turn it is: in which order runs that wait are begun, and which are not begun yet."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, time, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from pydantic import BaseModel, ConfigDict
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ..core.errors import Refused
from ..store.database import tell
from ..store.day import DayRules
from ..store.models import Run
from .zones import TimeOfDay, Zone

Priority = Literal[1, 0, -1]
# Between runs of one priority and the next: more than there will ever be places.
STEP = 500_000_000
FAR = datetime(9000, 1, 1, tzinfo=UTC)
DAY = timedelta(days=1)
# One that is begun again, for its worker was lost, waits for nothing.
ARRANGE = text(
    """
    update procrastinate_jobs job
    set priority = wanted.priority, scheduled_at = wanted.begin
    from (
        select run.id, run.priority * :step - run.place as priority,
            case when run.state <> 'queued' then null
                when run.held or :hold_all then :far
                when run.night then cast(:night as timestamptz) end as begin
        from run where run.state in ('queued', 'running') and (:only = 0 or run.id = :only)
    ) wanted
    where job.task_name = 'ample:encode' and job.status = 'todo'
    and (job.args->>'id')::bigint = wanted.id
    and (job.priority, job.scheduled_at) is distinct from (wanted.priority, wanted.begin)
    """
)


class Night(BaseModel):
    """When what is for the night is begun; a night that begins and ends at one time is all day."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    begins: TimeOfDay = "20:00"
    ends: TimeOfDay = "06:00"
    zone: Zone = "UTC"

    def begin(self, now: datetime) -> datetime | None:
        """Give when the next night begins; None where it is night now.

        Args:
            now: with its zone.
        """
        here = now.astimezone(ZoneInfo(self.zone))
        begins, ends = time.fromisoformat(self.begins), time.fromisoformat(self.ends)
        at = here.time()
        within = begins <= at < ends if begins < ends else at >= begins or at < ends
        if within:
            return None
        day = here.date() if at < begins else here.date() + DAY
        return datetime.combine(day, begins, here.tzinfo)


class Rules(BaseModel):
    """The rules by which all runs wait."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    hold_all: bool = False
    night: Night = Night()


def rules(session: Session) -> Rules:
    """Give the rules."""
    row = session.get(DayRules, 1)
    return Rules() if row is None else Rules.model_validate(row.document)


def keep(session: Session, wanted: Rules) -> None:
    """Keep other rules, and arrange by them what waits."""
    session.merge(DayRules(id=1, document=wanted.model_dump()))
    session.flush()
    arrange(session)
    tell(session, "day", 0)


def begin_of(run: Run, by: Rules, now: datetime) -> datetime | None:
    """Give the time before which a run is not begun; None where it may be now."""
    if run.held or by.hold_all:
        return FAR
    return by.night.begin(now) if run.night else None


def arrange(session: Session, only: int = 0) -> None:
    """Give the orders of runs the places and the times that their rows and the rules say.

    Args:
        session: has the orders.
        only: the run whose order it is; 0 for all.
    """
    by = rules(session)
    session.flush()
    night = by.night.begin(datetime.now(UTC))
    session.execute(
        ARRANGE,
        {"step": STEP, "far": FAR, "hold_all": by.hold_all, "night": night, "only": only},
    )


def waiting(session: Session) -> list[Run]:
    """List the runs that wait, in their order, and keep them from changing meanwhile."""
    query = select(Run).where(Run.state == "queued").order_by(Run.priority.desc(), Run.place)
    return list(session.scalars(query.with_for_update(key_share=True)))


def move(session: Session, ids: Sequence[int], before: int | None) -> None:
    """Put runs that wait before another one, or after all of its priority.

    Those that are moved take the priority of the one before which they come; nobody else's order
    changes.

    Raises:
        Refused: one of them does not wait any more.
    """
    line = waiting(session)
    by_id = {one.id: one for one in line}
    gone = [id for id in (*ids, *([before] if before is not None else [])) if id not in by_id]
    if gone:
        raise Refused(
            "A run that was to be moved does not wait any more.", "Look at the order as it is now."
        )
    moved = [by_id[id] for id in ids if id != before]
    if before is not None:
        for one in moved:
            one.priority = by_id[before].priority
    for level in {one.priority for one in moved}:
        _order(line, [one for one in moved if one.priority == level], before)
    arrange(session)
    for one in moved:
        tell(session, "run", one.id, crate=one.deliverable.crate_id)


def _order(line: Sequence[Run], moved: Sequence[Run], before: int | None) -> None:
    """Deal the places of the runs of one priority out anew."""
    level = [one for one in line if one.priority == moved[0].priority]
    places = sorted(one.place for one in level)
    rest = [one for one in level if one not in moved]
    at = next((n for n, one in enumerate(rest) if one.id == before), len(rest))
    for place, one in zip(places, [*rest[:at], *moved, *rest[at:]], strict=True):
        one.place = place


def change(
    session: Session,
    ids: Sequence[int],
    priority: Priority | None = None,
    held: bool | None = None,
    night: bool | None = None,
) -> None:
    """Change the turn of runs that wait; None leaves it as it is. What is no longer waiting is
    passed over.
    """
    for one in waiting(session):
        if one.id in ids:
            one.priority = one.priority if priority is None else priority
            one.held = one.held if held is None else held
            one.night = one.night if night is None else night
            tell(session, "run", one.id, crate=one.deliverable.crate_id)
    arrange(session)
