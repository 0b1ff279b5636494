"""A crate from plan to seal: routes, verdicts, readiness, and what stands in the way."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from ..core.errors import AmpleError, Refused
from ..core.facts import Facts
from ..core.facts.properties import lookup
from ..core.facts.span import Span
from ..core.ledger import Finding, Verdict, ledger, overall, whole_crate
from ..core.planning import programme, ready, share, stored, table
from ..core.planning.choices import require_effect
from ..core.planning.notes import Caution
from ..core.planning.plan import Route
from ..core.planning.request import Item
from ..core.planning.resolve import Resolver
from ..core.planning.route import plan_route
from ..core.specs import naming
from ..core.specs.differences import NOT_BINDING, differences
from ..core.specs.spec import Spec
from ..core.units.values import read_bit_rate
from ..handover import bag, report, sidecars
from ..store import masters, specs
from ..store.database import tell
from ..store.models import Crate, Deliverable, Run
from ..store.queries import week_bytes
from . import cuts
from .orders import order

NEVER_EXCEPTED = {"file.size"}
UNFINISHED = frozenset({"queued", "running", "stopping"})
BEING_READ = {"reading": "read", "measuring": "measured"}


def spec_of(crate: Crate) -> Spec:
    """Give the version of the spec that a crate was planned with."""
    return specs.read(crate.spec)


def item_name(deliverable: Deliverable) -> str:
    """Name what a deliverable is made from: the master, and the range of it."""
    return deliverable.master.name + (f", {deliverable.span['name']}" if deliverable.span else "")


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
    made = _shared(crate, spec, [_standing(d, spec) for d in crate.deliverables])
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


def _tell_apart(made: list[ItemStatus], spec: Spec) -> None:
    """Keep items from being run whose files would have the same name; names that differ by case
    alone are one to many systems.
    """
    by_name: dict[str, list[ItemStatus]] = {}
    # What lies beside a file has the file's name with another ending.
    stems = any(s.kind in {"metadata", "html snippet"} for s in spec.delivery.sidecars)
    for one in made:
        if one.route is not None and one.route.plan is not None:
            name = str(one.route.facts.value("file.name")).casefold()
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
    )


def _shared(crate: Crate, spec: Spec, alone: list[ItemStatus]) -> list[ItemStatus]:
    """Plan anew what has to give way, where the crate's cap or the week's quota cannot hold all
    items as they would be by themselves.
    """
    # What is sealed is not planned any more.
    room = share.bytes_left(spec, _sent_this_week(crate, spec)) if crate.state == "open" else None
    if room is None or sum(_need(one).size for one in alone) <= room:
        return alone
    # What was made under a share and still fits stays as it is, though the share would be another
    # today.
    kept = [
        _standing(one.deliverable, spec, _former_share(one)) if one.stale else one for one in alone
    ]
    if sum(_need(one).size for one in kept) <= room:
        return kept
    given = share.shares(room, [_need(one) for one in alone])
    return [
        one if share is None else _standing(one.deliverable, spec, share)
        for one, share in zip(alone, given, strict=True)
    ]


def _former_share(one: ItemStatus) -> int | None:
    plan = one.finished.route.get("plan") if one.finished is not None else None
    return stored.record_of(plan).cap if plan else None


def _need(one: ItemStatus) -> share.Demand:
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


def _sent_this_week(crate: Crate, spec: Spec) -> int | None:
    session = object_session(crate)
    return week_bytes(session, crate) if session is not None and spec.on("delivery.week") else None


def delivered(deliverable: Deliverable) -> Facts:
    """Give the facts of what is delivered of a master: the range, upright, with the tracks that
    were chosen.

    Raises:
        BadValue: the range, or the tracks, are none of the master's.
    """
    span = Span.model_validate(deliverable.span) if deliverable.span else None
    return programme.of(masters.known(deliverable.master), span, deliverable.choices)


def _standing(deliverable: Deliverable, spec: Spec, share: int | None = None) -> ItemStatus:
    master = masters.known(deliverable.master)
    trouble: AmpleError | None = None
    route: Route | None = None
    if deliverable.master.state in {"reading", "failed", "changed"}:
        failed = deliverable.master.error or {}
        trouble = AmpleError(
            failed.get("what", "The master is still being read."),
            failed.get("way_out", "Wait a moment."),
        )
    else:
        try:
            route = _route(deliverable, spec, deliverable.choices, share)
            master = delivered(deliverable)
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
            replanned or finished.master_sha256 != deliverable.master.sha256
        )
    measured = Facts.from_json(finished.facts) if finished is not None and finished.facts else None
    if deliverable.crate.state != "open":
        trouble = None  # what is sealed hangs on its master no more
    lost = (
        finished is not None
        and deliverable.crate.state == "open"
        and not Path(str(finished.path)).exists()
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


def _route(
    deliverable: Deliverable, spec: Spec, choices: Mapping[str, Any], share: int | None = None
) -> Route:
    span = Span.model_validate(deliverable.span) if deliverable.span else None
    master = masters.known(deliverable.master)
    return plan_route(
        master,
        spec,
        choices,
        deliverable.master.name,
        Item(span, _given(deliverable), share, cuts.of(deliverable)),
    )


def _require_effect(
    deliverable: Deliverable, spec: Spec, choices: Mapping[str, Any], key: str
) -> None:
    try:
        route = _route(deliverable, spec, choices)
    except AmpleError:
        return  # what stands in the way of the whole route is said on the page
    require_effect(route, key, choices[key])


def check_choices(deliverable: Deliverable, choices: Mapping[str, Any]) -> None:
    """Make sure that choices lie in the room the crate's spec leaves.

    Raises:
        BadValue: one does not, with what the spec allows.
        Impossible: a framing that does not exist.
    """
    spec = spec_of(deliverable.crate)
    Resolver(spec, masters.known(deliverable.master), choices)
    if choices.get(programme.TRACKS):
        programme.tracks(masters.known(deliverable.master), str(choices[programme.TRACKS]))
    fields = {k.removeprefix("name."): str(v) for k, v in choices.items() if k.startswith("name.")}
    for key, value in fields.items():
        spec.delivery.pattern().fits(key, value)


def still_allowed(deliverable: Deliverable, choices: Mapping[str, Any]) -> dict[str, Any]:
    """Give choices without those that the crate's spec does not allow; alternatives count first,
    for they make the room.
    """
    kept: dict[str, Any] = {}
    for key in sorted(choices, key=lambda k: not k.startswith("either.")):
        with contextlib.suppress(AmpleError):
            check_choices(deliverable, kept | {key: choices[key]})
            kept[key] = choices[key]
    return kept


def choose(deliverable: Deliverable, key: str, value: Any) -> list[str]:
    """Choose a value, or with None go back to what is planned.

    Another alternative makes another room: choices that lie outside of it are taken back.

    Returns:
        what was taken back besides, in words.

    Raises:
        BadValue, Impossible: as `check_choices`.
    """
    wanted = {k: v for k, v in deliverable.choices.items() if k != key} | (
        {} if value is None else {key: value}
    )
    if not key.startswith("either."):
        if value is not None:
            check_choices(deliverable, wanted)
            _require_effect(deliverable, spec_of(deliverable.crate), wanted, key)
        deliverable.choices = wanted
        return []
    check_choices(deliverable, {k: v for k, v in wanted.items() if k.startswith("either.")})
    kept = still_allowed(deliverable, wanted)
    deliverable.choices = kept
    return [_in_words(k, v) for k, v in wanted.items() if k not in kept]


def _in_words(key: str, value: Any) -> str:
    if "." not in key or key.startswith("name."):
        return f"{key.removeprefix('name.')} {value}"
    prop = lookup(key)
    return f"{prop.label} {prop.kind.show(prop.read(value))}"


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
    return ledger(whole_crate(items, _sent_this_week(crate, spec)), spec, of="crate")


def _recipe(route: Mapping[str, Any]) -> Any:
    """Give all that decides the files of a route, their names among it."""
    return route.get("plan")


def next_step(crate: Crate, made: list[ItemStatus]) -> str:
    """Name the one next step of a crate: plan (something is missing), run, wait, look, seal, hand
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
        return "run" if waiting or any(_runnable(s) for s in open_ones) else "plan"
    if any(s.deliverable.wanted_at is not None for s in made):
        return "wait"
    return "look" if obstacles(crate, made) else "seal"


