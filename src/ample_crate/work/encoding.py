"""Carrying out runs: one by itself, or with it others that wait for the same masters, from one
reading of these.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, Cancelled
from ..core.planning import stored
from ..core.planning.together import MOST, taken_along
from ..media import ops
from ..store.database import AWAY, Database, tell
from ..store.models import Deliverable, Run
from ..store.past import past
from ..store.places import Folders
from . import kept, logs, origins, segments, status, sums, turns
from .deliver import Encoded, Work, encode_together, finish
from .jobs import HELD, change, is_stopped, shown_progress
from .orders import order, withdraw
from .supply import Supply, Taken
from .tools import Tools

MOST_LOOKED_AT = 4 * MOST  # runs that wait, of which some may go along


@dataclass(frozen=True)
class MadeOf:
    """The masters of runs that are carried out together: their numbers, and as they lie here."""

    supply: Supply
    ids: Sequence[int]
    taken: Taken


class Mine:
    """A run while it is carried out here.

    Args:
        db: the database.
        run: its row, which was taken.

    Attributes:
        id, start: its number, and which of its starts this is.
        alone: whether nothing is made beside it.
    """

    def __init__(self, db: Database, run: Run) -> None:
        self._db, self.id, self.start = db, run.id, run.starts
        self._stopped = False
        self.alone = True

    def work(self, run: Run, folders: Folders) -> Work:
        """Give what is to be done, and who is told.

        Raises:
            AmpleError: it cannot be done as it was planned.
        """
        shown = shown_progress(self._db, Run, self.id, self._overtaken)
        asked = is_stopped(
            self._db, Run, self.id, lambda row: self._overtaken(row) or row.state == "stopping"
        )
        return Work(
            origins.delivered(run.deliverable),
            status.spec_of(run.deliverable.crate),
            stored.route_of(run.route),
            folders.runs / str(self.id),
            ops.Control(shown, lambda: self._is_stopped(asked)),
        )

    def _is_stopped(self, asked: Callable[[], bool]) -> bool:
        if not self._stopped and asked():
            self._stopped = True
            if not self.alone:
                # What is made beside it goes on, and nobody waits for that.
                self.tell(state="cancelled")
        return self._stopped

    def _overtaken(self, row: Run | None) -> bool:
        # A worker that was only thought lost finds its run begun again by another, whose it is now.
        return row is None or row.starts != self.start or row.state == "cancelled"

    def tell(self, **values: Any) -> None:
        """Say how it ended."""
        ended = datetime.now(UTC)
        change(self._db, Run, self.id, self._overtaken, progress=None, finished_at=ended, **values)

    def end(self, error: Exception) -> None:
        """Say why it came to nothing."""
        if isinstance(error, Cancelled):
            self.tell(state="cancelled")
        else:
            self.tell(state="failed", error=logs.as_error(error))

    def finish(self, made_of: MadeOf, work: Work, encoded: Encoded | AmpleError) -> None:
        """Measure what was encoded, judge it, and say what came of it."""
        try:
            if isinstance(encoded, AmpleError):
                raise encoded
            made = finish(made_of.taken.files, work, encoded)
            # What was replaced while it was read gave frames of two files, or of the wrong one.
            made_of.supply.check(made_of.ids)
            sha256 = sums.of(made.path)
            self.tell(
                state="done",
                path=str(made_of.supply.keep(self.id, self.start, made.path)),
                size=int(made.facts.value("file.size")),
                sha256=sha256,
                master_sha256=made_of.taken.sha256,
                facts=made.facts.as_json(),
                notes=made.notes,
                encode_seconds=made.encode_seconds,
                measure_seconds=made.measure_seconds,
                workers=encoded.workers,
                error=None,
            )
        except AWAY:
            raise
        except Exception as error:
            self.end(error)


def carry_out(tools: Tools, id: int) -> None:
    """Carry out a run: encode, measure, judge. With it go those that wait and can be made from the
    same reading.

    A run whose worker was lost starts over, and so do those that it took along; one that is to wait
    is ordered for when it may begin.
    """
    db, folders = tools.database, tools.folders
    mine: list[tuple[Mine, Work]] = []
    with db.session() as session:
        runs = _taken(session, id, tools.worker)
        if not runs:
            segments.abandon(session, folders, id)
            return
        ids = [row.id for row in origins.of(runs[0].deliverable)]
        hindered: list[tuple[Mine, AmpleError]] = []
        for run in runs:
            one = Mine(db, run)
            try:
                mine.append((one, one.work(run, folders)))
            except AmpleError as error:
                hindered.append((one, error))
    for one, cause in hindered:
        one.end(cause)
    for one, _ in mine:
        one.alone = len(mine) == 1
    if mine:
        _make(db, tools.supply, ids, mine)


def _make(
    db: Database, supply: Supply, ids: Sequence[int], mine: Sequence[tuple[Mine, Work]]
) -> None:
    control = mine[0][1].control
    try:
        taken = supply.take(ids, control.progress or _untold, lambda: _all_stopped(mine))
        made_of = MadeOf(supply, ids, taken)
        encoded = _encoded(db, made_of, mine)
    except AWAY:
        raise
    except Exception as error:
        for one, _ in mine:
            one.end(error)
        return
    for (one, work), made in zip(mine, encoded, strict=True):
        one.finish(made_of, work, made)


def _untold(body: dict[str, Any]) -> None:
    """Tell nobody."""


def _all_stopped(mine: Sequence[tuple[Mine, Work]]) -> bool:
    asked = [work.control.cancelled for _, work in mine]
    return all([stopped is not None and stopped() for stopped in asked])


def _encoded(
    db: Database, made_of: MadeOf, mine: Sequence[tuple[Mine, Work]]
) -> Sequence[Encoded | AmpleError]:
    """Encode what goes together from one reading, and what goes alone with whoever is free and sees
    the same folders.
    """
    first, work = mine[0]
    files = made_of.taken.files
    if first.alone and made_of.supply.shared:
        made = segments.encode(db, first.id, first.start, files, work)
        if made is not None:
            return [made]
    return encode_together(files, [work for _, work in mine])


def _taken(session: Session, id: int, worker: int | None) -> list[Run]:
    """Take a run that is to be carried out, and those that go along; none where it is not to be any
    more.
    """
    lead = session.get(Run, id, with_for_update=HELD)
    if lead is None:
        return []
    if lead.state == "stopping":
        _cancel(lead)
        _say(session, lead)
    if lead.state not in status.UNFINISHED:
        # What it had taken along before its worker was lost is taken by itself.
        for run in _taken_before(session, lead):
            order(session, "encode", run.id)
        return []
    if lead.state == "queued" and _is_to_wait(lead, turns.rules(session)):
        order(session, "encode", lead.id)
        return []
    taken = [lead, *_companions(session, lead)]
    for run in taken:
        run.state, run.started_at, run.starts, run.progress, run.lead_id = (
            "running",
            datetime.now(UTC),
            run.starts + 1,
            None,
            None if run is lead else lead.id,
        )
        run.worker_id = worker
    for run in taken:
        _say(session, run)
    return taken


def _companions(session: Session, lead: Run) -> list[Run]:
    """Find what goes along with a run, and withdraw the orders of it."""
    before = _taken_before(session, lead)
    for run in before:
        if run.state == "stopping":
            _cancel(run)
            _say(session, run)
    before = [run for run in before if run.state == "running"]
    chosen = _chosen(session, lead, [*before, *_waiting(session, lead)])
    for run in before:
        if run not in chosen:
            # It is not done with this one any more, and nobody else would do it.
            run.lead_id = None
            order(session, "encode", run.id)
    # An order that a worker has just taken up is not withdrawn any more.
    return [run for run in chosen if run in before or withdraw(session, "encode", run.id)]


def _chosen(session: Session, lead: Run, there: Sequence[Run]) -> list[Run]:
    first = stored.route_of(lead.route).plan
    if first is None:
        return []
    planned = [(run, plan) for run in there if (plan := stored.route_of(run.route).plan)]
    places = taken_along(first, [plan for _, plan in planned], past(session))
    return [planned[n][0] for n in places]


def _taken_before(session: Session, lead: Run) -> list[Run]:
    query = select(Run).where(Run.lead_id == lead.id, Run.state.in_(("running", "stopping")))
    return list(session.scalars(query.order_by(Run.id).with_for_update(key_share=True)))


def _waiting(session: Session, lead: Run) -> list[Run]:
    """List runs that wait for the same masters."""
    made_of = lead.deliverable
    by = turns.rules(session)
    query = (
        select(Run)
        .join(Deliverable)
        .where(
            Run.state == "queued",
            Run.id != lead.id,
            Deliverable.master_id == made_of.master_id,
            Deliverable.sound_id.is_not_distinct_from(made_of.sound_id),
            Deliverable.under_id.is_not_distinct_from(made_of.under_id),
        )
        .order_by(Run.priority.desc(), Run.place)
        .limit(MOST_LOOKED_AT)
    )
    rows = session.scalars(query.with_for_update(key_share=True, skip_locked=True, of=Run))
    return [run for run in rows if not _is_to_wait(run, by)]


def _is_to_wait(run: Run, by: turns.Rules) -> bool:
    return turns.begin_of(run, by, datetime.now(UTC)) is not None


def _cancel(run: Run) -> None:
    run.state, run.finished_at = "cancelled", datetime.now(UTC)


def _say(session: Session, run: Run) -> None:
    kept.keep(session, "run", run.id)
    tell(session, "run", run.id, crate=run.deliverable.crate_id)
