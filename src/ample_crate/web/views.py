"""From rows to what the API gives."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import timedelta
from fractions import Fraction
from pathlib import Path
from typing import Any

from ..core import corrections, programme, room, timecode
from ..core.answers import would_take
from ..core.errors import BadValue
from ..core.facts import PROVENANCES, Facts
from ..core.ledger import Finding
from ..core.properties import lookup, split_track
from ..core.rules import limits
from ..core.spec import Recipient, Spec
from ..store import masters, models, specs
from ..work import crates
from .schemas import (
    CautionOut,
    Correctable,
    CrateOut,
    CratePage,
    DeliverableOut,
    EventOut,
    FactOut,
    FindingOut,
    FitOut,
    LedgerRow,
    MasterOut,
    MasterPage,
    NewerSpec,
    OptionOut,
    PlayOut,
    ReadyOut,
    ReceiptOut,
    RecipientOut,
    RunOut,
    SpanOut,
    StepOut,
    StripOut,
)  # fmt: skip

FRAMINGS = ["pad", "crop", "stretch"]


def master(row: models.Master) -> MasterOut:
    """Give a master for the list, from its card."""
    return MasterOut(**_master(row))


def _master(row: models.Master) -> dict[str, Any]:
    card = row.card
    return {
        "id": row.id, "name": row.name, "origin": row.origin, "size": row.size, "state": row.state, "sha256": row.sha256,
        "progress": row.progress, "error": row.error, "notes": row.notes, "summary": card.get("summary", []),
        "frames": card.get("frames", 0), "seconds": row.seconds, "rate": card.get("rate"),
        "has_picture": card.get("has_picture", False), "production": row.production,
        "contradictions": card.get("contradictions", []), "created_at": row.created_at,
        "mark": masters.mark(row),
    }  # fmt: skip


def fact_list(facts: Facts) -> list[FactOut]:
    """Give every fact as the screen shows it."""
    made = []
    for key in facts.as_json():
        fact, (base, track) = facts[key], split_track(key)
        prop = lookup(base)
        values: dict[str, str] = {p: prop.kind.show(getattr(fact, p)) for p in PROVENANCES if getattr(fact, p) is not None}
        made.append(
            FactOut(
                key=key, label=prop.label, group=prop.group, track=track, shown=prop.kind.show(fact.value),
                provenance=fact.provenance or "", values=values, contradicts=facts.contradicts(key), meaning=prop.meaning,
            )
        )  # fmt: skip
    return made


def master_page(row: models.Master, in_force: list[models.SpecVersion], names: list[str], same: list[models.Master]) -> MasterPage:
    """Give a master's page, with every spec's answer to it as it is."""
    facts = masters.known(row)
    aspect, drop = facts.fraction("picture.display_aspect"), facts.value("file.drop_frame")
    if aspect and int(facts.value("picture.rotation") or 0) % 180:
        aspect = 1 / aspect  # the viewer shows it turned
    return MasterPage(
        **_master(row), facts=fact_list(facts), fits=[_fit(row, facts, s) for s in in_force], crates=names,
        playable=playable(facts), events=[_event(e) for e in row.events], spans=[SpanOut.model_validate(s) for s in row.spans],
        correctable=_correctable(facts, row.corrections), same_as=[f"{m.name} (master {m.id})" for m in same],
        start_frame=start_frame(facts), drop_frame=bool(drop), display_aspect=float(aspect) if aspect else None,
        alpha=bool(facts.value("picture.alpha")), interlaced=facts.value("motion.scan") == "interlaced",
        still=facts.value("file.wrapper") == "still image", play=PlayOut.model_validate(row.play or {"state": "none"}),
    )  # fmt: skip


def start_frame(facts: Facts) -> int:
    """Give the frame number, from 00:00:00:00, that the start timecode names; 0 where there is none that can be counted."""
    start, rate = facts.value("file.start_timecode"), facts.fraction("motion.rate")
    if not start or not rate:
        return 0
    try:
        return timecode.read(start, rate, facts.value("file.drop_frame"))
    except BadValue:
        return 0


def _event(body: dict[str, Any]) -> EventOut:
    return EventOut(**(body | {"start": float(Fraction(body["start"])), "end": float(Fraction(body["end"]))}))


def _correctable(facts: Facts, held: Mapping[str, Any]) -> list[Correctable]:
    """List what a person may correct: of pictures, and of every sound track."""
    keys = [k for k in corrections.CHOICES if not k.startswith("sound.")] if facts.value("picture.size") is not None else []
    if facts.value("sound.tracks"):
        keys += [key for base in corrections.CHOICES if base.startswith("sound.") for key, _ in facts.tracks(base)]
    made = []
    for key in keys:
        base, track = split_track(key)
        prop, value = lookup(base), facts.value(key)
        made.append(
            Correctable(
                key=key, label=prop.label + (f", track {track}" if track > 1 else ""), usual=list(corrections.CHOICES[base]),
                now=prop.kind.show(value) if value is not None else "", corrected=key in held,
            )
        )  # fmt: skip
    return made


def playable(facts: Facts) -> bool:
    """Say whether a browser can play the file itself."""
    return (
        facts.value("picture.codec") == "h264"
        and facts.value("file.wrapper") in {"mp4", "mov"}
        and facts.value("picture.chroma") == "4:2:0"
        and facts.value("picture.bit_depth") == 8
        and facts.value("motion.scan") == "progressive"
    )


def _fit(row: models.Master, facts: Facts, version: models.SpecVersion) -> FitOut:
    spec = specs.read(version)
    taken = would_take(facts, spec, row.name, row.state not in {"reading", "failed", "changed"})
    return FitOut(spec=spec.id, title=spec.title, recipient=version.recipient.name, answer=taken.answer, why=taken.why)


def recipient(row: models.Recipient) -> RecipientOut:
    """Give a recipient."""
    document = Recipient.model_validate(row.document)
    return RecipientOut(key=row.key, name=row.name, kind=row.kind, line_rate=document.line_rate, note=document.note)


CAPS = {"file.size": "a file", "delivery.total": "a crate", "delivery.week": "a week"}


def cap_of(spec: Spec) -> tuple[int | None, str]:
    """Give a spec's cap in bytes and of what it is: a file, a crate, a week; (None, "") where there is none."""
    for key, of in CAPS.items():
        found = [r for r in spec.on(key) if r.rule.operator == "at_most"]
        if found:
            return int(limits(found[0])[0]), of  # type: ignore[arg-type]
    return None, ""


