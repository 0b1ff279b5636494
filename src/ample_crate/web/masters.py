"""Masters: found, looked at, corrected, marked, dismissed."""

from __future__ import annotations

import contextlib
import shutil
from pathlib import Path
from typing import Any

from flask import Response, send_file
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import BadValue, NotFound, Refused
from ..core.facts import corrections, span
from ..core.facts.labels import frame_named
from ..core.facts.properties import lookup
from ..store import masters, specs
from ..store.database import tell
from ..store.models import Crate, Deliverable, Master, NamedSpan, PassedOver, Trace
from ..store.queries import get
from ..work import kept, sums
from ..work.orders import order
from . import pictures, views
from .crate_schemas import Removed
from .master_schemas import (
    ChangeMaster,
    Correct,
    FindMasters,
    FrameAt,
    LabelQuery,
    MasterList,
    MasterOut,
    MasterPage,
    MasterSpan,
    Production,
    Productions,
    ProxyOut,
    SpanIn,
    TracesOut,
)
from .schemas import DisplayQuery, FramePath, Numbered
from .services import give, give_text, services, written

api = APIBlueprint("masters", __name__, url_prefix="/api/masters", abp_tags=[Tag(name="masters")])
NO_PICTURE = {"reading", "failed", "changed"}


@api.get("", summary="Masters, found by words and figures", responses={200: MasterList})
def listed(query: FindMasters) -> Response:
    """List a page of masters, newest first."""
    with services().database.at_one_moment() as session:
        return give_text(
            services().memo.answer(
                session, f"masters {query.model_dump_json()}", lambda: _found(session, query)
            )
        )


def _found(session: Session, query: FindMasters) -> str:
    if query.ids:
        wanted = [int(i) for i in query.ids.split(",") if i]
        rows = session.scalars(
            select(Master).where(Master.id.in_(wanted)).order_by(Master.id)
        ).all()
        return written(MasterList(rows=[views.master(m) for m in rows], total=len(rows), unread=[]))
    found = masters.find(session, query.q, query.production, query.offset, query.limit)
    return written(
        MasterList(
            rows=[views.master(m) for m in found.rows], total=found.total, unread=list(found.unread)
        )
    )


@api.get("/productions", summary="The productions", responses={200: Productions})
def productions() -> Response:
    """List the productions that masters belong to."""
    with services().database.session() as session:
        return give(
            Productions(
                root=[Production(name=n, masters=c) for n, c in masters.productions(session)]
            )
        )


def _page(session: Session, id: int) -> Response:
    session.flush()
    return give_text(_written(session, id))


def _written(session: Session, id: int) -> str:
    row = get(session, Master, id)
    session.refresh(row)
    used = (
        select(Crate.number, Crate.title)
        .join(Crate.deliverables)
        .where(Deliverable.uses(row.id), Crate.removed_at.is_(None))
    )
    names = sorted({f"{number} {title}" for number, title in session.execute(used)})
    return written(
        views.master_page(
            row,
            kept.fits(session, row, specs.in_force(session)),
            names,
            masters.same_bytes(session, row),
        )
    )


@api.get("/<int:id>", summary="A master's page", responses={200: MasterPage})
def page(path: Numbered) -> Response:
    """Give a master's page; where its file seems to be another one, that is looked into."""
    with services().database.at_one_moment() as session:
        row = get(session, Master, path.id)
        if row.state == "ready" and _looks_changed(row):
            order(session, "compare", row.id)
        return give_text(
            services().memo.answer(session, f"master {path.id}", lambda: _written(session, path.id))
        )


def _looks_changed(row: Master) -> bool:
    with contextlib.suppress(OSError):
        return bool(row.identity) and sums.identity(Path(row.path)) != row.identity
    return False


