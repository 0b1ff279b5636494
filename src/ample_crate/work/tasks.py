"""The tasks that workers carry out."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import procrastinate

from ..core.errors import AmpleError, Cancelled
from ..core.plan import Route
from ..core.span import Span, within
from ..handover import bag, carriers
from ..media import ops
from ..store import masters
from ..store.database import Database, tell
from ..store.models import Crate, Master, Receipt, Run, Trace
from ..store.queries import get
from . import crates, sums
from .deliver import carry_out
from .tools import Tools

tasks = procrastinate.Blueprint()
TOLD_EVERY = 0.5  # seconds


def _tools(context: procrastinate.JobContext) -> Tools:
    tools = context.additional_context["tools"]
    assert isinstance(tools, Tools)
    return tools


def _unforeseen(error: Exception) -> AmpleError:
    import logging

    logging.getLogger(__name__).exception("unforeseen")
    return AmpleError(f"Something unforeseen went wrong: {error}.", "See the worker's log, then try again.")


def _paced(say: Callable[[dict[str, Any]], None]) -> Callable[[dict[str, Any]], None]:
    last = [0.0]

    def pace(body: dict[str, Any]) -> None:
        now = time.monotonic()
        if now - last[0] >= TOLD_EVERY:
            last[0] = now
            say(body)

    return pace


@tasks.task(name="take_in", queue="masters", pass_context=True)
def take_in(context: procrastinate.JobContext, id: int) -> None:
    """Read a master's headers, then measure it and take its checksum."""
    tools = _tools(context)
    db = tools.database
    with db.session() as session:
        master = session.get(Master, id)
        if master is None or master.state == "ready":
            return
        path, summed, identity = Path(master.path), master.sha256, master.card.get("identity")

    def dismissed() -> bool:
        with db.session() as session:
            row = session.get(Master, id)
            return row is None or row.state == "ready"

    try:
        tools.folders.inside(path)
        facts = ops.read_facts(path)
        size = int(facts.value("file.size"))
        _set(db, Master, id, state="measuring", facts=facts.as_json(), error=None, size=size, notes=[], progress=None)
        measured = ops.measure(path, _paced(lambda body: _set(db, Master, id, progress=body)), dismissed, "everything")
        with db.session() as session:
            if session.get(Master, id) is None:
                return
            session.merge(Trace(master_id=id, document=measured.traces))
        _set(
            db, Master, id, facts=measured.facts.as_json(), notes=measured.notes, progress=None,
            events=[e.as_json() for e in measured.events],
        )  # fmt: skip
        now = sums.identity(path)
        if summed is None or identity != now:
            # The bytes are summed once: again only where the file has changed since.
            summed = sums.of(path, _paced(lambda body: _set(db, Master, id, progress=body)))
        _set(db, Master, id, state="ready", sha256=summed, identity=now, progress=None)
    except Cancelled:
        return
    except AmpleError as error:
        _set(db, Master, id, state="failed", error=error.as_json(), progress=None)
    except Exception as error:
        _set(db, Master, id, state="failed", error=_unforeseen(error).as_json(), progress=None)


def _set(
    db: Database, table: type[Master] | type[Run] | type[Crate], id: int, unless: Callable[[Any], bool] | None = None, **values: Any
) -> None:
    """Change a row, unless something about it forbids that, and tell everyone."""
    with db.session() as session:
        row = session.get(table, id, with_for_update=True)
        if row is None or (unless and unless(row)):
            return
        identity = values.pop("identity", None)
        for name, value in values.items():
            setattr(row, name, value)
        if isinstance(row, Master) and values.keys() & {"facts", "state", "notes"}:
            identity = identity or row.card.get("identity")
            masters.recard(row)
            row.card = row.card | {"identity": identity}
        more = {"progress": values["progress"]} if values.get("progress") else {}
        tell(session, table.__tablename__, id, **more)


@tasks.task(name="play_copy", queue="copies", pass_context=True)
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

    def dismissed() -> bool:
        with db.session() as session:
            return session.get(Master, id) is None

    try:
        out = tools.folders.play_copy(tools.folders.inside(path), id)
        made = ops.play_copy(path, out, seconds, _paced(lambda body: told(state="making", share=body["share"])), dismissed)
        told(state="ready", share=1.0, file=out.name, channels=made["channels"], frames=made["frames"])
    except Cancelled:
        return
    except AmpleError as error:
        told(state="failed", error=error.as_json())
    except Exception as error:
        told(state="failed", error=_unforeseen(error).as_json())


