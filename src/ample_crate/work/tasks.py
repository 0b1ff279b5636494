"""The tasks that workers carry out.

A worker that loses the database in mid-work goes on, and says what came of it when the database is
back.
"""

from __future__ import annotations

import contextlib
import logging
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import procrastinate
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, Cancelled, Changed
from ..core.planning import stored
from ..handover import bag, carriers, standins
from ..handover.signing import SigningKey
from ..media import ops
from ..store import masters
from ..store.database import AWAY, Database, tell
from ..store.models import Crate, Master, Receipt, Run, Trace
from ..store.queries import get
from . import crates, housekeeping, kept, logs, sums
from .deliver import run_route
from .orders import TASKS
from .sameness import require_same
from .tools import Tools

tasks = procrastinate.Blueprint()
log = logging.getLogger(__name__)
TOLD_EVERY = 0.5  # seconds
HELD = {"key_share": True}  # against others who change a row, not against those who refer to it
Tell = Callable[[dict[str, Any]], None]


def _tools(context: procrastinate.JobContext) -> Tools:
    tools = context.additional_context["tools"]
    assert isinstance(tools, Tools)
    return tools


def _queue(task: str) -> str:
    return TASKS[task][0]


def _paced(say: Tell) -> Tell:
    last = [0.0]

    def pace(body: dict[str, Any]) -> None:
        now = time.monotonic()
        if now - last[0] >= TOLD_EVERY:
            last[0] = now
            say(body)

    return pace


def _progress(
    db: Database,
    table: type[Master] | type[Run],
    id: int,
    unless: Callable[[Any], bool] | None = None,
) -> Tell:
    """Give what shows progress with a row; while the database is away nobody sees it, and the work
    goes on.
    """

    def say(body: dict[str, Any]) -> None:
        try:
            with db.session() as session:
                _show(session, table, id, unless, body)
        except AWAY:
            log.warning("the database is away; the work goes on")

    return _paced(say)


def _show(
    session: Session,
    table: type[Master] | type[Run],
    id: int,
    unless: Callable[[Any], bool] | None,
    body: dict[str, Any],
) -> None:
    row: Any = session.get(table, id, with_for_update=HELD)
    if row is not None and not (unless and unless(row)):
        row.progress = body
        tell(session, table.__tablename__, id, progress=body)


def _set(
    db: Database,
    table: type[Master] | type[Run] | type[Crate],
    id: int,
    unless: Callable[[Any], bool] | None = None,
    **values: Any,
) -> None:
    """Change a row, unless something about it forbids that, and tell everyone."""
    db.lasting(lambda session: _change(session, table, id, unless, values))


def _change(
    session: Session,
    table: type[Master] | type[Run] | type[Crate],
    id: int,
    unless: Callable[[Any], bool] | None,
    values: dict[str, Any],
) -> None:
    row = session.get(table, id, with_for_update=HELD)
    if row is None or (unless and unless(row)):
        return
    for name, value in values.items():
        setattr(row, name, value)
    if isinstance(row, Master) and values.keys() & {"facts", "state", "notes"}:
        masters.recard(row)
    if isinstance(row, Master) and values.get("state") in {"ready", "failed"}:
        session.flush()
        crates.advance_those_with(session, id)
    if not isinstance(row, Master) or values.keys() & {"facts", "state", "notes"}:
        kept.keep(session, table.__tablename__, id)
    tell(session, table.__tablename__, id)


def _asked(
    db: Database, table: type[Master] | type[Run], id: int, stop: Callable[[Any], bool]
) -> Callable[[], bool]:
    """Give what says whether a person stopped the work on a row; nobody can while the database is
    away.
    """

    def ask() -> bool:
        try:
            with db.session() as session:
                return stop(session.get(table, id))
        except AWAY:
            return False

    return ask


