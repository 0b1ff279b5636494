"""What a crate's plans and verdicts come to, as a document: all that its page and the floor show
and that is costly to work out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from fractions import Fraction
from typing import Any

from ..core.facts import Facts, media_type
from ..core.facts.sequences import tells_a_gap
from ..core.finding import Finding
from ..core.formats import PICTURE
from ..core.formats.codec import USUAL
from ..core.planning import beside, concerns, programme, share
from ..core.planning import choices as choices_of
from ..core.planning.plan import Route
from ..core.planning.resolve import LOUDNESS, STREAMS
from ..core.planning.under import BACKGROUND
from ..core.specs.delivery import BACKGROUNDS, CAPTION_FORMS, FORM_NAMES, STILL, Sidecar
from ..core.specs.spec import Spec
from ..store.models import Crate, Master
from . import crates, origins, running, sealing, status
from .status import ItemStatus

UNDER = {"none": "nothing, dropped", "refused": "not chosen"}
FRAMINGS = ["pad", "crop", "stretch"]
VERDICTS = ("meets", "advice", "unproven", "breaks")
Document = dict[str, Any]


@dataclass(frozen=True)
class WorkedOut:
    """What is kept of a crate: `floor` for the floor, `page` for what only its own page shows
    besides.
    """

    floor: Document
    page: Document


def work_out(crate: Crate) -> WorkedOut:
    """Work out where all of a crate stands."""
    spec, made = status.spec_of(crate), status.item_statuses(crate)
    rows = [crates.ledger_rows(one, made, spec) for one in made]
    still_open = crate.state == "open"
    cap, cap_of = share.cap_of(spec)
    floor = {
        "spec_title": spec.title,
        "cap": cap,
        "cap_of": cap_of,
        "next_step": crates.next_step(crate, made),
        "blocked": stopper[0] if still_open and (stopper := running.blocked(made)) else None,
        "strips": [_strip(one, those) for one, those in zip(made, rows, strict=True)],
        "left": [_left(one) for one in made],
        # Where the files of an open crate are to lie, and whether they do.
        "files": {
            str(one.finished.path): not one.lost
            for one in made
            if still_open and one.finished is not None
        },
    }
    page = {
        "items": [_item(one, made, spec, those) for one, those in zip(made, rows, strict=True)],
        "obstacles": sealing.obstacles(crate, made) if still_open else [],
        "whole": [finding(f) for f in status.whole(crate, made)] if still_open else [],
        "beside": [_beside(sidecar, made) for sidecar in spec.delivery.sidecars],
    }
    return WorkedOut(floor, page)


def items(crate: Crate) -> list[Document]:
    """Say of each item what its file would be called, what is worst, and what is to be known first;
    all that is shown of many at once.
    """
    spec, made = status.spec_of(crate), status.item_statuses(crate)
    rows = [crates.ledger_rows(one, made, spec) for one in made]
    return [_told(one, those) for one, those in zip(made, rows, strict=True)]


def _told(one: ItemStatus, rows: list[Document]) -> Document:
    facts = Facts() if one.route is None else one.route.facts
    return {
        "id": one.deliverable.id,
        "file": str(facts.value("file.name") or ""),
        "worst": _concerns(one, rows)["worst"],
        "says": _says(one, rows),
    }


def _says(one: ItemStatus, rows: list[Document]) -> str:
    """Say what keeps an item from being made, else what breaks, else what is to be known."""
    if one.trouble is not None:
        return one.trouble.sentence()
    cautions = sorted(one.route.cautions if one.route else [], key=lambda c: not c.blocks)
    broken = [row["why"] for row in rows if row["matters"] == "breaks"]
    if broken and not (cautions and cautions[0].blocks):
        return str(broken[0])
    return f"{cautions[0].what} {cautions[0].way_out}".strip() if cautions else ""


def _beside(sidecar: Sidecar, made: Sequence[ItemStatus]) -> str:
    """Say what lies beside the files, and which of them want captions that no master has."""
    if sidecar.kind != "captions":
        return sidecar.said()
    plans = [(one, one.route.plan) for one in made if one.route is not None]
    names = [status.item_name(one.deliverable) for one, plan in plans if plan and not plan.captions]
    by_hand = f"; to be sent by hand for {', '.join(names)}" if names else ""
    return sidecar.said() + by_hand


def finding(one: Finding) -> Document:
    """Give a finding in words."""
    prop = one.test.prop
    return {
        "property": one.property,
        "label": prop.label,
        "group": prop.group,
        "part": one.part,
        "asked": one.asked,
        "found": one.found,
        "verdict": one.verdict,
        "why": one.why,
        "severity": one.severity,
        "source": one.test.requirement.source,
        "sentence": one.test.requirement.sentence(),
        "applies": one.applies,
    }


def _strip(one: ItemStatus, rows: list[Document]) -> Document:
    counts = {name: sum(r["verdict"] == name for r in rows) for name in VERDICTS}
    return {
        "deliverable": one.deliverable.id,
        "name": status.item_name(one.deliverable),
        "verdict": _verdict(one),
        **counts,
        "concerns": _concerns(one, rows),
    }


def _concerns(one: ItemStatus, rows: list[Document]) -> Document:
    """Count what a person looks at first of an item; what is sealed needs nobody any more."""
    still_open = one.deliverable.crate.state == "open"
    cautions = one.route.cautions if one.route is not None and still_open else []
    waits = origins.state(one.deliverable) in running.BEING_READ
    troubles = one.trouble is not None and not waits
    made = concerns.of_item(rows, cautions, int(troubles))
    noted = len(_damage(one)) if still_open else 0
    made = replace(made, cautions=made.cautions + noted)
    return asdict(made) | {"worst": made.worst, "rank": made.rank}


def _verdict(one: ItemStatus) -> str:
    return "unproven" if one.stale else one.verdict


def _left(one: ItemStatus) -> Document:
    """Give an item's bytes, as they are or as predicted, and where it is to be made still the work
    that this takes.
    """
    made = one.finished.size if one.finished is not None and not one.stale else None
    plan = one.route.plan if one.route is not None and made is None else None
    size = made or (one.route.size if one.route is not None else 0)
    work = (
        {
            "effort": plan.effort,
            "samples": float(plan.work),
            "measured": float(plan.samples),
            "copied": 0 if plan.work else int(size),
            "quicker": _quicker(one),
            "sized": [plan.sized_by, origins.bytes_of(one.deliverable) or "", plan.made_as],
        }
        if plan is not None
        else None
    )
    return {"deliverable": one.deliverable.id, "size": int(size), "work": work}


def _quicker(one: ItemStatus) -> list[str]:
    """List the paces that an item could be made at besides, as efforts (`Plan.effort`)."""
    if one.route is None or one.route.plan is None or "pace" not in one.route.choices:
        return []
    codec = str(one.route.facts.value("picture.codec"))
    row = PICTURE[codec].made
    others = [pace for pace in PACED if row is not None and pace in row.paces and pace != USUAL]
    return [made for pace in others if (made := f"{codec}, {pace}") != one.route.plan.effort]


def _item(one: ItemStatus, made: list[ItemStatus], spec: Spec, rows: list[Document]) -> Document:
    route = one.route
    predicted = route.facts if route is not None else Facts()
    aspect: Fraction | None = predicted.fraction("picture.display_aspect")
    size, rate = predicted.value("picture.size"), predicted.fraction("motion.rate")
    cap, of = share.cap_of_item(spec, one.share)
    choices = route.choices if route else {}
    cautions = [c.model_dump(mode="json") for c in route.cautions] if route else []
    return {
        "id": one.deliverable.id,
        "name": str(predicted.value("file.name") or one.deliverable.master.name),
        "verdict": _verdict(one),
        "item": status.item_name(one.deliverable),
        "first": (one.deliverable.span or {}).get("first", 0),
        "left_out": (one.deliverable.span or {}).get("left_out", []),
        "master_frames": int(one.master.value("motion.frames") or 0),
        "rows": rows,
        "steps": [s.model_dump(mode="json") for s in route.steps] if route else [],
        "cautions": _damage(one) + cautions,
        "choices": choices,
        "chosen": one.deliverable.choices,
        "can_undo": bool(one.deliverable.earlier),
        "can_redo": bool(one.deliverable.later),
        "sound": _sound(one),
        "under": _under(one),
        "options": _options(spec, choices, one),
        "trouble": one.trouble.as_json() if one.trouble else None,
        "predicted_size": route.size if route else 0,
        "predicted_range": _range(route),
        "cap": cap,
        "cap_of": of,
        "codec": str(predicted.value("picture.codec") or ""),
        "picture_size": str(size) if size else None,
        "frames": int((one.measured or predicted).value("motion.frames") or 0),
        "seconds": _length(one.measured),
        "rate": f"{rate.numerator}/{rate.denominator}" if rate else None,
        "display_aspect": float(aspect) if aspect else None,
        "stale": one.stale or one.lost,
        "doing": running.doing(one, made),
        "run": one.run.id if one.run is not None else None,
        "finished": one.finished.id if one.finished is not None else None,
        "playable": one.measured is not None and media_type.plays_in_a_browser(one.measured),
    }


def _length(measured: Facts | None) -> float | None:
    """Give how long a finished file was measured to be, in seconds."""
    length = None if measured is None else measured.fraction("file.duration")
    return None if length is None else float(length)


def _sound(one: ItemStatus) -> Document | None:
    """Name the other master that the sound comes from, if there is one."""
    return _named(one.deliverable.sound)


def _under(one: ItemStatus) -> Document | None:
    """Name the other master that transparency is laid over, if there is one."""
    laid = one.deliverable.choices.get(BACKGROUND) == STILL
    return _named(one.deliverable.under if laid else None)


def _named(row: Master | None) -> Document | None:
    return None if row is None else {"id": row.id, "name": row.name}


def _range(route: Route | None) -> Document | None:
    """Give the bytes between which a size lies that follows from the pictures."""
    if route is None or route.least is None:
        return None
    return {"least": route.least, "most": route.most}


def _damage(one: ItemStatus) -> list[Document]:
    return [
        {
            "row": "file.damage",
            "what": str(note),
            "why": "The deliverable can only hold what is there.",
            "figures": "",
            "way_out": "Ask for the master again.",
            "blocks": False,
            "choice": "",
        }
        for note in _noted(one)
        # Of those the route speaks itself.
        if not tells_a_gap(str(note))
    ]


def _noted(one: ItemStatus) -> list[str]:
    return [note for row in origins.of(one.deliverable) for note in row.notes]


WAYS = [("copied", "copied as it is"), ("encoded", "encoded"), ("", "as fits best")]


PACED = {
    "usual": "as usual",
    "faster": "faster, at some loss",
    "hardware": "by this machine's hardware",
}
LAID = [("timecode", "by timecode"), ("start", "by their starts")]


def options_of(one: ItemStatus) -> dict[str, list[Document]]:
    """List the values to pick from of what can be chosen for an item, by key."""
    choices = dict(one.route.choices) if one.route is not None else {}
    return _options(status.spec_of(one.deliverable.crate), choices, one)


def _options(spec: Spec, choices: dict[str, Any], one: ItemStatus) -> dict[str, list[Document]]:
    """List the values to pick from where a rule names them."""
    names = {
        "framing": [*FRAMINGS],
        "house": ["", *spec.house_sets],
    } | {f"either.{e.name}": [a.name for a in e.any] for e in spec.either}
    found = {key: [(name, name) for name in those] for key, those in names.items()}
    own = [spec.coding.background, str(choices.get("background", "black"))]
    under = one.deliverable.under
    named = UNDER | ({} if under is None else {STILL: f"the picture of {under.name}"})
    found["background"] = [
        (name, named.get(name, name)) for name in dict.fromkeys([*BACKGROUNDS, *own])
    ]
    found["captions"] = [("", "none"), *((form, FORM_NAMES[form]) for form in CAPTION_FORMS)]
    if "pace" in choices and one.route is not None:
        row = PICTURE[str(one.route.facts.value("picture.codec"))].made
        assert row is not None
        found["pace"] = [(pace, PACED[pace]) for pace in PACED if pace in row.paces]
    found["loudness"] = list(zip(LOUDNESS, ("brought to the target", "untouched"), strict=True))
    found |= choices_of.options(status.asked_of(one), choices)
    found |= {name: WAYS for name in STREAMS if name in choices}
    if programme.TRACKS in choices:
        offered = programme.options(origins.known(one.deliverable))
        found[programme.TRACKS] = [("", "not chosen"), *offered]
    if programme.CHANNELS in choices:
        track = str(choices.get(programme.TRACKS, ""))
        held = str(choices[programme.CHANNELS])
        offered = programme.channel_options(origins.known(one.deliverable), track)
        if held not in ("", *dict(offered)):
            offered.append((held, held))
        found[programme.CHANNELS] = [("", "all"), *offered]
    if beside.LAID in choices:
        found[beside.LAID] = LAID
    return {
        key: [{"value": value, "label": label} for value, label in those]
        for key, those in found.items()
    }
