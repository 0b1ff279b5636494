"""Crates: made, planned, run, sealed, handed over."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from flask import Response, send_file
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload, selectinload

from ..core.errors import NotFound, Refused
from ..store import specs
from ..store.database import tell
from ..store.models import Crate, Deliverable, Run, SpecVersion
from ..store.past import past
from ..store.queries import get
from ..work import acts, choosing, crates, kept, many, queueing, running, status
from ..work.acts import nothing_runs, open_crate
from ..work.worked_out import Document
from . import views
from .crate_schemas import (
    AddMasters,
    ChangeCrate,
    CratePage,
    FollowSpec,
    NewCrate,
    Removed,
)
from .schemas import Numbered
from .services import give, services

api = APIBlueprint("crates", __name__, url_prefix="/api/crates", abp_tags=[Tag(name="crates")])


_ALL_OF_IT = (
    joinedload(Crate.recipient),
    joinedload(Crate.spec).joinedload(SpecVersion.recipient),
    selectinload(Crate.deliverables).joinedload(Deliverable.master),
    selectinload(Crate.receipts),
)


def page_of(session: Session, id: int, taken_back: Sequence[str] = ()) -> Response:
    """Give the page of a crate as a session has changed it; `taken_back` are choices let go."""
    session.flush()
    session.expire_all()
    made, _ = _read(session, id)
    return give(made.model_copy(update={"taken_back": list(taken_back)}))


def _read(session: Session, id: int) -> tuple[CratePage, Document]:
    """Read a crate's page, and what was worked out of it for the floor."""
    row = session.scalars(
        select(Crate).where(Crate.id == id).options(*_ALL_OF_IT)
    ).one_or_none() or get(session, Crate, id)
    known = kept.whole(session, id)
    taught = past(session)
    line = queueing.of(session, taught)
    return views.crate_page(row, known, taught, line), known.floor


@api.post("", summary="Make a crate", responses={200: CratePage})
def make(body: NewCrate) -> Response:
    """Make a crate."""
    with services().database.session() as session:
        wanted = many.Wanted(body.title, body.spec, body.due_at)
        crate = many.make(session, wanted, services().folders)
        left = many.put_in(session, crate, many.parts(session, body.masters, body.spans))
        tell(session, "crate", crate.id)
        return page_of(session, crate.id, left)


@api.get("/<int:id>", summary="A crate's page", responses={200: CratePage})
def page(path: Numbered) -> Response:
    """Give a crate."""
    with services().database.at_one_moment() as session:
        made, _ = services().memo.answer(
            session,
            f"crate {path.id}",
            lambda: _read(session, path.id),
            lambda was: views.in_place(was[1]),
        )
    return give(views.now_ready(made))


@api.patch("/<int:id>", summary="Change an open crate", responses={200: CratePage})
def change(path: Numbered, body: ChangeCrate) -> Response:
    """Change title or due time."""
    with services().database.session() as session:
        crate = open_crate(session, path.id)
        crate.title = body.title or crate.title
        crate.due_at = body.due_at or crate.due_at
        tell(session, "crate", crate.id)
        return page_of(session, path.id)


@api.post(
    "/<int:id>/spec",
    summary="Plan an open crate with another version of its spec",
    responses={200: CratePage},
)
def follow(path: Numbered, body: FollowSpec) -> Response:
    """Take another version that is in force; choices that it does not allow are let go, and the
    answer's crate shows the rest.
    """
    with services().database.session() as session:
        crate = open_crate(session, path.id)
        nothing_runs([r for d in crate.deliverables for r in d.runs])
        version = specs.get(session, crate.spec_id, body.version)
        if not specs.counts(version):
            raise Refused(f"Version {body.version} is not in force.", "Choose one that is.")
        crate.spec_version = version.version
        session.flush()
        session.expire(crate)
        for one in crate.deliverables:
            one.choices = choosing.still_allowed(one, one.choices)
        tell(session, "crate", crate.id)
        return page_of(session, path.id)


@api.delete("/<int:id>", summary="Remove an open crate", responses={200: Removed})
def remove(path: Numbered) -> Response:
    """Remove a crate that is not sealed; it can be put back for a while."""
    with services().database.session() as session:
        acts.remove(session, open_crate(session, path.id))
    return give(Removed(id=path.id))


@api.post("/<int:id>/restore", summary="Put a removed crate back", responses={200: CratePage})
def restore(path: Numbered) -> Response:
    """Put a removed crate back, as it was."""
    with services().database.session() as session:
        crate = get(session, Crate, path.id, lock=True)
        crate.removed_at = None
        tell(session, "crate", path.id)
        return page_of(session, path.id)


@api.post("/<int:id>/deliverables", summary="Add masters to a crate", responses={200: CratePage})
def add(path: Numbered, body: AddMasters) -> Response:
    """Add masters."""
    with services().database.session() as session:
        parts = many.parts(session, body.masters, body.spans)
        left = many.put_in(session, open_crate(session, path.id), parts)
        tell(session, "crate", path.id)
        return page_of(session, path.id, left)


@api.post(
    "/<int:id>/runs",
    summary="Run every deliverable that is not finished",
    responses={200: CratePage},
)
def run_all(path: Numbered) -> Response:
    """Run all that has no file that counts; what waits for its master runs as soon as that is
    measured.
    """
    with services().database.session() as session:
        crate = open_crate(session, path.id)
        running.run_all(session, crate)
        tell(session, "crate", crate.id)
        return page_of(session, path.id)


@api.post(
    "/<int:id>/runs/stop", summary="Stop everything that runs or waits", responses={200: CratePage}
)
def stop_all(path: Numbered) -> Response:
    """Stop the runs of a crate, and let nothing of it wait any more."""
    with services().database.session() as session:
        crate = open_crate(session, path.id)
        for one in crate.deliverables:
            one.wanted_at = None
            for run in one.runs:
                if run.state in status.UNFINISHED:
                    running.stop(session, get(session, Run, run.id, lock=True))
        tell(session, "crate", crate.id)
        return page_of(session, path.id)


@api.post("/<int:id>/seal", summary="Seal a crate", responses={200: CratePage})
def seal(path: Numbered) -> Response:
    """Seal a crate in which every must is met or signed off."""
    with services().database.session() as session:
        acts.seal(session, open_crate(session, path.id))
        return page_of(session, path.id)


@api.post("/<int:id>/hand-over", summary="Hand a sealed crate over", responses={200: CratePage})
def hand_over(path: Numbered) -> Response:
    """Carry a sealed crate to its recipient."""
    with services().database.session() as session:
        acts.hand_over(session, get(session, Crate, path.id, lock=True))
        return page_of(session, path.id)


@api.post(
    "/<int:id>/revisions",
    summary="Open a new revision of a sealed crate",
    responses={200: CratePage},
)
def revise(path: Numbered) -> Response:
    """Open a new revision."""
    with services().database.session() as session:
        made = crates.revise(get(session, Crate, path.id, lock=True))
        session.add(made)
        session.flush()
        tell(session, "crate", made.id)
        return page_of(session, made.id)


@api.get("/<int:id>/report", summary="The sealed crate's readable ledger")
def report(path: Numbered) -> Response:
    """Give the report from inside the bag."""
    with services().database.session() as session:
        crate = get(session, Crate, path.id)
        if crate.bag is None:
            raise NotFound("The crate is not sealed yet.", "Seal it first.")
        file = Path(crate.bag) / "data" / "ledger.html"
    return send_file(services().folders.inside(file), mimetype="text/html", max_age=0)