def _runnable(one: ItemStatus) -> bool:
    return one.route is not None and one.route.plan is not None


def waits_for(one: ItemStatus, made: list[ItemStatus]) -> str | None:
    """Say what an item waits for before it can be run; None where it need not wait."""
    state = BEING_READ.get(one.deliverable.master.state)
    if state is not None:
        return f"until its master is {state}"
    others = [
        s
        for s in made
        if s.deliverable.master.state in BEING_READ
        and s.deliverable.master_id != one.deliverable.master_id
    ]
    crate = one.deliverable.crate
    spec = spec_of(crate) if others else None
    if spec is not None and share.bytes_left(spec, _sent_this_week(crate, spec)) is not None:
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
        or one.deliverable.master.state != "ready"
    ):
        return None
    run = Run(
        deliverable=one.deliverable,
        route=one.route.model_dump(mode="json"),
        choices=dict(one.deliverable.choices),
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
    for master in {d.master_id: d.master for d in crate.deliverables}.values():
        if master.state == "failed" and Path(master.path).exists():
            master.state, master.error = "reading", None
            order(session, "take_in", master.id)
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
    used = select(Deliverable.crate_id).where(Deliverable.master_id == master)
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
    if one.trouble is not None and one.deliverable.master.state not in BEING_READ:
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
        if one.deliverable.master.state == "ready"
        else f"not run yet; its master is being "
        f"{BEING_READ.get(one.deliverable.master.state, 'looked at')}"
    )