@api.get(
    "/<int:id>/traces",
    summary="A master's curves: rate over time, waveforms, loudness",
    responses={200: TracesOut},
)
def traces(path: Numbered) -> Response:
    """Give a master's curves."""
    with services().database.session() as session:
        get(session, Master, path.id)
        row = session.get(Trace, path.id)
        return give(TracesOut.model_validate(row.document if row is not None else {}))


@api.get("/<int:id>/frame-at", summary="The frame that a timecode names", responses={200: FrameAt})
def frame_at(path: Numbered, query: LabelQuery) -> Response:
    """Find a frame by its timecode, or by its plain number."""
    with services().database.session() as session:
        row = get(session, Master, path.id)
        facts, frames = masters.known(row), int(row.card.get("frames", 0))
    return give(FrameAt(frame=frame_named(query.label, facts, frames)))


@api.patch(
    "/<int:id>", summary="Say which production a master belongs to", responses={200: MasterPage}
)
def change(path: Numbered, body: ChangeMaster) -> Response:
    """Change what a person keeps with a master."""
    with services().database.session() as session:
        row = get(session, Master, path.id, lock=True)
        row.production = body.production.strip()
        _known_anew(session, row)
        return _page(session, path.id)


@api.put(
    "/<int:id>/corrections",
    summary="Correct a fact, or take the correction back",
    responses={200: MasterPage},
)
def correct(path: Numbered, body: Correct) -> Response:
    """Correct a fact: routes use the correction, and ledgers show that it is assumed."""
    with services().database.session() as session:
        row = get(session, Master, path.id, lock=True)
        if row.state in NO_PICTURE:
            raise Refused("This master has not been read yet.", "Wait until it has been.")
        held = {k: v for k, v in row.corrections.items() if k != body.key}
        if body.value is not None:
            held[body.key] = lookup(body.key).kind.stored(corrections.check(body.key, body.value))
        row.corrections = held
        _known_anew(session, row)
        for used in session.scalars(select(Deliverable).where(Deliverable.uses(row.id))):
            tell(session, "crate", used.crate_id)
        return _page(session, path.id)


def _known_anew(session: Session, row: Master) -> None:
    masters.recard(row)
    tell(session, "master", row.id)


@api.post("/<int:id>/spans", summary="Keep a named range", responses={200: MasterPage})
def keep_span(path: Numbered, body: SpanIn) -> Response:
    """Keep a range, which can be delivered as an item of its own."""
    with services().database.session() as session:
        row = get(session, Master, path.id)
        made = span.Span(name=body.name.strip() or body.name, first=body.first, frames=body.frames)
        span.check(made, masters.known(row))
        if any(s.name == made.name for s in row.spans):
            raise Refused(f"There is a range '{made.name}' already.", "Give it another name.")
        session.add(NamedSpan(master_id=row.id, **made.as_json()))
        tell(session, "master", row.id)
        return _page(session, path.id)


@api.delete("/<int:id>/spans/<int:span>", summary="Forget a range", responses={200: MasterPage})
def forget_span(path: MasterSpan) -> Response:
    """Forget a range; items already in crates keep theirs."""
    with services().database.session() as session:
        row = get(session, NamedSpan, path.span)
        if row.master_id != path.id:
            raise NotFound("This range is not one of that master.", "Open the master's page again.")
        session.delete(row)
        tell(session, "master", path.id)
        return _page(session, path.id)


@api.post("/<int:id>/read", summary="Read a master again", responses={200: MasterOut})
def read_again(path: Numbered) -> Response:
    """Read and measure a master again."""
    with services().database.session() as session:
        row = get(session, Master, path.id, lock=True)
        if not Path(row.path).is_file():
            raise NotFound(
                f"'{row.name}' is not there any more.", "Put the file back, then read it again."
            )
        row.state, row.error, row.progress, row.proxy = "reading", None, None, None
        order(session, "ingest", row.id)
        tell(session, "master", row.id)
        session.flush()
        session.refresh(row)
        return give(views.master(row))


