"""From rows to what the API gives."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import timedelta
from fractions import Fraction
from pathlib import Path
from typing import Any

import yaml

from ..core.facts import PROVENANCES, Facts
from ..core.ledger import ledger, overall
from ..core.properties import lookup, split_track
from ..core.route import plan_route
from ..core.spec import Recipient, Requirement, Spec, asked, leaves_room, limits, sentence
from ..core.values import show_rate, show_seconds
from ..store import models
from ..work import crates
from .schemas import (
    CautionOut,
    CrateOut,
    CratePage,
    DeliverableOut,
    FactOut,
    FitOut,
    LedgerRow,
    MasterOut,
    MasterPage,
    ReadyOut,
    ReceiptOut,
    RecipientOut,
    RequirementOut,
    RunOut,
    SpecOut,
    SpecPage,
    StepOut,
    StripOut,
)  # fmt: skip

FRAMINGS = ["pad", "crop", "stretch"]


def master(row: models.Master) -> MasterOut:
    """Give a master for the list."""
    facts = Facts.from_json(row.facts)
    return MasterOut(**_master(row, facts))


def _master(row: models.Master, facts: Facts) -> dict[str, Any]:
    seconds, rate = facts.fraction("file.duration"), facts.fraction("motion.rate")
    frames = facts.value("motion.frames")
    if not frames and seconds and rate:
        frames = int(seconds * rate)
    return {
        "id": row.id, "name": row.name, "origin": row.origin, "size": row.size, "state": row.state, "sha256": row.sha256,
        "progress": row.progress, "error": row.error, "notes": row.notes, "summary": summary(facts), "frames": frames or 0,
        "seconds": float(seconds) if seconds else None, "rate": f"{rate.numerator}/{rate.denominator}" if rate else None,
        "has_picture": facts.value("picture.size") is not None, "created_at": row.created_at,
    }  # fmt: skip


def summary(facts: Facts) -> list[str]:
    """Say in a few words what a file is."""
    said: list[str] = []
    size, rate = facts.value("picture.size"), facts.fraction("motion.rate")
    if size is not None:
        said.append(lookup("picture.size").kind.show(size))
        fields = facts.value("motion.scan") == "interlaced"
        if rate is not None:
            said.append(f"{show_rate(rate)}{' interlaced' if fields else ''}")
        said.append(lookup("picture.codec").kind.show(facts.value("picture.codec")))
    if facts.value("sound.tracks"):
        said.append(f"{facts.value('sound.layout')} {lookup('sound.codec').kind.show(facts.value('sound.codec'))}")
    seconds = facts.fraction("file.duration")
    if seconds:
        said.append(show_seconds(seconds))
    return said


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
                provenance=fact.provenance or "", values=values, contradicts=fact.contradicts, meaning=prop.meaning,
            )
        )  # fmt: skip
    return made


def master_page(row: models.Master, specs: list[models.SpecVersion], names: list[str]) -> MasterPage:
    """Give a master's page, with every spec's answer to it as it is."""
    facts = Facts.from_json(row.facts)
    return MasterPage(
        **_master(row, facts), facts=fact_list(facts), fits=[_fit(row, facts, s) for s in specs], crates=names,
        playable=playable(facts),
    )  # fmt: skip


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
    spec = Spec.model_validate(version.document)
    told = {"spec": spec.id, "title": spec.title, "recipient": version.recipient.name}
    if row.state in {"reading", "failed"}:
        return FitOut(**told, answer="not known yet", why="The master has not been read.")
    findings = ledger(facts, spec, facts)
    if overall(findings) in {"meets", "advice"}:
        return FitOut(**told, answer="accepts", why="Every must is met as it is.")
    route = plan_route(facts, spec, None, row.name)
    if route.plan is None:
        stopper = next(c for c in route.cautions if c.blocks)
        return FitOut(**told, answer="cannot", why=f"{stopper.what} {stopper.figures}".strip())
    broken = [f for f in findings if f.severity == "must" and f.verdict == "breaks"]
    if not broken:
        return FitOut(**told, answer="not known yet", why="Not everything asked is proven yet.")
    more = f" And {len(broken) - 1} more." if len(broken) > 1 else ""
    return FitOut(**told, answer="needs an encode", why=broken[0].why + more)


def recipient(row: models.Recipient) -> RecipientOut:
    """Give a recipient."""
    document = Recipient.model_validate(row.document)
    return RecipientOut(key=row.key, name=row.name, kind=row.kind, line_rate=document.line_rate, note=document.note)


def cap_of(spec: Spec) -> int | None:
    """Give a spec's cap on the file size in bytes, or None."""
    requirement = spec.requirement("file.size")
    if requirement is None or requirement.rule.operator != "at_most":
        return None
    return int(limits(requirement)[0])  # type: ignore[arg-type]


def spec(row: models.SpecVersion) -> SpecOut:
    """Give a spec for the register."""
    made = Spec.model_validate(row.document)
    return SpecOut(
        id=made.id, version=made.version, title=made.title, status=made.status, summary=made.summary,
        recipient=recipient(row.recipient), requirements=len(made.requirements), cap=cap_of(made),
    )  # fmt: skip


