"""Where the deliverables of a crate stand, and how the crate fares as a whole."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from fractions import Fraction
from pathlib import Path
from typing import Any

from sqlalchemy.orm import object_session

from ..core.errors import AmpleError
from ..core.facts import Facts
from ..core.facts.span import Span
from ..core.finding import Finding, Verdict
from ..core.ledger import ledger, overall, whole_crate
from ..core.planning import programme, share, stored
from ..core.planning.notes import Caution
from ..core.planning.plan import Plan, Route
from ..core.planning.request import Item
from ..core.planning.route import plan_route
from ..core.specs import naming
from ..core.specs.spec import Spec
from ..media import folders
from ..store import masters, specs
from ..store.models import Crate, Deliverable, Run
from ..store.queries import week_bytes
from . import cuts, origins

EITHER = "either."  # before the name of a choice between alternatives
UNFINISHED = frozenset({"queued", "running", "stopping"})


def spec_of(crate: Crate) -> Spec:
    """Give the version of the spec that a crate was planned with."""
    return specs.read(crate.spec)


def asked_of(item: ItemStatus) -> Spec:
    """Give the spec of an item's crate, with the alternatives that its route takes."""
    choices = {} if item.route is None else item.route.choices
    taken = {k.removeprefix(EITHER): str(v) for k, v in choices.items() if k.startswith(EITHER)}
    return spec_of(item.deliverable.crate).resolved(taken)


def item_name(deliverable: Deliverable) -> str:
    """Name what a deliverable is made from: the master, and the range of it."""
    part = deliverable.span["name"] if deliverable.span else ""
    return f"{deliverable.master.name}, {part}" if part else deliverable.master.name


@dataclass
class ItemStatus:
    """Where a deliverable stands.

    Attributes:
        route: the route as it would be planned now; None where the master cannot be planned yet,
        with `trouble`.
        run: the newest run, in whatever state.
        finished: the newest finished run, if any.
        stale: whether the finished file was made by another route than today's, or of other bytes
        than the master's.
        measured: facts of the finished file.
        verdict: of the finished file, or of nothing yet.
        lost: whether the finished file is no longer where its run left it.
        share: bytes that the crate or the week leaves it, where they do not hold all items as they
        would be by themselves.
    """

    deliverable: Deliverable
    master: Facts
    route: Route | None
    trouble: AmpleError | None
    run: Run | None
    finished: Run | None
    stale: bool
    measured: Facts | None
    findings: list[Finding]
    verdict: Verdict
    share: int | None = None
    lost: bool = False

    @property
    def open(self) -> bool:
        """Say whether a run is called for: there is no finished file that counts."""
        return self.finished is None or self.stale or self.lost

    @property
    def going_on(self) -> bool:
        """Say whether a run is going on or waits for a worker."""
        return self.run is not None and self.run.state in UNFINISHED


def item_statuses(crate: Crate) -> list[ItemStatus]:
    """Work out where every deliverable of a crate stands; rules over the whole crate look at all of
    them.
    """
    spec = spec_of(crate)
    made = _shared(crate, spec, [_status_of(d, spec) for d in crate.deliverables])
    if crate.state == "open":
        _tell_apart(made, spec)
    for one in made:
        others = [s.measured for s in made if s is not one and s.measured is not None]
        if one.measured is not None:
            one.findings = ledger(
                one.measured, programme.asked_of(spec, one.master), one.master, others
            )
            one.verdict = overall(one.findings)
    return made


def item_of(deliverable: Deliverable) -> ItemStatus:
    """Work out where a deliverable stands among the others of its crate."""
    made = item_statuses(deliverable.crate)
    return next(s for s in made if s.deliverable.id == deliverable.id)


def shown(deliverable: Deliverable) -> Plan | None:
    """Give the plan that pictures are made by before a deliverable is run, if there is one."""
    route = item_of(deliverable).route
    return None if route is None else route.shown


def _tell_apart(made: list[ItemStatus], spec: Spec) -> None:
    """Keep items from being run whose files would have the same name; names that differ by case
    alone are one to many systems.
    """
    by_name: dict[str, list[ItemStatus]] = {}
    # What lies beside a file has the file's name with another ending.
    small = any(s.kind in {"metadata", "html snippet"} for s in spec.delivery.sidecars)
    plans = [one.route.plan for one in made if one.route is not None]
    stems = small or any(plan is not None and plan.captions for plan in plans)
    for one in made:
        if one.route is not None and one.route.plan is not None:
            name = one.route.plan.outcome.casefold()
            by_name.setdefault(naming.stem(name) if stems else name, []).append(one)
    for alike in by_name.values():
        for one in alike if len(alike) > 1 else []:
            assert one.route is not None
            other = next(o for o in alike if o is not one)
            name = str(one.route.facts.value("file.name"))
            said = _same_name(item_name(other.deliverable), name, spec)
            made_already = one.finished is not None and not one.stale
            one.route = one.route.model_copy(
                update={"cautions": [*one.route.cautions, said]}
                | ({} if made_already else {"plan": None})
            )


def _same_name(other: str, name: str, spec: Spec) -> Caution:
    return Caution(
        row="file.name",
        what=f"Another item of the crate, {other}, would have the same file name.",
        why="Two files of one name cannot lie in one crate, and nobody could tell them apart.",
        figures=name,
        way_out=f"Fill in a field of the name that tells them apart (the pattern is "
        f"{spec.delivery.name}), or put one into a crate of its own.",
        blocks=True,
        choice="name.",
    )


