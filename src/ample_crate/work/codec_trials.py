"""Codecs tried on a part of a master: ordered by a person, carried out by a worker."""

from __future__ import annotations

import shutil
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import BadValue, Refused
from ..core.facts.span import Piece, Span, check, joined
from ..core.planning import stored, tries
from ..core.planning.plan import Plan
from ..media import ops
from ..store import masters
from ..store.models import Master, Run
from ..store.past import finished
from ..store.places import Folders
from ..store.studied import CodecTrial
from . import tried
from .parts import parts
from .studies import Study, Work
from .tried import Row, Taken

MOST = 12  # codecs in one trial
BESIDE = 8  # finished runs that are shown with it
PREFIX = "tried-"  # of the folder that what is made lies in meanwhile


def _ready(session: Session, row: CodecTrial) -> Work:
    master, asked = row.master, row.asked
    path, known = Path(master.path), master.sha256
    taken = Taken(path, master.name, masters.known(master), _span(asked["pieces"]))
    texts, name = asked["tries"], f"{PREFIX}{row.id}"

    def made(folders: Folders, control: ops.Control) -> Mapping[str, Any]:
        folders.inside(path)
        place = folders.runs / name
        # Of a worker that was lost something may lie there still.
        shutil.rmtree(place, ignore_errors=True)
        place.mkdir()
        try:
            rows = _rows(texts, taken, place, control)
        finally:
            shutil.rmtree(place, ignore_errors=True)
        return {"found": {"tries": rows, "of": known}}

    return made


STUDY = Study(CodecTrial, "master_id", "try_codecs", "trying", "trial", _ready)


def _rows(
    texts: Sequence[str], taken: Taken, place: Path, control: ops.Control
) -> Sequence[Mapping[str, Any]]:
    def seen(number: int, told: dict[str, Any]) -> dict[str, Any]:
        done = 0.5 * told["share"] + (0 if told["stage"] == "encode" else 0.5)
        place = {"frame": number + 1, "frames": len(texts), "speed": 0.0}
        return {"stage": "try", "share": done} | place

    part = parts(control, len(texts), seen)
    read = [tries.read(text) for text in texts]
    return [tried.row_of(one, taken, place / str(n), part(n)) for n, one in enumerate(read)]


def _span(pieces: Sequence[Mapping[str, int]]) -> Span | None:
    if not pieces:
        return None
    return joined([Span(first=one["first"], frames=one["frames"]) for one in pieces])


def frames_of(pieces: Sequence[Mapping[str, int]], master: Master) -> int:
    """Count the frames of some pieces of a master; of all of it where there is none."""
    whole = int(masters.known(master).value("motion.frames") or 0)
    return sum(one["frames"] for one in pieces) or whole


def require_moving(master: Master) -> None:
    """Make sure that codecs can be tried on a master.

    Raises:
        Refused: it has no moving picture, or was not measured.
    """
    if master.state != "ready":
        raise Refused("This master is not ready.", "Wait until it is measured, or read it again.")
    if int(masters.known(master).value("motion.frames") or 0) < 2:
        raise Refused("This master has no moving picture.", "Try codecs on one that has.")


def begin(session: Session, master: Master, texts: Sequence[str], pieces: Sequence[Piece]) -> None:
    """Order a trial, anew where there was one, unless one is going on.

    Args:
        session: to order in.
        master: to try codecs on.
        texts: what is tried, as `tries.read` has it.
        pieces: of the master, in order; none for all of it.

    Raises:
        Refused: nothing can be tried of it.
        BadValue: a codec, a setting or a piece is none, or too much is asked at once.
        BadSpec: a value is none of its property's.
    """
    require_moving(master)
    if not 0 < len(texts) <= MOST:
        raise BadValue("Nothing, or too much, is to be tried.", f"Name one to {MOST} codecs.")
    for text in texts:
        tries.spec_of(tries.read(text))
    asked: dict[str, Any] = {
        "tries": [text.strip() for text in texts],
        "pieces": [{"first": one.first, "frames": one.frames} for one in pieces],
    }
    span = _span(asked["pieces"])
    if span is not None:
        check(span, masters.known(master))
    there = STUDY.of(session, master.id)
    if there is None or there.state not in STUDY.unfinished:
        STUDY.begin(session, master.id, asked=asked)


@dataclass(frozen=True)
class Before:
    """A finished run of a codec that was tried.

    Attributes:
        run: the row.
        plan: of it.
        encode: seconds; None where several workers shared it.
        quality: mean XPSNR, dB; None where nobody compared.
    """

    run: Run
    plan: Plan
    encode: float | None
    quality: float | None


def before(session: Session, codecs: Sequence[str]) -> Sequence[Before]:
    """List the newest finished runs of some codecs."""
    found = {id: one for id, one in finished(session) if one.effort.split(",")[0] in codecs}
    ids = sorted(found, reverse=True)[:BESIDE]
    runs = session.scalars(select(Run).where(Run.id.in_(ids)).order_by(Run.id.desc()))
    plans = [(run, stored.route_of(run.route).plan) for run in runs]
    return [
        Before(run, plan, found[run.id].encode, found[run.id].quality)
        for run, plan in plans
        if plan is not None and plan.picture is not None
    ]


def rows_of(row: CodecTrial | None, master: Master) -> Sequence[Row]:
    """Give what was found of a master's bytes as they are now."""
    found = None if row is None else row.found
    return found["tries"] if found is not None and found["of"] == master.sha256 else []