@api.delete("/<int:id>", summary="Dismiss a master", responses={200: Removed})
def dismiss(path: Numbered) -> Response:
    """Dismiss a master that no crate uses; a file in an intake folder stays where it is."""
    folders = services().folders
    with services().database.session() as session:
        row = get(session, Master, path.id, lock=True)
        crates = {
            d.crate for d in session.scalars(select(Deliverable).where(Deliverable.uses(row.id)))
        }
        user = next((c for c in crates if c.removed_at is None), None)
        if user is not None:
            raise Refused(
                f"'{row.name}' is in crate {user.number}.", "Take it out of the crate first."
            )
        # A crate that was removed cannot be had back without its master.
        for removed in crates:
            session.delete(removed)
        session.flush()
        file, ours, copy = (
            Path(row.path),
            row.origin in {"upload", "sequence"},
            (row.proxy or {}).get("file"),
        )
        if row.origin != "upload":
            session.merge(PassedOver(place=row.came_from or row.path))
        session.delete(row)
        tell(session, "master", path.id)
    if ours and file.resolve().is_relative_to(folders.masters):
        shutil.rmtree(file.parent, ignore_errors=True)
    if copy:
        (folders.proxies / Path(copy).name).unlink(missing_ok=True)
    return give(Removed(id=path.id))


@api.get("/<int:id>/frames/<int:frame>", summary="One frame as JPEG")
def frame(path: FramePath, query: DisplayQuery) -> Response:
    """Give a frame at its display aspect, or sample for sample."""
    with services().database.session() as session:
        row = get(session, Master, path.id)
        if row.state in NO_PICTURE:
            raise BadValue(
                "There is no picture of this master yet.", "Wait until it has been read."
            )
        facts, file, mark = masters.known(row), Path(row.path), masters.mark(row)
    display: dict[str, Any] = {
        "field": query.field,
        "alpha": query.alpha,
        "even": facts.fact("motion.steady").measured is not False,
    }
    aspect = facts.fraction("picture.pixel_aspect")
    if aspect is not None:
        display["aspect"] = f"{aspect.numerator}/{aspect.denominator}"
    for key, name in (("picture.range", "full_range"), ("picture.matrix", "matrix")):
        assumed = facts.fact(key).assumed
        if assumed is not None:
            display[name] = assumed == "full" if name == "full_range" else assumed
    return pictures.frame(file, path.frame, query.width, display, mark)


@api.post(
    "/<int:id>/proxy",
    summary="Make the proxy, once",
    responses={200: ProxyOut},
)
def make_copy(path: Numbered) -> Response:
    """Order the proxy where there is none."""
    with services().database.session() as session:
        row = get(session, Master, path.id, lock=True)
        if row.state in NO_PICTURE:
            raise Refused("This master has not been read yet.", "Wait until it has been.")
        state = (row.proxy or {}).get("state")
        there = (
            state == "ready"
            and (services().folders.proxies / str((row.proxy or {}).get("file"))).is_file()
        )
        if not there and state not in {"waiting", "making"}:
            row.proxy = {"state": "waiting"}
            tell(session, "master", row.id)
        if (row.proxy or {}).get("state") == "waiting":
            order(session, "proxy", row.id)
        return give(ProxyOut.model_validate(row.proxy))


@api.get("/<int:id>/proxy", summary="The proxy itself, in pieces")
def proxy(path: Numbered) -> Response:
    """Give the proxy for the browser's own player."""
    with services().database.session() as session:
        told = get(session, Master, path.id).proxy or {}
    file = services().folders.proxies / str(told.get("file", ""))
    if told.get("state") != "ready" or not file.is_file():
        raise NotFound("There is no proxy yet.", "Wait until it is made.")
    return send_file(file, mimetype="video/mp4", conditional=True, max_age=0)


@api.get("/<int:id>/play", summary="The file itself, in pieces")
def play(path: Numbered) -> Response:
    """Give the file for a browser that can play it."""
    with services().database.session() as session:
        file = Path(get(session, Master, path.id).path)
    return pictures.play(file)