def blocked(made: list[ItemStatus]) -> tuple[str, str] | None:
    """Say what keeps the first item that cannot be run from it, and the way out; None where nothing
    does but waiting for a master.
    """
    for one in made:
        if (
            one.route is None
            and one.trouble is not None
            and one.deliverable.master.state not in BEING_READ
        ):
            return one.trouble.what, one.trouble.way_out
        for caution in one.route.cautions if one.route is not None else []:
            if caution.blocks:
                return caution.what, caution.way_out
    return None


def open_breaks(one: ItemStatus) -> list[Finding]:
    """List the "must" findings of a finished file that neither meet nor are signed off."""
    signed = {(x["property"], x["sha256"]) for x in one.deliverable.exceptions}
    checksum = one.finished.sha256 if one.finished else None
    return [
        f
        for f in one.findings
        if f.severity == "must"
        and f.verdict in {"breaks", "unproven"}
        and (f.property in NEVER_EXCEPTED or (f.property, checksum) not in signed)
    ]


def obstacles(crate: Crate, made: list[ItemStatus]) -> list[str]:
    """Say what keeps a crate from being sealed."""
    said = [] if made else ["The crate is empty."]
    for one in made:
        name = item_name(one.deliverable)
        if one.finished is None:
            said.append(f"{name}: not run yet.")
        elif one.lost:
            said.append(f"{name}: its file is no longer where its run left it; run it again.")
        elif one.stale:
            said.append(f"{name}: its plan or its master has changed since the run; run it again.")
        elif one.going_on:
            said.append(f"{name}: a run is going on.")
        else:
            said += [f"{name}: {f.why}" for f in open_breaks(one)]
    return said + [f"The crate: {f.why}" for f in whole(crate, made) if f.verdict == "breaks"]


def require_sealable(crate: Crate) -> None:
    """Make sure that a crate may be sealed.

    Raises:
        Refused: with everything that stands in the way.
    """
    standing = obstacles(crate, item_statuses(crate))
    if standing:
        raise Refused(
            "The crate cannot be sealed yet. " + " ".join(standing),
            "Run what is missing, or sign off an exception where that is allowed.",
        )


def sign_off(one: ItemStatus, property: str, reason: str, by: str, now: datetime) -> dict[str, Any]:
    """Make a signed-off exception for a broken requirement of one finished file.

    Raises:
        Refused: the cap, which is never excepted; nothing to except; or no name or reason.
    """
    if property in NEVER_EXCEPTED:
        raise Refused("A file over its cap can never be sealed.", "Lower the rate and run again.")
    if property not in {f.property for f in open_breaks(one)} or one.finished is None:
        raise Refused(f"Nothing about {property} needs an exception.", "Look at the ledger again.")
    if not reason.strip() or not by.strip():
        raise Refused("An exception needs a reason and a name.", "Write who agreed to it, and why.")
    return {
        "property": property,
        "reason": reason.strip(),
        "by": by.strip(),
        "at": now.isoformat(timespec="seconds"),
        "sha256": one.finished.sha256,
    }