@tasks.task(name="encode", queue="encodes", pass_context=True)
def encode(context: procrastinate.JobContext, id: int) -> None:
    """Carry out a run: encode, measure, judge. A run whose worker was lost starts over."""
    tools = _tools(context)
    db = tools.database
    with db.session() as session:
        run = session.get(Run, id, with_for_update=True)
        if run is None or run.state not in {"queued", "running", "stopping"}:
            return
        if run.state == "stopping":
            run.state, run.finished_at = "cancelled", datetime.now(UTC)
            tell(session, "run", id)
            return
        run.state, run.started_at, run.starts, run.progress = "running", datetime.now(UTC), run.starts + 1, None
        start, route, deliverable = run.starts, Route.model_validate(run.route), run.deliverable
        master_path = Path(deliverable.master.path)
        master = within(masters.known(deliverable.master), Span.model_validate(deliverable.span) if deliverable.span else None)
        spec = crates.spec_of(deliverable.crate)
        tell(session, "run", id, crate=deliverable.crate_id)

    def overtaken(row: Run | None) -> bool:
        # A worker that was only thought lost finds its run begun again by another, whose it is now.
        return row is None or row.starts != start

    def stopping() -> bool:
        with db.session() as session:
            row = session.get(Run, id)
            return row is None or overtaken(row) or row.state == "stopping"

    def told(**values: Any) -> None:
        _set(db, Run, id, overtaken, **values)

    folder = tools.folders.runs / str(id)
    try:
        tools.folders.inside(master_path)
        made = carry_out(master_path, master, spec, route, folder, _paced(lambda b: told(progress=b)), stopping)
        told(
            state="done", path=str(made.path), size=made.path.stat().st_size, sha256=bag.sha256(made.path),
            facts=made.facts.as_json(), notes=made.notes, encode_seconds=made.encode_seconds,
            measure_seconds=made.measure_seconds, finished_at=datetime.now(UTC), progress=None, error=None,
        )  # fmt: skip
    except Cancelled:
        told(state="cancelled", finished_at=datetime.now(UTC), progress=None)
    except AmpleError as error:
        told(state="failed", error=error.as_json(), finished_at=datetime.now(UTC), progress=None)
    except Exception as error:
        told(state="failed", error=_unforeseen(error).as_json(), finished_at=datetime.now(UTC), progress=None)


@tasks.task(name="seal", queue="handover", pass_context=True)
def seal(context: procrastinate.JobContext, id: int) -> None:
    """Seal a crate: copy, checksum, ledger, bag."""
    tools = _tools(context)
    try:
        with tools.database.session() as session:
            crate = get(session, Crate, id)
            if crate.state != "sealing":
                return
            crates.require_sealable(crate)
            sealed_at = datetime.now(UTC)
            items, manifest = crates.bag_contents(crate, sealed_at, tools.house)
            beside = {s.name: s.text for s in crates.beside(crate, items)}
        name = f"crate-{manifest['number']}-r{manifest['revision']}"
        made = tools.folders.bags / name
        # A worker lost after the bag was made has nothing left to do but say so.
        if not made.exists():
            ops.room_for(tools.folders.bags, sum(item.path.stat().st_size for item in items))
            bag.seal(tools.folders.bags, name, items, manifest, beside)
        _set(tools.database, Crate, id, state="sealed", bag=str(made), bag_bytes=bag.size(made), sealed_at=sealed_at, error=None)
    except AmpleError as error:
        _set(tools.database, Crate, id, state="open", error=error.as_json())
    except Exception as error:
        _set(tools.database, Crate, id, state="open", error=_unforeseen(error).as_json())


@tasks.task(name="hand_over", queue="handover", pass_context=True)
def hand_over(context: procrastinate.JobContext, id: int) -> None:
    """Carry a sealed crate to its recipient and keep the receipt."""
    tools = _tools(context)
    with tools.database.session() as session:
        crate = get(session, Crate, id)
        if crate.state != "handing over" or crate.bag is None:
            return
        path, inbox, name = Path(crate.bag), tools.folders.inboxes / crate.recipient.document["inbox"], crate.recipient.name
    try:
        ops.room_for(tools.folders.inboxes, bag.size(path))
        answer = carriers.carry_to_folder(path, inbox, name)
        with tools.database.session() as session:
            crate = get(session, Crate, id, lock=True)
            session.add(Receipt(crate=crate, accepted=answer["accepted"], sent_bytes=bag.size(path), document=answer))
            crate.state, crate.error = ("received" if answer["accepted"] else "refused"), None
            tell(session, "crate", id)
    except AmpleError as error:
        _set(tools.database, Crate, id, state="sealed", error=error.as_json())
    except Exception as error:
        _set(tools.database, Crate, id, state="sealed", error=_unforeseen(error).as_json())