def spec_page(row: models.SpecVersion) -> SpecPage:
    """Give a spec to read."""
    made = Spec.model_validate(row.document)
    return SpecPage(
        spec=spec(row), source=made.source, rows=[_requirement(made, r) for r in made.requirements],
        name_pattern=made.delivery.name, yaml=yaml.safe_dump(row.document, sort_keys=False, allow_unicode=True),
    )  # fmt: skip


def _requirement(made: Spec, one: Requirement) -> RequirementOut:
    prop, choice = lookup(one.property), made.house.get(one.property)
    return RequirementOut(
        property=prop.key, label=prop.label, group=prop.group, asked=asked(one), severity=one.severity, note=one.note,
        source=one.source, sentence=sentence(one), room=leaves_room(one),
        house=prop.kind.show(prop.kind.read(choice.value)) if choice else None, house_note=choice.note if choice else "",
    )  # fmt: skip


def run(row: models.Run | None) -> RunOut | None:
    """Give a run, or None."""
    return None if row is None else RunOut.model_validate(row)


def _strip(one: crates.Standing, rows: list[dict[str, Any]]) -> StripOut:
    counts = {name: sum(r["verdict"] == name for r in rows) for name in ("meets", "advice", "unproven", "breaks")}
    return StripOut(deliverable=one.deliverable.id, name=one.deliverable.master.name, verdict=_verdict(one), **counts)


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
        "bytes": total, "cap": cap_of(spec_made), "sealed_at": row.sealed_at, "error": row.error,
        "ready": ReadyOut(
            encode=left.encode, measure=left.measure, seal=left.seal, transfer=left.transfer, total=left.total, ready_at=at,
            spare=(row.due_at - at).total_seconds(),
        ),
    }  # fmt: skip


def crate_page(row: models.Crate, speeds: Mapping[str, float]) -> CratePage:
    """Give a crate's page."""
    made, spec_made = crates.standings(row), crates.spec_of(row)
    return CratePage(
        **_crate(row, made, speeds), deliverables=[_deliverable(s, made, spec_made) for s in made],
        obstacles=crates.obstacles(made) if row.state == "open" else [], receipts=[receipt(r, row) for r in row.receipts],
        bag=Path(row.bag).name if row.bag else None, bag_bytes=row.bag_bytes,
    )  # fmt: skip


def _deliverable(one: crates.Standing, made: list[crates.Standing], spec_made: Spec) -> DeliverableOut:
    route = one.route
    predicted = route.facts if route is not None else Facts()
    aspect: Fraction | None = predicted.fraction("picture.display_aspect")
    size, rate = predicted.value("picture.size"), predicted.fraction("motion.rate")
    run_row, finished = one.run, one.finished
    return DeliverableOut(
        id=one.deliverable.id, master=master(one.deliverable.master),
        name=str(predicted.value("file.name") or one.deliverable.master.name), verdict=_verdict(one),
        rows=[LedgerRow.model_validate(r) for r in crates.ledger_rows(one, made, spec_made)],
        steps=[StepOut.model_validate(s) for s in route.steps] if route else [],
        cautions=_damage(one) + ([CautionOut.model_validate(c) for c in route.cautions] if route else []),
        choices=route.choices if route else {}, chosen=one.deliverable.choices, options=_options(spec_made),
        trouble=one.trouble.as_json() if one.trouble else None,  # type: ignore[arg-type]
        predicted_size=route.size if route else 0, cap=cap_of(spec_made), picture_size=str(size) if size else None,
        frames=int((one.measured or predicted).value("motion.frames") or 0),
        rate=f"{rate.numerator}/{rate.denominator}" if rate else None,
        display_aspect=float(aspect) if aspect else None, stale=one.stale, run=run(run_row), finished=run(finished),
        playable=one.measured is not None and playable(one.measured),
    )  # fmt: skip


def _damage(one: crates.Standing) -> list[CautionOut]:
    return [
        CautionOut(
            row="file.damage", what=str(note), why="The deliverable can only hold what is there.", figures="",
            way_out="Ask for the master again.", blocks=False,
        )
        for note in one.deliverable.master.notes
    ]  # fmt: skip


def _options(spec_made: Spec) -> dict[str, list[str]]:
    """List the values to pick from where a rule names them."""
    found = {"framing": FRAMINGS}
    for one in spec_made.requirements:
        if one.rule.one_of is not None:
            found[one.property] = [str(v) for v in limits(one)]
    return found


def receipt(row: models.Receipt, of: models.Crate) -> ReceiptOut:
    """Give a receipt."""
    return ReceiptOut(
        id=row.id, crate=of.id, number=of.number, revision=of.revision, title=of.title, recipient=of.recipient.name,
        accepted=row.accepted, sent_bytes=row.sent_bytes, message=row.document["message"], files=row.document["files"],
        created_at=row.created_at,
    )  # fmt: skip
