"""Starting, stopping and holding back the runs of a crate."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import Refused
from ..core.planning import share
from ..store.database import tell
from ..store.models import Crate, Deliverable, Run
from . import foretelling, origins
from .orders import order
from .status import UNFINISHED, ItemStatus, item_name, item_statuses, now, sent_this_week, spec_of

BEING_READ = {"reading": "read", "measuring": "measured"}


def runnable(one: ItemStatus) -> bool:
    """Say whether a route is planned that could be run."""
    return one.route is not None and one.route.plan is not None


def waits_for(one: ItemStatus, made: list[ItemStatus]) -> str | None:
    """Say what an item waits for before it can be run; None where it need not wait."""
    state = BEING_READ.get(origins.state(one.deliverable))
    if state is not None:
        return f"until its master is {state}"
    others = [
        s
        for s in made
        if origins.state(s.deliverable) in BEING_READ
        and not origins.ids(s.deliverable) & origins.ids(one.deliverable)
    ]
    crate = one.deliverable.crate
    spec = spec_of(crate) if others else None
    if spec is not None and share.bytes_left(spec, sent_this_week(crate, spec)) is not None:
        return f"until {item_name(others[0].deliverable)} is measured, for the items share the room"
    return None


def start(session: Session, one: ItemStatus) -> Run | None:
    """Make and order a run of a deliverable, if it can be run and none is going on; the caller
    holds the crate's row.
    """
    if (
        one.going_on
        or one.route is None
        or one.route.plan is None
        or origins.state(one.deliverable) != "ready"
    ):
        return None
    run = Run(
        deliverable=one.deliverable,
        route=one.route.model_dump(mode="json"),
        choices=dict(one.deliverable.choices),
        foretold=foretelling.foretold(session, one),
    )
    one.deliverable.wanted_at = None
    session.add(run)
    session.flush()
    order(session, "encode", run.id)
    return run


def run_all(session: Session, crate: Crate) -> None:
    """Run everything that has no file that counts: at once where that can be, else as soon as what
    it waits for is there.

    A master that could not be read, and whose file is there, is read again.

    Raises:
        Refused: there is nothing to run, or what there is cannot be; with the cause.
    """
    every = {row.id: row for d in crate.deliverables for row in origins.of(d)}
    for master in every.values():
        if master.state == "failed" and Path(master.path).exists():
            master.state, master.error = "reading", None
            order(session, "ingest", master.id)
            tell(session, "master", master.id)
    made = item_statuses(crate)
    wanted = [s for s in made if s.open and not s.going_on]
    begun = 0
    for one in wanted:
        if waits_for(one, made):
            one.deliverable.wanted_at, begun = one.deliverable.wanted_at or now(), begun + 1
        elif start(session, one) is not None:
            begun += 1
    if begun:
        return
    stopper = blocked(wanted)
    if stopper is not None:
        raise Refused(f"Nothing can be run yet. {stopper[0]}", stopper[1])
    raise Refused("There is nothing to run.", "Every deliverable is finished or is running.")


def stop(session: Session, run: Run) -> None:
    """Stop a run: one that waits ends at once, one that works ends within a second or two; the
    caller holds its row.
    """
    if run.state == "queued":
        run.state, run.finished_at = "cancelled", now()
    elif run.state == "running":
        run.state = "stopping"
    tell(session, "run", run.id, crate=run.deliverable.crate_id)


def advance(session: Session, crate: Crate) -> None:
    """Start what waited and waits no longer; what turns out to be blocked is no longer wanted, and
    its page says why.
    """
    if crate.state != "open" or crate.removed_at is not None:
        return
    made = item_statuses(crate)
    for one in made:
        if one.deliverable.wanted_at is None or waits_for(one, made):
            continue
        if start(session, one) is None and not one.going_on:
            one.deliverable.wanted_at = None
    tell(session, "crate", crate.id)


def advance_those_with(session: Session, master: int) -> None:
    """Advance the crates in which something waits, and a master is."""
    waiting = select(Deliverable.crate_id).where(Deliverable.wanted_at.is_not(None))
    used = select(Deliverable.crate_id).where(Deliverable.uses(master))
    query = select(Crate).where(Crate.id.in_(waiting), Crate.id.in_(used)).order_by(Crate.id)
    for crate in session.scalars(query.with_for_update(key_share=True)):
        advance(session, crate)


def doing(one: ItemStatus, made: list[ItemStatus]) -> str:
    """Say what an item is doing now."""
    run = one.run
    if run is not None and run.state in UNFINISHED:
        return run.state
    if one.deliverable.wanted_at is not None:
        return f"waits {waits_for(one, made) or 'for its turn'}"
    if one.finished is not None and not one.open:
        return "done"
    state = origins.state(one.deliverable)
    if one.trouble is not None and state not in BEING_READ:
        return f"cannot run: {one.trouble.what}"
    stopper = blocked([one])
    if stopper is not None:
        return f"cannot run: {stopper[0]}"
    if run is not None and run.state == "failed":
        return f"failed: {(run.error or {}).get('what', '')}"
    if run is not None and run.state == "cancelled":
        return "stopped"
    if one.finished is not None:
        return "its file is gone" if one.lost else "to be run again"
    return (
        "not run yet"
        if state == "ready"
        else f"not run yet; its master is being {BEING_READ.get(state, 'looked at')}"
    )


def blocked(made: list[ItemStatus]) -> tuple[str, str] | None:
    """Say what keeps the first item that cannot be run from it, and the way out; None where nothing
    does but waiting for a master.
    """
    for one in made:
        if (
            one.route is None
            and one.trouble is not None
            and origins.state(one.deliverable) not in BEING_READ
        ):
            return one.trouble.what, one.trouble.way_out
        for caution in one.route.cautions if one.route is not None else []:
            if caution.blocks:
                return caution.what, caution.way_out
    return None
