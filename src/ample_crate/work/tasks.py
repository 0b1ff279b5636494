"""The tasks of masters and runs, and the housekeeping.

A worker that loses the database in mid-work goes on, and says what came of it when the database is
back.
"""

from __future__ import annotations

import contextlib
import logging
from pathlib import Path
from typing import Any

import procrastinate
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, Cancelled, Changed
from ..media import ops
from ..store import outlines
from ..store.database import AWAY, tell
from ..store.models import Crate, Master, Trace
from . import (
    codec_trials,
    easing,
    encoding,
    hearing,
    housekeeping,
    kept,
    logs,
    paces,
    quality,
    rehearsing,
    sampling,
    segments,
    sums,
    viewing,
)
from .jobs import change, is_stopped, paced, queue_of, shown_progress, tools_of
from .sameness import require_same

registry = procrastinate.Blueprint()
log = logging.getLogger(__name__)


@registry.task(name="ingest", queue=queue_of("ingest"), pass_context=True)
def ingest(context: procrastinate.JobContext, id: int) -> None:
    """Read a master's headers, then measure it and take its checksum."""
    tools = tools_of(context)
    db = tools.database
    with db.session() as session:
        master = session.get(Master, id)
        if master is None or master.state in {"ready", "changed"}:
            return
        path, summed, identity = Path(master.path), master.sha256, master.identity
    dismissed = is_stopped(
        db, Master, id, lambda row: row is None or row.state in {"ready", "changed"}
    )
    progress = shown_progress(db, Master, id)
    try:
        tools.folders.inside(path)
        before = sums.identity(path) if path.exists() else ""
        facts = ops.read_facts(path)
        # The bytes are summed once: again only where the file has changed since.
        known = summed if identity == before else None
        size = int(facts.value("file.size"))
        change(
            db,
            Master,
            id,
            state="measuring",
            facts=facts.as_json(),
            error=None,
            size=size,
            notes=[],
            progress=None,
            sha256=known,
        )
        measured = ops.measure(path, progress, dismissed, "everything")
        db.lasting(lambda session: _keep_measured(session, id, measured))
        change(
            db,
            Master,
            id,
            facts=measured.facts.as_json(),
            notes=measured.notes,
            progress=None,
            events=[e.as_json() for e in measured.events],
        )
        known = known or sums.of(path, progress)
        if sums.identity(path) != before:
            raise Changed(
                f"'{path.name}' changed while it was being read.",
                "Wait until it is whole, then read it again.",
            )
        change(db, Master, id, state="ready", sha256=known, identity=before, progress=None)
    except Cancelled:
        return
    except AWAY:
        raise
    except OSError as error:
        gone = AmpleError(
            f"'{path.name}' could not be read to its end: {error.strerror}.",
            "Put the file back, then read it again.",
        )
        change(db, Master, id, state="failed", error=gone.as_json(), progress=None)
    except Exception as error:
        change(db, Master, id, state="failed", error=logs.as_error(error), progress=None)


def _keep_measured(session: Session, id: int, measured: ops.Measured) -> None:
    if session.get(Master, id) is not None:
        session.merge(Trace(master_id=id, document=measured.traces))
        outlines.keep(session, id, measured.outline)


@registry.task(name="compare", queue=queue_of("compare"), pass_context=True)
def compare(context: procrastinate.JobContext, id: int) -> None:
    """Hold a master's file against what was read of it; one that is another file now is marked as
    changed.
    """
    db = tools_of(context).database
    with db.session() as session:
        master = session.get(Master, id)
        if master is None or master.state != "ready":
            return
    with contextlib.suppress(AmpleError):
        require_same(db, id)


