"""One master to one measured deliverable, without database or browser: route, run, measure."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from ..core.errors import AmpleError, Impossible, Refused
from ..core.facts import Facts
from ..core.finding import Finding, Verdict
from ..core.ledger import ledger, needed, overall
from ..core.planning import programme
from ..core.planning.choices import require_effect
from ..core.planning.plan import Plan, Route
from ..core.planning.request import Item
from ..core.planning.retry import retry
from ..core.planning.route import plan_route
from ..core.specs.spec import Spec
from ..handover import bag
from ..media import folders, ops

MOST_RERUNS = 2


@dataclass
class Delivered:
    """A finished file, measured and judged, and what it took."""

    path: Path
    facts: Facts
    findings: list[Finding]
    route: Route
    encode_seconds: float
    measure_seconds: float
    notes: list[str] = field(default_factory=list)
    tries: list[dict[str, Any]] = field(default_factory=list)

    @property
    def verdict(self) -> Verdict:
        """Give the verdict of all findings."""
        return overall(self.findings)


def as_item(path: Path, entry: dict[str, Any], sha256: str = "") -> bag.Item:
    """Give what a run made as it is handed over.

    Args:
        path: what stands for it.
        entry: of the ledger.
        sha256: its checksum; made from the bytes where it is not given.
    """
    files = tuple(folders.files_of(path))
    item = bag.Item(files, sha256, entry, "" if files == (path,) else files[0].parent.name)
    return item if sha256 else replace(item, sha256=item.sum_of([*map(bag.sha256, files)]))


def plan_or_refuse(
    master: Facts,
    spec: Spec,
    choices: Mapping[str, Any] | None,
    name: str,
    item: Item = Item(),  # noqa: B008 (frozen)
) -> tuple[Route, Plan]:
    """Plan a route that can be run.

    Raises:
        Impossible: a caution blocks it; the message is that caution's.
        BadValue: a choice lies outside the room, or would change nothing.
    """
    route = plan_route(master, spec, choices, name, item)
    for key, value in (choices or {}).items():
        require_effect(route, key, value)
    if route.plan is None:
        blocking = next(c for c in route.cautions if c.blocks)
        raise Impossible(
            f"{blocking.what} {blocking.why} {blocking.figures}".strip(), blocking.way_out
        )
    return route, route.plan


def _rate(plan: Plan) -> int | None:
    """Give the picture's rate that is asked of an encoder; None where none is."""
    return None if plan.rated is None else plan.rated.bit_rate


@dataclass(frozen=True)
class Work:
    """A route to run.

    Attributes:
        master: facts of what is delivered of the master (`programme.of`), or of several.
        spec: what is asked.
        route: what to run.
        folder: where what is made comes to lie.
        control: told of progress, asked whether to stop.
    """

    master: Facts
    spec: Spec
    route: Route
    folder: Path
    control: ops.Control = ops.Control()  # noqa: RUF009 (frozen)

    @property
    def plan(self) -> Plan:
        """Give the plan.

        Raises:
            Refused: there is none that could be run any more.
        """
        if self.route.plan is None:
            raise Refused(
                "This run was planned by an earlier version of the application.", "Run it again."
            )
        return self.route.plan


@dataclass(frozen=True)
class Encoded:
    """What came of a route's first encode, and the seconds that it took, of several made together
    its share of them; and how many workers made it.
    """

    made: ops.Rendered
    seconds: float
    workers: int = 1


def encode_together(inputs: Sequence[Path], works: Sequence[Work]) -> list[Encoded | AmpleError]:
    """Encode routes of the same inputs from one reading of them.

    Args:
        inputs: the plans' inputs: the master, and another whose sound goes along.
        works: routes whose plans may be made together (`together.taken_along`).

    Raises:
        AmpleError: nothing could be made.
    """
    began = time.monotonic()
    orders = [ops.Order(w.plan, w.folder, w.route.size, w.control) for w in works]
    made = ops.render_together(inputs, orders)
    took = time.monotonic() - began
    efforts = [order.plan.work or 1 for order in orders]
    return [
        one if isinstance(one, AmpleError) else Encoded(one, took * effort / sum(efforts))
        for one, effort in zip(made, efforts, strict=True)
    ]


def run_route(
    inputs: Sequence[Path],
    master: Facts,
    spec: Spec,
    route: Route,
    folder: Path,
    control: ops.Control = ops.Control(),  # noqa: B008 (frozen)
) -> Delivered:
    """Run a route by itself: encode, measure, judge.

    Args:
        inputs: the plan's inputs: the master, and another whose sound goes along.
        master, spec, route, folder, control: as a work has them.

    Raises:
        AmpleError: the cause; no file stays under a final name unless it is whole.
    """
    work = Work(master, spec, route, folder, control)
    encoded = encode_together(inputs, [work])[0]
    if isinstance(encoded, AmpleError):
        raise encoded
    return finish(inputs, work, encoded)


def finish(inputs: Sequence[Path], work: Work, encoded: Encoded) -> Delivered:
    """Measure and judge what was encoded; a file over its cap, or under the least rate asked, is
    encoded again, at most twice.

    Raises:
        AmpleError: the cause.
    """
    plan, control = work.plan, work.control
    spec = programme.asked_of(work.spec, work.master)
    depth = ops.depth_for(needed([spec]))
    tries: list[dict[str, Any]] = []
    made, encode_seconds, measure_seconds = encoded.made, encoded.seconds, 0.0
    notes: list[str] = []
    while True:
        out = made.path
        measured = ops.measure(out, control.progress, control.cancelled, depth, twice=True)
        measure_seconds += measured.seconds
        tries.append({"bit_rate": _rate(plan), "bytes": int(measured.facts.value("file.size"))})
        more = retry(plan, measured.facts, len(tries) - 1)
        if more is None:
            break
        if len(tries) > MOST_RERUNS:
            notes.append(f"{more.what}, after {MOST_RERUNS} runs at corrected rates.")
            break
        notes.append(f"{more.what}: {more.then}.")
        if more.plan is None:
            break
        plan, began = more.plan, time.monotonic()
        made = ops.render(inputs, work.folder, plan, work.route.size, control)
        encode_seconds += time.monotonic() - began
    return Delivered(
        out,
        measured.facts,
        ledger(measured.facts, spec, work.master),
        work.route,
        encode_seconds,
        measure_seconds,
        [*notes, *made.notes, *measured.notes],
        tries,
    )