def finding(one: Finding) -> FindingOut:
    """Give a finding as the screen shows it."""
    prop = one.test.prop
    return FindingOut(
        property=one.property, label=prop.label, group=prop.group, part=one.part, asked=one.asked, found=one.found, verdict=one.verdict,
        why=one.why, severity=one.severity, source=one.test.requirement.source, sentence=one.test.requirement.sentence(), applies=one.applies,
    )  # fmt: skip


def _newer(row: models.Crate) -> NewerSpec | None:
    moved = crates.moved_on(row)
    return None if moved is None else NewerSpec(version=moved[0], changes=moved[1])


def run(row: models.Run | None) -> RunOut | None:
    """Give a run, or None."""
    return None if row is None else RunOut.model_validate(row)


def _strip(one: crates.Standing, rows: list[dict[str, Any]]) -> StripOut:
    counts = {name: sum(r["verdict"] == name for r in rows) for name in ("meets", "advice", "unproven", "breaks")}
    return StripOut(deliverable=one.deliverable.id, name=crates.item_name(one.deliverable), verdict=_verdict(one), **counts)


def _verdict(one: crates.Standing) -> Any:
    return "unproven" if one.stale else one.verdict


def crate(row: models.Crate, speeds: Mapping[str, float]) -> CrateOut:
    """Give a crate for the floor."""
    return CrateOut(**_crate(row, crates.standings(row), speeds))


def _crate(row: models.Crate, made: list[crates.Standing], speeds: Mapping[str, float]) -> dict[str, Any]:
    spec_made, now = crates.spec_of(row), crates.now()
    left, total = crates.readiness(row, made, speeds)
    at = now + timedelta(seconds=left.total)
    strips = [_strip(s, crates.ledger_rows(s, made, spec_made)) for s in made]
    return {
        "id": row.id, "number": row.number, "revision": row.revision, "title": row.title, "state": row.state,
        "recipient": recipient(row.recipient), "spec": row.spec_id, "spec_version": row.spec_version,
        "spec_title": spec_made.title, "due_at": row.due_at, "next_step": crates.next_step(row, made), "strips": strips,
        "blocked": stopper[0] if row.state == "open" and (stopper := crates.blocked(made)) else None,
        "bytes": total, "cap": cap_of(spec_made)[0], "cap_of": cap_of(spec_made)[1], "sealed_at": row.sealed_at, "error": row.error, "removed_at": row.removed_at,
        "ready": ReadyOut(
            encode=left.encode, measure=left.measure, seal=left.seal, transfer=left.transfer, total=left.total, ready_at=at,
            spare=(row.due_at - at).total_seconds(),
        ),
    }  # fmt: skip