@tasks.task(name="take_in", queue=_queue("take_in"), pass_context=True)
def take_in(context: procrastinate.JobContext, id: int) -> None:
    """Read a master's headers, then measure it and take its checksum."""
    tools = _tools(context)
    db = tools.database
    with db.session() as session:
        master = session.get(Master, id)
        if master is None or master.state in {"ready", "changed"}:
            return
        path, summed, identity = Path(master.path), master.sha256, master.identity
    dismissed = _asked(db, Master, id, lambda row: row is None or row.state in {"ready", "changed"})
    progress = _progress(db, Master, id)
    try:
        tools.folders.inside(path)
        before = sums.identity(path) if path.exists() else ""
        facts = ops.read_facts(path)
        # The bytes are summed once: again only where the file has changed since.
        known = summed if identity == before else None
        size = int(facts.value("file.size"))
        _set(
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
        db.lasting(lambda session: _keep_trace(session, id, measured.traces))
        _set(
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
        _set(db, Master, id, state="ready", sha256=known, identity=before, progress=None)
    except Cancelled:
        return
    except AWAY:
        raise
    except OSError as error:
        gone = AmpleError(
            f"'{path.name}' could not be read to its end: {error.strerror}.",
            "Put the file back, then read it again.",
        )
        _set(db, Master, id, state="failed", error=gone.as_json(), progress=None)
    except Exception as error:
        _set(db, Master, id, state="failed", error=logs.as_error(error), progress=None)


def _keep_trace(session: Session, id: int, document: dict[str, Any]) -> None:
    if session.get(Master, id) is not None:
        session.merge(Trace(master_id=id, document=document))


@tasks.task(name="compare", queue=_queue("compare"), pass_context=True)
def compare(context: procrastinate.JobContext, id: int) -> None:
    """Hold a master's file against what was read of it; one that is another file now is marked as
    changed.
    """
    db = _tools(context).database
    with db.session() as session:
        master = session.get(Master, id)
        if master is None or master.state != "ready":
            return
    with contextlib.suppress(AmpleError):
        require_same(db, id)


@tasks.task(name="play_copy", queue=_queue("play_copy"), pass_context=True)
def play_copy(context: procrastinate.JobContext, id: int) -> None:
    """Make the light copy of a master for smooth play, once."""
    tools = _tools(context)
    db = tools.database
    with db.session() as session:
        master = session.get(Master, id)
        # One that was being made and is ordered again lost its worker: it is made anew.
        if master is None or (master.play or {}).get("state") not in {"waiting", "making"}:
            return
        path, seconds = Path(master.path), master.seconds or 60.0

    def told(**what: Any) -> None:
        _set(db, Master, id, play=what)

    dismissed = _asked(db, Master, id, lambda row: row is None or row.play is None)
    try:
        out = tools.folders.play_copy(sums.identity(tools.folders.inside(path)), id)
        made = ops.play_copy(
            path,
            out,
            seconds,
            _paced(lambda body: told(state="making", share=body["share"])),
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


@tasks.task(name="encode", queue=_queue("encode"), pass_context=True)
def encode(context: procrastinate.JobContext, id: int) -> None:
    """Carry out a run: encode, measure, judge. A run whose worker was lost starts over."""
    tools = _tools(context)
    db = tools.database
    with db.session() as session:
        run = session.get(Run, id, with_for_update=HELD)
        if run is None or run.state not in {"queued", "running", "stopping"}:
            return
        if run.state == "stopping":
            run.state, run.finished_at = "cancelled", datetime.now(UTC)
            kept.keep(session, "run", id)
            tell(session, "run", id)
            return
        run.state, run.started_at, run.starts, run.progress = (
            "running",
            datetime.now(UTC),
            run.starts + 1,
            None,
        )
        start, route, deliverable = run.starts, stored.route_of(run.route), run.deliverable
        master_id, master_path = deliverable.master_id, Path(deliverable.master.path)
        master = crates.delivered(deliverable)
        spec = crates.spec_of(deliverable.crate)
        kept.keep(session, "run", id)
        tell(session, "run", id, crate=deliverable.crate_id)

    def overtaken(row: Run | None) -> bool:
        # A worker that was only thought lost finds its run begun again by another, whose it is now.
        return row is None or row.starts != start

    def told(**values: Any) -> None:
        _set(db, Run, id, overtaken, progress=None, finished_at=datetime.now(UTC), **values)

    stopping = _asked(db, Run, id, lambda row: overtaken(row) or row.state == "stopping")
    folder = tools.folders.runs / str(id)
    try:
        tools.folders.inside(master_path)
        made_from = require_same(db, master_id)
        made = run_route(
            master_path,
            master,
            spec,
            route,
            folder,
            ops.Control(_progress(db, Run, id, overtaken), stopping),
        )
        # What was replaced while it was read gave frames of two files, or of the wrong one.
        require_same(db, master_id)
        told(
            state="done",
            path=str(made.path),
            size=made.path.stat().st_size,
            sha256=bag.sha256(made.path),
            master_sha256=made_from,
            facts=made.facts.as_json(),
            notes=made.notes,
            encode_seconds=made.encode_seconds,
            measure_seconds=made.measure_seconds,
            error=None,
        )
    except Cancelled:
        told(state="cancelled")
    except AWAY:
        raise
    except Exception as error:
        told(state="failed", error=logs.as_error(error))


@tasks.task(name="work_out", queue=_queue("work_out"), pass_context=True)
def work_out(context: procrastinate.JobContext, id: int) -> None:
    """Work out anew where a crate stands, should what is kept of it be out of date."""
    with _tools(context).database.session() as session:
        if session.get(Crate, id) is not None:
            kept.floors(session, [id])
            tell(session, "crate", id)


@tasks.task(name="tidy", queue=_queue("tidy"), pass_context=True)
def tidy(context: procrastinate.JobContext, id: int) -> None:
    """Keep what grows within bounds."""
    tools = _tools(context)
    cleared = housekeeping.tidy(tools.database, tools.folders)
    log.info("tidied: %s", cleared)


@tasks.task(name="seal", queue=_queue("seal"), pass_context=True)
def seal(context: procrastinate.JobContext, id: int) -> None:
    """Seal a crate: copy, checksum, ledger, bag, signature."""
    tools = _tools(context)
    db = tools.database
    try:
        with db.session() as session:
            crate = get(session, Crate, id)
            if crate.state != "sealing":
                return
            ids = {one.master_id for one in crate.deliverables if Path(one.master.path).exists()}
        for master in ids:
            require_same(db, master)
        with db.session() as session:
            crate = get(session, Crate, id)
            crates.require_sealable(crate)
            sealed_at = datetime.now(UTC)
            items, manifest = crates.bag_contents(crate, sealed_at, tools.house)
            beside = {s.name: s.text for s in crates.beside(crate, items)}
        sealed = _bagged(tools, items, manifest, beside)
        _set(
            db,
            Crate,
            id,
            state="sealed",
            bag=str(sealed.path),
            bag_bytes=bag.size(sealed.path),
            sealed_at=sealed_at,
            bag_digest=sealed.digest,
            bag_files=sealed.files,
            error=None,
        )
    except AWAY:
        raise
    except Exception as error:
        _set(db, Crate, id, state="open", error=logs.as_error(error))


def _bagged(
    tools: Tools, items: list[bag.Item], manifest: dict[str, Any], beside: dict[str, str]
) -> bag.Sealed:
    """Make the bag of a crate, or take the one that a lost worker made of the very same things.

    A bag of that name which was made from anything else belongs to no crate that is known here: it
    is set aside, whole.
    """
    name = f"crate-{manifest['number']}-r{manifest['revision']}"
    place, key = tools.folders.bags / name, SigningKey.kept(tools.folders.keys)
    if place.exists():
        if bag.made_here(place, bag.origin(items, manifest, beside), key):
            return bag.recorded(place)
        log.warning(
            "%s was made from other things; it is set aside as %s", name, bag.set_aside(place)
        )
    ops.room_for(
        tools.folders.bags, sum(item.path.stat().st_size for item in items if item.path.exists())
    )
    return bag.seal(tools.folders.bags, name, items, manifest, key, beside)


@tasks.task(name="hand_over", queue=_queue("hand_over"), pass_context=True)
def hand_over(context: procrastinate.JobContext, id: int) -> None:
    """Carry a sealed crate to its recipient, and hold the receipt against what was sealed."""
    tools = _tools(context)
    db = tools.database
    with db.session() as session:
        crate = get(session, Crate, id)
        if crate.state != "handing over" or crate.bag is None:
            return
        path, inbox, name = (
            Path(crate.bag),
            tools.folders.inboxes / crate.recipient.document["inbox"],
            crate.recipient.name,
        )
        recorded = crate.bag_digest, crate.bag_files
    try:
        digest, files = _proof(path.name, *recorded)
        ops.room_for(tools.folders.inboxes, bag.size(path))
        standins.introduce(inbox, SigningKey.kept(tools.folders.keys).public_pem)
        arrived = carriers.carry_to_folder(path, inbox, digest, files)
        answer = standins.receive(arrived, name)
        wrong = carriers.disagreement(answer, files)
        db.lasting(lambda session: _keep_receipt(session, id, answer, bag.size(path), wrong))
    except AWAY:
        raise
    except Exception as error:
        _set(db, Crate, id, state="sealed", error=logs.as_error(error))


def _proof(
    name: str, digest: str | None, files: dict[str, Any] | None
) -> tuple[str, dict[str, Any]]:
    """Give what a bag is held against.

    Raises:
        Changed: there is nothing.
    """
    if digest is None or files is None:
        raise Changed(
            f"The bag {name} was sealed before bags were recorded and signed, so that "
            f"nobody can prove it.",
            "Open a new revision of the crate and seal that.",
        )
    return digest, files


def _keep_receipt(
    session: Session, id: int, answer: dict[str, Any], sent: int, wrong: str | None
) -> None:
    """Keep what the recipient's side answered; a receipt for anything but what was sealed is no
    receipt.
    """
    crate = get(session, Crate, id, lock=True)
    accepted, error = bool(answer["accepted"]), None
    if wrong is not None:
        accepted = False
        answer = answer | {
            "accepted": False,
            "message": f"The receipt is not for what was sealed: {wrong}",
        }
        error = Changed(
            answer["message"], "Ask the recipient what they hold, then open a new revision."
        ).as_json()
    session.add(Receipt(crate=crate, accepted=accepted, sent_bytes=sent, document=answer))
    crate.state, crate.error = ("received" if accepted else "refused"), error
    kept.keep(session, "crate", id)
    tell(session, "crate", id)