@registry.task(name="proxy", queue=queue_of("proxy"), pass_context=True)
def proxy(context: procrastinate.JobContext, id: int) -> None:
    """Make the proxy of a master, once."""
    tools = tools_of(context)
    db = tools.database
    with db.session() as session:
        master = session.get(Master, id)
        # One that was being made and is ordered again lost its worker: it is made anew.
        if master is None or (master.proxy or {}).get("state") not in {"waiting", "making"}:
            return
        path, seconds = Path(master.path), master.seconds or 60.0

    def told(**what: Any) -> None:
        change(db, Master, id, proxy=what)

    dismissed = is_stopped(db, Master, id, lambda row: row is None or row.proxy is None)
    try:
        out = tools.folders.proxy(sums.identity(tools.folders.inside(path)), id)
        made = ops.proxy(
            path,
            out,
            seconds,
            paced(lambda body: told(state="making", share=body["share"])),
            dismissed,
        )
        told(
            state="ready",
            share=1.0,
            file=out.name,
            channels=made["channels"],
            frames=made["frames"],
        )
    except Cancelled:
        return
    except AWAY:
        raise
    except Exception as error:
        told(state="failed", error=logs.as_error(error))


@registry.task(name="encode", queue=queue_of("encode"), pass_context=True)
def encode(context: procrastinate.JobContext, id: int) -> None:
    """Carry out a run, and with it others that wait for the same masters."""
    tools = tools_of(context)
    encoding.carry_out(tools, id)


@registry.task(name="segment", queue=queue_of("segment"), pass_context=True)
def segment(context: procrastinate.JobContext, id: int) -> None:
    """Make a segment of a run that another worker leads."""
    tools = tools_of(context)
    segments.carry_out(tools.database, tools.folders, id)


@registry.task(name="trial", queue=queue_of("trial"), pass_context=True)
def trial(context: procrastinate.JobContext, id: int) -> None:
    """Try the paces of a codec on this machine."""
    paces.carry_out(tools_of(context).database, id)


@registry.task(name="quality", queue=queue_of("quality"), pass_context=True)
def hold_against(context: procrastinate.JobContext, id: int) -> None:
    """Hold what a run made against its master, frame by frame."""
    tools = tools_of(context)
    quality.STUDY.carry_out(tools.database, tools.folders, id)


@registry.task(name="sample", queue=queue_of("sample"), pass_context=True)
def sample(context: procrastinate.JobContext, id: int) -> None:
    """Learn how hard the pictures of a deliverable are."""
    tools = tools_of(context)
    sampling.STUDY.carry_out(tools.database, tools.folders, id)


@registry.task(name="ease", queue=queue_of("ease"), pass_context=True)
def ease(context: procrastinate.JobContext, id: int) -> None:
    """Look at what would make a deliverable's pictures look better."""
    tools = tools_of(context)
    easing.STUDY.carry_out(tools.database, tools.folders, id)


@registry.task(name="hear", queue=queue_of("hear"), pass_context=True)
def hear(context: procrastinate.JobContext, id: int) -> None:
    """Hear what is made of a deliverable's sound."""
    tools = tools_of(context)
    hearing.STUDY.carry_out(tools.database, tools.folders, id)


@registry.task(name="rehearse", queue=queue_of("rehearse"), pass_context=True)
def rehearse(context: procrastinate.JobContext, id: int) -> None:
    """Play a run's file as a player would."""
    tools = tools_of(context)
    rehearsing.STUDY.carry_out(tools.database, tools.folders, id)


@registry.task(name="view", queue=queue_of("view"), pass_context=True)
def view(context: procrastinate.JobContext, id: int) -> None:
    """Make a copy of a run's file and of what went into its encoder, to be played."""
    tools = tools_of(context)
    viewing.STUDY.carry_out(tools.database, tools.folders, id)


@registry.task(name="try_codecs", queue=queue_of("try_codecs"), pass_context=True)
def try_codecs(context: procrastinate.JobContext, id: int) -> None:
    """Try codecs on a part of a master."""
    tools = tools_of(context)
    codec_trials.STUDY.carry_out(tools.database, tools.folders, id)


@registry.task(name="work_out", queue=queue_of("work_out"), pass_context=True)
def work_out(context: procrastinate.JobContext, id: int) -> None:
    """Work out anew where a crate stands, should what is kept of it be out of date."""
    with tools_of(context).database.session() as session:
        if session.get(Crate, id) is not None:
            kept.floors(session, [id])
            tell(session, "crate", id)


@registry.task(name="tidy", queue=queue_of("tidy"), pass_context=True)
def tidy(context: procrastinate.JobContext, id: int) -> None:
    """Keep what grows within bounds."""
    tools = tools_of(context)
    cleared = housekeeping.tidy(tools.database, tools.folders)
    log.info("tidied: %s", cleared)