def _shared(crate: Crate, spec: Spec, alone: list[ItemStatus]) -> list[ItemStatus]:
    """Plan anew what has to give way, where the crate's cap or the week's quota cannot hold all
    items as they would be by themselves.
    """
    # What is sealed is not planned any more.
    left = share.bytes_left(spec, sent_this_week(crate, spec)) if crate.state == "open" else None
    if left is None or sum(_demand(one).size for one in alone) <= left:
        return alone
    # What was made under a share and still fits stays as it is, though the share would be another
    # today.
    kept = [
        _status_of(one.deliverable, spec, _former_share(one)) if one.stale else one for one in alone
    ]
    if sum(_demand(one).size for one in kept) <= left:
        return kept
    given = share.shares(left, [_demand(one) for one in alone])
    return [
        one if share is None else _status_of(one.deliverable, spec, share)
        for one, share in zip(alone, given, strict=True)
    ]


def _former_share(one: ItemStatus) -> int | None:
    plan = one.finished.route.get("plan") if one.finished is not None else None
    return stored.record_of(plan).cap if plan else None


def _demand(one: ItemStatus) -> share.Demand:
    """Give what an item takes by itself: as measured if that is how it was made, else as
    predicted.
    """
    plan = one.route.plan if one.route is not None else None
    if one.route is None or plan is None:
        return share.Demand(0, Fraction(0), firm=True)
    made = one.finished.size if one.finished is not None and not one.stale else None
    choices = one.deliverable.choices
    chosen = "picture.bit_rate" in choices or choices.get("picture") == "copied"
    bends = plan.picture is not None and plan.picture.bends
    return share.Demand(made or one.route.size, plan.seconds, firm=chosen or not bends)


def sent_this_week(crate: Crate, spec: Spec) -> int | None:
    """Give the bytes that other crates sent this week; None where the spec has no quota."""
    session = object_session(crate)
    return week_bytes(session, crate) if session is not None and spec.on("delivery.week") else None


def _status_of(deliverable: Deliverable, spec: Spec, share: int | None = None) -> ItemStatus:
    master = masters.known(deliverable.master)
    trouble: AmpleError | None = None
    route: Route | None = None
    hindrance = origins.hindrance(deliverable)
    if hindrance.state in {"reading", "failed", "changed"}:
        failed = hindrance.error or {}
        trouble = AmpleError(
            failed.get("what", "The master is still being read."),
            failed.get("way_out", "Wait a moment."),
        )
    else:
        try:
            route = route_of(deliverable, spec, deliverable.choices, share)
            master = origins.delivered(deliverable)
        except AmpleError as error:
            trouble = error
    newest = deliverable.runs[-1] if deliverable.runs else None
    finished = next((r for r in reversed(deliverable.runs) if r.state == "done"), None)
    stale = False
    if finished is not None:
        replanned = route is None or _recipe(route.model_dump(mode="json")) != _recipe(
            finished.route
        )
        stale = deliverable.crate.state == "open" and (
            replanned or finished.master_sha256 != origins.bytes_of(deliverable)
        )
    measured = Facts.from_json(finished.facts) if finished is not None and finished.facts else None
    if deliverable.crate.state != "open":
        trouble = None  # what is sealed hangs on its master no more
    lost = (
        finished is not None
        and deliverable.crate.state == "open"
        and not folders.is_there(Path(str(finished.path)))
    )
    return ItemStatus(
        deliverable,
        master,
        route,
        trouble,
        newest,
        finished,
        stale,
        measured,
        [],
        "unproven",
        share,
        lost,
    )


def route_of(
    deliverable: Deliverable, spec: Spec, choices: Mapping[str, Any], share: int | None = None
) -> Route:
    """Plan a deliverable's route as it would be with some choices."""
    span = Span.model_validate(deliverable.span) if deliverable.span else None
    master = masters.known(deliverable.master)
    return plan_route(
        master,
        spec,
        choices,
        deliverable.master.name,
        Item(
            span,
            _given(deliverable),
            share,
            cuts.of(deliverable),
            origins.sound_of(deliverable),
            origins.under_of(deliverable),
        ),
    )


def _given(deliverable: Deliverable) -> dict[str, str]:
    """Give what a file name may need besides the master: it stays the same as long as the crate
    does.
    """
    crate = deliverable.crate
    made = crate.created_at or now()
    return {
        "production": deliverable.master.production,
        "date": f"{made:%Y%m%d}",
        "crate": str(crate.number),
        "revision": str(crate.revision),
    }


def whole(crate: Crate, made: list[ItemStatus]) -> list[Finding]:
    """Judge the crate as a whole: its bytes, its length, the week's quota; by what was measured,
    else by what is predicted.
    """
    spec = spec_of(crate)
    if not any(t.of_crate for t in spec.tests):
        return []
    items = [
        s.measured
        if s.measured is not None and not s.stale
        else s.route.facts
        if s.route is not None
        else Facts()
        for s in made
    ]
    return ledger(whole_crate(items, sent_this_week(crate, spec)), spec, of="crate")


def _recipe(route: Mapping[str, Any]) -> Any:
    """Give all that decides the files of a route, their names among it."""
    plan = route.get("plan")
    if plan is None or not stored.is_current(plan):
        return plan
    # Read, so that what a later version adds to plans makes no other one of it.
    return Plan.model_validate(plan).model_dump(mode="json")


def now() -> datetime:
    """Give the time, with its zone."""
    return datetime.now(UTC)
