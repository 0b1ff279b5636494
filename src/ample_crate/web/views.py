"""From rows to what the API gives."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import timedelta
from fractions import Fraction
from pathlib import Path
from typing import Any

from sqlalchemy import Row, select
from sqlalchemy.orm import object_session

from ..core import formats
from ..core.facts import PROVENANCES, Facts, corrections, media_type
from ..core.facts.labels import start_frame
from ..core.facts.properties import lookup, split_track
from ..core.finding import Finding
from ..core.planning.ready import Past
from ..core.planning.schedule import Queue
from ..media import folders
from ..store import masters, models
from ..work import crates, status, worked_out
from .crate_schemas import (
    CratePage,
    DeliverableOut,
    FindingOut,
    NewerSpec,
    ReceiptOut,
    RecipientOut,
    RunOut,
)
from .master_schemas import Correctable, EventOut, FitOut, MasterOut, MasterPage, ProxyOut, SpanOut
from .schemas import FactOut


def master(row: models.Master) -> MasterOut:
    """Give a master for the list, from its card."""
    return MasterOut(**_master(row))


def _master(row: models.Master) -> dict[str, Any]:
    card = row.card
    return {
        "id": row.id,
        "name": row.name,
        "origin": row.origin,
        "size": row.size,
        "state": row.state,
        "sha256": row.sha256,
        "progress": row.progress,
        "error": row.error,
        "notes": row.notes,
        "summary": card.get("summary", []),
        "frames": card.get("frames", 0),
        "seconds": row.seconds,
        "rate": card.get("rate"),
        "has_picture": card.get("has_picture", False),
        "production": row.production,
        "contradictions": card.get("contradictions", []),
        "created_at": row.created_at,
        "mark": masters.mark(row),
    }


def fact_list(facts: Facts) -> list[FactOut]:
    """Give every fact as the screen shows it."""
    made = []
    for key in facts.as_json():
        fact, (base, track) = facts[key], split_track(key)
        prop = lookup(base)
        values: dict[str, str] = {
            p: prop.kind.show(getattr(fact, p)) for p in PROVENANCES if getattr(fact, p) is not None
        }
        made.append(
            FactOut(
                key=key,
                label=prop.label,
                group=prop.group,
                track=track,
                shown=prop.kind.show(fact.value),
                provenance=fact.provenance or "",
                values=values,
                contradicts=facts.contradicts(key),
                meaning=prop.meaning,
            )
        )
    return made


def master_page(
    row: models.Master, fits: list[dict[str, Any]], names: list[str], same: list[models.Master]
) -> MasterPage:
    """Give a master's page; `fits` are the specs' answers to it as it is (`work.kept`)."""
    facts = masters.known(row)
    aspect, drop = facts.fraction("picture.display_aspect"), facts.value("file.drop_frame")
    if aspect and int(facts.value("picture.rotation") or 0) % 180:
        aspect = 1 / aspect  # the viewer shows it turned
    return MasterPage(
        **_master(row),
        facts=fact_list(facts),
        fits=[FitOut(**f) for f in fits],
        crates=names,
        playable=media_type.plays_in_a_browser(facts),
        events=[_event(e) for e in row.events],
        spans=[SpanOut.model_validate(s) for s in row.spans],
        correctable=_correctable(facts, row.corrections),
        same_as=[f"{m.name} (master {m.id})" for m in same],
        start_frame=start_frame(facts),
        drop_frame=bool(drop),
        display_aspect=float(aspect) if aspect else None,
        alpha=bool(facts.value("picture.alpha")),
        interlaced=facts.value("motion.scan") == "interlaced",
        still=_still(facts),
        proxy=ProxyOut.model_validate(row.proxy or {"state": "none"}),
    )


def _still(facts: Facts) -> bool:
    wrapper = formats.WRAPPERS.get(facts.value("file.wrapper"))
    return wrapper is not None and wrapper.still


def _event(body: dict[str, Any]) -> EventOut:
    return EventOut(
        **(body | {"start": float(Fraction(body["start"])), "end": float(Fraction(body["end"]))})
    )


def _correctable(facts: Facts, held: Mapping[str, Any]) -> list[Correctable]:
    """List what a person may correct: of pictures, and of every sound track."""
    keys = (
        [k for k in corrections.CORRECTED if not k.startswith("sound.")]
        if facts.value("picture.size") is not None
        else []
    )
    if facts.value("sound.tracks"):
        keys += [
            key
            for base in corrections.CORRECTED
            if base.startswith("sound.")
            for key, _ in facts.tracks(base)
        ]
    made = []
    for key in keys:
        base, track = split_track(key)
        prop, value = lookup(base), facts.value(key)
        made.append(
            Correctable(
                key=key,
                label=prop.label + (f", track {track}" if track > 1 else ""),
                usual=list(lookup(base).corrections),
                now=prop.kind.show(value) if value is not None else "",
                corrected=key in held,
            )
        )
    return made


def recipient(row: models.Recipient) -> RecipientOut:
    """Give a recipient."""
    return RecipientOut(
        key=row.key,
        name=row.name,
        kind=row.kind,
        line_rate=str(row.document["line_rate"]),
        note=str(row.document.get("note") or ""),
    )


def finding(one: Finding) -> FindingOut:
    """Give a finding as the screen shows it."""
    return FindingOut(**worked_out.finding(one))


def _newer(row: models.Crate) -> NewerSpec | None:
    moved = crates.moved_on(row)
    return None if moved is None else NewerSpec(version=moved[0], changes=moved[1])


def run(row: models.Run | None) -> RunOut | None:
    """Give a run, or None."""
    return None if row is None else RunOut.model_validate(row)


Progresses = Mapping[int, Mapping[str, Any] | None]


def crate(
    row: models.Crate | Row[Any],
    to: RecipientOut,
    floor: worked_out.Document | None,
    progress: Progresses,
    past: Past,
    line: Queue,
) -> dict[str, Any]:
    """Give a crate for the floor, in the shape of `CrateOut`: there are hundreds, and all of it is
    ours.

    Args:
        row: the crate, or its columns.
        to: its recipient.
        floor: what was worked out of it; None where that is still to come.
        progress: of runs that go on, by deliverable.
        past: what finished runs teach.
        line: the queue of all runs.
    """
    now, told = status.now(), floor or NOTHING_YET
    left, total = crates.readiness(row.state, to.line_rate, told["left"], progress, past, line)
    at = now + timedelta(seconds=left.total)
    return {
        "id": row.id,
        "number": row.number,
        "revision": row.revision,
        "title": row.title,
        "state": row.state,
        "recipient": to,
        "spec": row.spec_id,
        "spec_version": row.spec_version,
        "spec_title": told["spec_title"],
        "due_at": row.due_at,
        "next_step": told["next_step"],
        "strips": told["strips"],
        "blocked": told["blocked"],
        "worked_out": floor is not None,
        "bytes": total,
        "cap": told["cap"],
        "cap_of": told["cap_of"],
        "sealed_at": row.sealed_at,
        "error": row.error,
        "removed_at": row.removed_at,
        "ready": {
            "wait": left.wait,
            "encode": left.encode,
            "measure": left.measure,
            "seal": left.seal,
            "transfer": left.transfer,
            "total": left.total,
            "held": left.held,
            "ready_at": at,
            "spare": (row.due_at - at).total_seconds(),
        },
    }


NOTHING_YET: worked_out.Document = {
    "spec_title": "",
    "next_step": "wait",
    "strips": [],
    "blocked": None,
    "cap": None,
    "cap_of": "",
    "left": [],
}


def in_place(floor: worked_out.Document | None) -> bool:
    """Say whether a crate's finished files lie, or are missing, as they were when it was worked
    out.
    """
    return floor is None or all(
        folders.is_there(Path(path)) is there for path, there in floor["files"].items()
    )


def crate_page(
    row: models.Crate, known: worked_out.WorkedOut, past: Past, line: Queue
) -> CratePage:
    """Give a crate's page; `line` has the runs that are not finished, and when each is made."""
    runs, originals = _runs_of(row, known), {d.id: d.master for d in row.deliverables}
    progress = {
        one["id"]: run.progress
        for one in known.page["items"]
        if (run := runs.get(one["run"])) is not None and run.state == "running"
    }
    left = [one for one in known.floor["left"] if one["work"]]
    sizes = {one["deliverable"]: crates.size_left(one, past) for one in left}
    return CratePage(
        **crate(row, recipient(row.recipient), known.floor, progress, past, line),
        deliverables=[
            _deliverable(
                one | {"predicted_size": sizes.get(one["id"], one["predicted_size"])},
                originals[one["id"]],
                runs,
                line,
            )
            for one in known.page["items"]
        ],
        obstacles=known.page["obstacles"],
        receipts=[receipt(r, row) for r in row.receipts],
        bag=Path(row.bag).name if row.bag else None,
        bag_bytes=row.bag_bytes,
        whole=known.page["whole"],
        newer_spec=_newer(row),
        begins_with=status.spec_of(row).begins_with,
        taken_back=[],
        beside=known.page["beside"],
    )


