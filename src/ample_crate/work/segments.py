"""Runs whose picture several workers make, a segment at a time; the run's own worker leads: it
makes what nobody else takes, and joins what is there meanwhile.

A segment is offered as an order of its own, which the leader withdraws before it makes one itself;
so each is made once, and one whose worker is lost goes to whoever is free first.
"""

from __future__ import annotations

import contextlib
import logging
import os
import platform
import shutil
import time
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, Cancelled
from ..core.planning import segments, stored
from ..core.planning.plan import Plan
from ..core.planning.ready import encode_seconds
from ..media import ops
from ..store.database import AWAY, Database
from ..store.models import Run, Segment
from ..store.past import past
from ..store.places import Folders
from . import crew, logs, origins
from .deliver import Encoded, Work
from .jobs import HELD, TOLD_EVERY, is_stopped, paced
from .orders import order, withdraw

log = logging.getLogger(__name__)
# Seconds that a segment is expected to take at least: to begin one costs about two (measured here).
SHORTEST = float(os.environ.get("AMPLE_SEGMENT", "20"))
WORTH = 3  # segments that a run must be long enough for
# A segment decodes from the key frame before it: so many times the frames between two of these.
GROUPS = 4
EACH, MOST = 4, 64  # segments for each worker, so that none waits long for the last; and in all
FOLDER = ".segments"
LOOKED_EVERY = 0.3  # seconds
Lost = Callable[[Segment | None], bool]


def encode(
    db: Database, run: int, start: int, inputs: Sequence[Path], work: Work
) -> Encoded | None:
    """Encode a run with all workers that are free.

    Args:
        run: its number.
        start: which of its starts this is; with another one it is another worker's.
        inputs: the plan's inputs.
        work: what is to be done.

    Returns:
        None where it is left to one worker: nobody else is free, it is short, or its picture
        cannot be parted.

    Raises:
        AmpleError: the cause; no segment is left behind.
    """
    count = db.lasting(lambda session: _offered(session, run, work))
    if count < 2:
        return None
    lead = _Lead(db, run, start, inputs, work, count)
    try:
        made = lead.encode()
    except AWAY:
        raise
    except Exception:
        lead.clear()
        raise
    lead.clear()
    return made


def _offered(session: Session, run: int, work: Work) -> int:
    """Offer the segments of a run, unless an earlier start did; give how many there are."""
    there = session.scalar(select(Segment.count).where(Segment.run_id == run).limit(1))
    if there is not None:
        return there
    count = _count_for(session, work)
    for number in range(count if count > 1 else 0):
        row = Segment(run_id=run, number=number, count=count)
        session.add(row)
        session.flush()
        order(session, "segment", row.id)
    return count


def _count_for(session: Session, work: Work) -> int:
    plan, gop = work.plan, work.master.fraction("motion.longest_gop") or 1
    if not segments.can_be_parted(plan):
        return 1
    expected = encode_seconds(plan.effort, plan.work, past(session))
    if expected < WORTH * SHORTEST:
        return 1
    idle = crew.idle(session)
    if not idle:
        return 1
    workers = idle + 1
    count = min(int(expected / SHORTEST), int(plan.frames / (GROUPS * gop)), MOST, EACH * workers)
    if count > workers:
        # As many for each, or some wait for the last.
        count -= count % workers
    return len(segments.parted(plan, count))


@dataclass(frozen=True)
class _Piece:
    """A segment to make: its row, its number among so many, and its plan."""

    id: int
    number: int
    plan: Plan