def bag_contents(
    crate: Crate, sealed_at: datetime, house: str
) -> tuple[list[bag.Item], dict[str, Any]]:
    """Gather the files, ledger entries and manifest of a crate that may be sealed."""
    spec, made = spec_of(crate), item_statuses(crate)
    items = []
    for one in made:
        run = one.finished
        assert (
            run is not None
            and run.path is not None
            and run.sha256 is not None
            and one.measured is not None
        )
        others = [s.measured for s in made if s is not one and s.measured is not None]
        exceptions = [x for x in one.deliverable.exceptions if x["sha256"] == run.sha256]
        judged = report.Judged(
            Path(run.path).name,
            programme.asked_of(spec, one.master),
            one.master,
            one.measured,
            stored.route_of(run.route),
            one.findings,
            others,
            exceptions,
            run.sha256,
        )
        items.append(bag.Item(Path(run.path), run.sha256, report.entry(judged)))
    manifest = {
        "number": crate.number,
        "revision": crate.revision,
        "title": crate.title,
        "recipient": crate.recipient.name,
        "spec": f"{spec.id}, version {spec.version}",
        "due": crate.due_at.isoformat(timespec="minutes"),
        "sealed_at": sealed_at.isoformat(timespec="seconds"),
        "house": house,
        "whole": [f.as_json() for f in whole(crate, made)],
    }
    return items, manifest


def beside(crate: Crate, items: list[bag.Item]) -> list[sidecars.Sidecar]:
    """Make the small files that the spec wants beside the deliverables."""
    return sidecars.make(spec_of(crate).delivery.sidecars, items, crate.title)


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
    speeds: Mapping[str, float],
) -> tuple[ready.Ready, int]:
    """Estimate what is left until the recipient has everything: (seconds by part, total bytes).

    Args:
        state: the crate's.
        line_rate: of the line to its recipient, as their file says it.
        items: what is left of each deliverable, as `worked_out` has it.
        progress: of the runs that go on, by deliverable.
        speeds: of past runs, by codec.
    """
    total = sum(int(one["size"]) for one in items)
    left = sum(
        (
            _run_left(one["work"], progress.get(one["deliverable"]), speeds)
            for one in items
            if one["work"]
        ),
        ready.NOTHING_TO_DO,
    )
    if state in {"open", "sealing"}:
        left += ready.Ready(0, 0, ready.seal_seconds(total), 0)
    if state in {"open", "sealing", "sealed", "handing over"}:
        left += ready.Ready(0, 0, 0, ready.transfer_seconds(total, _line_rate(line_rate)))
    return left, total


@lru_cache(maxsize=256)
def _line_rate(said: str) -> int:
    return read_bit_rate(said)


def _run_left(
    work: Mapping[str, Any], progress: Mapping[str, Any] | None, speeds: Mapping[str, float]
) -> ready.Ready:
    measure = ready.measure_seconds(work["measured"])
    if progress and progress.get("remaining") is not None:
        if progress["stage"] == "measure":
            return ready.Ready(0, float(progress["remaining"]), 0, 0)
        return ready.Ready(float(progress["remaining"]), measure, 0, 0)
    encode = ready.encode_seconds(work["codec"], work["samples"], speeds)
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
    signed = {
        x["property"]: x
        for x in one.deliverable.exceptions
        if one.finished and x["sha256"] == one.finished.sha256
    }
    for row in rows:
        row["exception"] = signed.get(row["property"])
        row["may_except"] = row["property"] in breaks and row["property"] not in NEVER_EXCEPTED
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
            span=d.span,
            cut=d.cut,
            position=d.position,
            choices=dict(d.choices),
            exceptions=[],
        )
        for d in crate.deliverables
    ]
    return made


def now() -> datetime:
    """Give the time, with its zone."""
    return datetime.now(UTC)