def now_ready(page: CratePage) -> CratePage:
    """Give a page that was read a while ago with the time at which the crate is ready, were it
    begun now.
    """
    at = status.now() + timedelta(seconds=page.ready.total)
    ready = page.ready.model_copy(
        update={"ready_at": at, "spare": (page.due_at - at).total_seconds()}
    )
    return page.model_copy(update={"ready": ready})


def _runs_of(row: models.Crate, known: worked_out.WorkedOut) -> dict[int | None, models.Run]:
    session, ids = (
        object_session(row),
        {one[name] for one in known.page["items"] for name in ("run", "finished")} - {None},
    )
    assert session is not None
    return {
        run.id: run for run in session.scalars(select(models.Run).where(models.Run.id.in_(ids)))
    }


def _deliverable(
    one: worked_out.Document,
    original: models.Master,
    runs: Mapping[int | None, models.Run],
    line: Queue,
) -> DeliverableOut:
    newest = runs.get(one["run"])
    turns = [task.key for task in line.tasks]
    waits = newest is not None and newest.state == "queued" and one["id"] in turns
    before = turns.index(one["id"]) if waits else 0
    doing = f"queued, {before} before it" if before else one["doing"]
    return DeliverableOut(
        **(
            one
            | {
                "master": master(original),
                "doing": doing,
                "run": run(newest),
                "finished": run(runs.get(one["finished"])),
            }
        )
    )


def receipt(row: models.Receipt, of: models.Crate) -> ReceiptOut:
    """Give a receipt."""
    return ReceiptOut(
        id=row.id,
        crate=of.id,
        number=of.number,
        revision=of.revision,
        title=of.title,
        recipient=of.recipient.name,
        accepted=row.accepted,
        sent_bytes=row.sent_bytes,
        message=row.document["message"],
        files=row.document["files"],
        created_at=row.created_at,
    )