class _Lead:
    """The worker that a run was given to."""

    def __init__(
        self, db: Database, run: int, start: int, inputs: Sequence[Path], work: Work, count: int
    ) -> None:
        self._db, self._run, self._start, self._inputs = db, run, start, inputs
        self._work, self._plans = work, segments.parted(work.plan, count)
        self._folder = work.folder / FOLDER
        self._began = self._looked = time.monotonic()
        self._others, self._workers, self._over = 0.0, 1, False

    def encode(self) -> Encoded:
        """Make what nobody else does, and wait for the others; what there is, is joined
        meanwhile.
        """
        # A child sees of a folder what is laid into it later, if the folder is there.
        self._folder.mkdir(parents=True, exist_ok=True)
        with ThreadPoolExecutor(1) as beside:
            joined = beside.submit(self._join)
            try:
                left = 1
                while left or not joined.done():
                    if joined.done():
                        # Before its time: it has failed.
                        joined.result()
                    piece, left = self._db.lasting(self._taken)
                    if piece is not None:
                        self._make(piece)
                    else:
                        self._wait("encode" if left else "join")
                return self._encoded(joined.result())
            finally:
                self._over = True

    def _taken(self, session: Session) -> tuple[_Piece | None, int]:
        """Take a segment that nobody makes; give how many are not done."""
        query = select(Segment).where(Segment.run_id == self._run).order_by(Segment.number)
        rows = list(session.scalars(query.with_for_update(key_share=True)))
        left = [row for row in rows if row.state != "done" or not self._path(row.number).exists()]
        for row in left:
            if self._is_free(session, row):
                row.state, row.worker, row.share, row.error = "kept", "", 0.0, None
                return _Piece(row.id, row.number, self._plans[row.number]), len(left)
        return None, len(left)

    def _is_free(self, session: Session, row: Segment) -> bool:
        if row.state in {"offered", "making"}:
            return withdraw(session, "segment", row.id)
        if row.state == "failed":
            # What is wrong may be wrong with that worker's machine alone.
            log.warning("segment %s failed elsewhere and is made here: %s", row.id, row.error)
        return True

    def _path(self, number: int) -> Path:
        return self._folder / self._plans[number].outcome

    def _make(self, piece: _Piece) -> None:
        control = replace(
            self._work.control, progress=lambda body: self._show(piece.number, body["share"])
        )
        size = self._work.route.size // len(self._plans)
        ops.render(self._inputs[:1], self._folder, piece.plan, size, control)

        def done(session: Session) -> None:
            row = session.get(Segment, piece.id)
            if row is not None:
                row.state = "done"

        self._db.lasting(done)

    def _wait(self, stage: str) -> None:
        cancelled = self._work.control.cancelled
        if cancelled is not None and cancelled():
            raise Cancelled("The work was stopped.", "Run it again when you like.")
        self._show(None, 0.0, stage)
        time.sleep(LOOKED_EVERY)

    def _show(self, mine: int | None, share: float, stage: str = "encode") -> None:
        """Tell how far all of it is."""
        now = time.monotonic()
        if now - self._looked >= TOLD_EVERY:
            self._looked = now
            self._look(mine)
        told = self._work.control.progress
        if told is None:
            return
        plan, elapsed = self._work.plan, now - self._began
        reached = min(1.0, (self._others + share) / len(self._plans))
        told(
            {
                "stage": stage,
                "frame": round(reached * plan.frames),
                "frames": plan.frames,
                "speed": float(reached * plan.seconds) / elapsed if elapsed else 0.0,
                "elapsed": elapsed,
                "remaining": elapsed / reached - elapsed if reached > 0.01 else None,
                "share": reached,
                "workers": self._workers,
            }
        )

    def _look(self, mine: int | None) -> None:
        try:
            with self._db.session() as session:
                rows = list(session.scalars(select(Segment).where(Segment.run_id == self._run)))
        except AWAY:
            return
        self._others = sum(
            1.0 if row.state == "done" else row.share for row in rows if row.number != mine
        )
        self._workers = len({row.worker for row in rows if row.worker} | {""})

    def _join(self) -> ops.Rendered:
        work = self._work
        paths = tuple(self._path(number) for number in range(len(self._plans)))
        control = ops.Control(cancelled=lambda: self._over)
        whole = ops.Order(work.plan, work.folder, work.route.size, control, paths)
        made = ops.render_together(self._inputs, [whole])[0]
        if isinstance(made, AmpleError):
            raise made
        return made

    def _encoded(self, made: ops.Rendered) -> Encoded:
        self._look(None)
        count, by = len(self._plans), _workers(self._workers)
        said = f"Made in {count} segments by {by}, and joined as coded."
        seconds = time.monotonic() - self._began
        return Encoded(made._replace(notes=[*made.notes, said]), seconds, self._workers)

    def clear(self) -> None:
        """Let go of all segments, unless the run is another worker's by now."""

        def forget(session: Session) -> bool:
            run = session.get(Run, self._run, with_for_update=HELD)
            mine = run is None or run.starts == self._start
            if mine:
                session.execute(delete(Segment).where(Segment.run_id == self._run))
            return mine

        if self._db.lasting(forget):
            shutil.rmtree(self._folder, ignore_errors=True)


def abandon(session: Session, folders: Folders, run: int) -> None:
    """Let go of the segments of a run that is over, whose worker was lost."""
    session.execute(delete(Segment).where(Segment.run_id == run))
    shutil.rmtree(folders.runs / str(run) / FOLDER, ignore_errors=True)


def _workers(count: int) -> str:
    return "one worker" if count == 1 else f"{count} workers"


def carry_out(db: Database, folders: Folders, id: int) -> None:
    """Make a segment of a run that another worker leads."""
    me = f"{platform.node()}:{os.getpid()}"
    with db.session() as session:
        row = session.get(Segment, id, with_for_update=HELD)
        if row is None or row.state not in {"offered", "making"}:
            return
        route = stored.route_of(row.run.route)
        if route.plan is None:
            return
        row.state, row.worker, row.share = "making", me, 0.0
        plan, size = segments.parted(route.plan, row.count)[row.number], route.size // row.count
        master = origins.paths(row.run.deliverable)[0]
        folder = folders.runs / str(row.run_id) / FOLDER

    def lost(row: Segment | None) -> bool:
        return row is None or row.state != "making" or row.worker != me

    def tell(**values: Any) -> bool:
        return db.lasting(lambda session: _tell(session, id, lost, values))

    control = ops.Control(
        paced(lambda body: _show(db, id, lost, body["share"])), is_stopped(db, Segment, id, lost)
    )
    try:
        folders.inside(master)
        ops.render([master], folder, plan, size, control)
        wanted = tell(state="done")
    except AWAY:
        raise
    except Exception as error:
        wanted = tell(state="failed", error=logs.as_error(error))
    if not wanted:
        _drop(db, id, folder / plan.outcome)


def _show(db: Database, id: int, lost: Lost, share: float) -> None:
    try:
        with db.session() as session:
            _tell(session, id, lost, {"share": share})
    except AWAY:
        log.warning("the database is away; the work goes on")


def _tell(session: Session, id: int, lost: Lost, values: Mapping[str, Any]) -> bool:
    """Change a segment's row, unless it was taken away; say whether it was not."""
    row = session.get(Segment, id, with_for_update=HELD)
    if row is None or lost(row):
        return False
    for name, value in values.items():
        setattr(row, name, value)
    return True


def _drop(db: Database, id: int, path: Path) -> None:
    """Remove what was made for nobody: its run has ended meanwhile."""

    def over(session: Session) -> bool:
        return session.get(Segment, id) is None

    if db.lasting(over):
        path.unlink(missing_ok=True)
        with contextlib.suppress(OSError):
            path.parent.rmdir()
