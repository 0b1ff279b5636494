"""A crate's next step, how long it takes until it is ready, its ledgers, its revisions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import lru_cache
from typing import Any

from sqlalchemy.orm import object_session

from ..core.errors import Refused
from ..core.planning import concerns, programme, ready, table
from ..core.planning.ready import Past
from ..core.planning.schedule import EMPTY, Queue
from ..core.specs.differences import NOT_BINDING, differences
from ..core.specs.spec import Spec
from ..core.units.values import read_bit_rate
from ..store import specs
from ..store.models import Crate, Deliverable
from .running import runnable, waits_for
from .sealing import NEVER_EXCEPTED, obstacles, open_breaks
from .status import ItemStatus, spec_of


def next_step(crate: Crate, made: list[ItemStatus]) -> str:
    """Name the one next step of a crate: plan (something is missing), run, wait, review, seal, hand
    over, revise, done.
    """
    match crate.state:
        case "sealing" | "handing over":
            return "wait"
        case "sealed":
            return "hand over"
        case "received":
            return "done"
        case "refused":
            return "revise"
    if not made:
        return "plan"
    if any(s.going_on for s in made):
        return "wait"
    open_ones = [s for s in made if s.open and s.deliverable.wanted_at is None]
    if open_ones:
        waiting = any(waits_for(s, made) for s in open_ones)
        return "run" if waiting or any(runnable(s) for s in open_ones) else "plan"
    if any(s.deliverable.wanted_at is not None for s in made):
        return "wait"
    return "review" if obstacles(crate, made) else "seal"


def moved_on(crate: Crate) -> tuple[int, list[str]] | None:
    """Say which newer version of an open crate's spec is in force, and what changed; None where
    there is none.
    """
    session = object_session(crate)
    if session is None or crate.state != "open":
        return None
    held = specs.current(specs.versions(session, crate.spec_id))
    if held is None or held.version <= crate.spec_version:
        return None
    changes = differences(spec_of(crate), specs.read(held))
    return held.version, [
        d.said() for d in changes if d.change != "same" and d.group != NOT_BINDING
    ]


def readiness(
    state: str,
    line_rate: str,
    items: Sequence[Mapping[str, Any]],
    progress: Mapping[int, Mapping[str, Any] | None],
    past: Past,
    queue: Queue = EMPTY,
) -> tuple[ready.Ready, int]:
    """Estimate what is left until the recipient has everything: (seconds by part, total bytes).

    Args:
        state: the crate's.
        line_rate: of the line to its recipient, as their file says it.
        items: what is left of each deliverable, as `worked_out` has it.
        progress: of the runs that go on, by deliverable.
        past: what finished runs teach.
        queue: of the runs that go on and wait; what is not ordered yet comes after them.
    """
    total = sum(size_left(one, past) for one in items)
    parts = {
        one["deliverable"]: run_left(one["work"], progress.get(one["deliverable"]), past)
        for one in items
        if one["work"]
    }
    left = sum(parts.values(), ready.NOTHING_TO_DO)
    begin, end = _made(parts, queue)
    held = sum(one.held and one.key in parts for one in queue.tasks)
    left = replace(left, wait=begin, made=end, held=held)
    if state in {"open", "sealing"}:
        left += ready.Ready(0, 0, ready.seal_seconds(total), 0)
    if state in {"open", "sealing", "sealed", "handing over"}:
        left += ready.Ready(0, 0, 0, ready.transfer_seconds(total, _line_rate(line_rate)))
    return left, total


@lru_cache(maxsize=256)
def _line_rate(said: str) -> int:
    return read_bit_rate(said)


def size_left(one: Mapping[str, Any], past: Past) -> int:
    """Give the bytes of an item, as they are or are foretold, of what `worked_out` says is left."""
    work = one["work"]
    return int(one["size"]) if not work else past.size(one["size"], *work["sized"])


def _made(parts: Mapping[int, ready.Ready], queue: Queue) -> tuple[float, float]:
    """Give when the first of some runs begins and the last is made, in seconds from now."""
    if not parts:
        return 0.0, 0.0
    slots = [queue.slots[one] for one in parts if one in queue.slots]
    spans = [(slot.begin, slot.end) for slot in slots]
    others = [left.encode + left.measure for one, left in parts.items() if one not in queue.slots]
    spans += [queue.after(others)] if others else []
    return min(begin for begin, _ in spans), max(end for _, end in spans)


def run_left(
    work: Mapping[str, Any], progress: Mapping[str, Any] | None, past: Past
) -> ready.Ready:
    """Estimate what is left of a run.

    Args:
        work: as `worked_out` has it.
        progress: of the run, where it goes on.
        past: what finished runs teach.
    """
    measure = ready.measure_seconds(work["measured"], work["effort"], past)
    if progress and progress.get("remaining") is not None:
        if progress["stage"] == "measure":
            return ready.Ready(0, float(progress["remaining"]), 0, 0)
        return ready.Ready(float(progress["remaining"]), measure, 0, 0)
    encode = ready.encode_seconds(work["effort"], work["samples"], past, work["sized"][-1])
    return ready.Ready(encode + ready.copy_seconds(work["copied"]), measure, 0, 0)


def ledger_rows(one: ItemStatus, made: list[ItemStatus], spec: Spec) -> list[dict[str, Any]]:
    """Give the ledger of a deliverable as rows; a stale file is not shown as proof."""
    measured = None if one.stale else one.measured
    others = [s.measured for s in made if s is not one and s.measured is not None]
    rows = table.rows(
        programme.asked_of(spec, one.master),
        one.master,
        one.route.facts if one.route is not None else None,
        measured,
        others,
    )
    breaks = {f.property for f in open_breaks(one)} if measured is not None else set()
    route = one.route
    warned = {c.row for c in route.cautions} if route is not None else set()
    still_open = route is not None and one.deliverable.crate.state == "open"
    choosable = set(route.choices) if route is not None and still_open else set()
    signed = {
        x["property"]: x
        for x in one.deliverable.exceptions
        if one.finished and x["sha256"] == one.finished.sha256
    }
    for row in rows:
        row["exception"] = signed.get(row["property"])
        row["may_except"] = row["property"] in breaks and row["property"] not in NEVER_EXCEPTED
        row["matters"] = concerns.of_row(row, warned, choosable)
    return rows


def revise(crate: Crate) -> Crate:
    """Open a new revision of a sealed crate: the same deliverables and choices, files to be made
    and proved anew.
    """
    if crate.state in {"open", "sealing", "handing over"}:
        raise Refused("Only a sealed crate needs a new revision.", "Change the open crate itself.")
    made = Crate(
        number=crate.number,
        revision=crate.revision + 1,
        title=crate.title,
        recipient_key=crate.recipient_key,
        spec_id=crate.spec_id,
        spec_version=crate.spec_version,
        due_at=crate.due_at,
        state="open",
    )
    made.deliverables = [
        Deliverable(
            master_id=d.master_id,
            sound_id=d.sound_id,
            under_id=d.under_id,
            span=d.span,
            cut=d.cut,
            position=d.position,
            choices=dict(d.choices),
            exceptions=[],
        )
        for d in crate.deliverables
    ]
    return made