def crate_page(row: models.Crate, speeds: Mapping[str, float], queue: list[int]) -> CratePage:
    """Give a crate's page; `queue` has the runs that are not finished, in their order."""
    made, spec_made = crates.standings(row), crates.spec_of(row)
    return CratePage(
        **_crate(row, made, speeds), deliverables=[_deliverable(s, made, spec_made, queue) for s in made],
        obstacles=crates.obstacles(row, made) if row.state == "open" else [], receipts=[receipt(r, row) for r in row.receipts],
        bag=Path(row.bag).name if row.bag else None, bag_bytes=row.bag_bytes,
        whole=[finding(f) for f in crates.whole(row, made)] if row.state == "open" else [], newer_spec=_newer(row),
        taken_back=[],
        beside=[s.said() + (": to be sent by hand, none is made here" if s.kind == "captions" else "") for s in spec_made.delivery.sidecars],
    )  # fmt: skip


def _deliverable(one: crates.Standing, made: list[crates.Standing], spec_made: Spec, queue: list[int]) -> DeliverableOut:
    route = one.route
    predicted = route.facts if route is not None else Facts()
    aspect: Fraction | None = predicted.fraction("picture.display_aspect")
    size, rate = predicted.value("picture.size"), predicted.fraction("motion.rate")
    run_row, finished = one.run, one.finished
    cap, of = cap_of(spec_made) if one.share is None else (one.share, "as its share")
    return DeliverableOut(
        id=one.deliverable.id, master=master(one.deliverable.master),
        name=str(predicted.value("file.name") or one.deliverable.master.name), verdict=_verdict(one), item=crates.item_name(one.deliverable),
        first=one.deliverable.span["first"] if one.deliverable.span else 0, master_frames=int(one.master.value("motion.frames") or 0),
        rows=[LedgerRow.model_validate(r) for r in crates.ledger_rows(one, made, spec_made)],
        steps=[StepOut.model_validate(s) for s in route.steps] if route else [],
        cautions=_damage(one) + ([CautionOut.model_validate(c) for c in route.cautions] if route else []),
        choices=route.choices if route else {}, chosen=one.deliverable.choices,
        options=_options(spec_made, route.choices if route else {}, masters.known(one.deliverable.master)),
        trouble=one.trouble.as_json() if one.trouble else None,  # type: ignore[arg-type]
        predicted_size=route.size if route else 0, cap=cap, cap_of=of, picture_size=str(size) if size else None,
        frames=int((one.measured or predicted).value("motion.frames") or 0),
        rate=f"{rate.numerator}/{rate.denominator}" if rate else None,
        display_aspect=float(aspect) if aspect else None, stale=one.stale or one.lost, run=run(run_row), doing=crates.doing(one, made, _before(one, queue)), finished=run(finished),
        playable=one.measured is not None and playable(one.measured),
    )  # fmt: skip


def _before(one: crates.Standing, queue: list[int]) -> int:
    """Count the runs that stand before an item's in the queue."""
    return queue.index(one.run.id) if one.run is not None and one.run.id in queue else 0


def _damage(one: crates.Standing) -> list[CautionOut]:
    return [
        CautionOut(
            row="file.damage", what=str(note), why="The deliverable can only hold what is there.", figures="",
            way_out="Ask for the master again.", blocks=False,
        )
        for note in one.deliverable.master.notes
    ]  # fmt: skip


def _options(spec_made: Spec, choices: dict[str, Any], of: Facts) -> dict[str, list[OptionOut]]:
    """List the values to pick from where a rule names them."""
    names = {"framing": [*FRAMINGS], "house": ["", *spec_made.house_sets]} | {f"either.{e.name}": [a.name for a in e.any] for e in spec_made.either}
    found = {key: [(name, name) for name in those] for key, those in names.items()}
    taken = {key.removeprefix("either."): str(value) for key, value in choices.items() if key.startswith("either.")}
    found |= room.options(spec_made.resolved(taken), choices)
    if programme.TRACKS in choices:
        found[programme.TRACKS] = [("", "not chosen"), *programme.options(of)]
    return {key: [OptionOut(value=value, label=label) for value, label in those] for key, those in found.items()}


def receipt(row: models.Receipt, of: models.Crate) -> ReceiptOut:
    """Give a receipt."""
    return ReceiptOut(
        id=row.id, crate=of.id, number=of.number, revision=of.revision, title=of.title, recipient=of.recipient.name,
        accepted=row.accepted, sent_bytes=row.sent_bytes, message=row.document["message"], files=row.document["files"],
        created_at=row.created_at,
    )  # fmt: skip
