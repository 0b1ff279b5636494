"""The deliverables of a crate: taken out, chosen for, looked at before they are made, excepted."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]

from ..core.errors import NotFound
from ..core.facts.span import Span
from ..core.planning.plan import Plan
from ..store import masters
from ..store.database import tell
from ..store.models import Deliverable, Master
from ..store.queries import get
from ..work import choosing, cuts, origins, sealing, status, undoing
from ..work.acts import nothing_runs, open_crate
from . import pictures
from .crate_schemas import Choose, CratePage, LayOver, SignOff, TakeSound
from .crates import page_of
from .schemas import FramePath, Numbered, PlannedQuery
from .services import services

api = APIBlueprint(
    "deliverables",
    __name__,
    url_prefix="/api/crates/deliverables",
    abp_tags=[Tag(name="crates")],
)


@api.delete("/<int:id>", summary="Take a deliverable out", responses={200: CratePage})
def take_out(path: Numbered) -> Response:
    """Take a deliverable out of its open crate."""
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        crate = open_crate(session, one.crate_id)
        nothing_runs(one.runs)
        crate.deliverables.remove(one)
        tell(session, "crate", crate.id)
        return page_of(session, crate.id)


@api.patch(
    "/<int:id>", summary="Choose a value in the room the spec leaves", responses={200: CratePage}
)
def choose(path: Numbered, body: Choose) -> Response:
    """Choose, or go back to what is planned; another alternative takes back what does not fit it,
    and says so.
    """
    cut = _cut(path.id, body)
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        crate = open_crate(session, one.crate_id)
        one.cut = cut or one.cut
        before = undoing.state(one)
        gone = choosing.choose(one, body.property, body.value)
        undoing.remember(one, before)
        tell(session, "crate", crate.id)
        return page_of(session, crate.id, gone)


@api.put("/<int:id>/sound", summary="Take the sound of another master", responses={200: CratePage})
def take_sound(path: Numbered, body: TakeSound) -> Response:
    """Take another master's sound, or with none the master's own again; choices that do not fit it
    are taken back, and the answer says so.
    """
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        crate = open_crate(session, one.crate_id)
        nothing_runs(one.runs)
        sound = None if body.master is None else get(session, Master, body.master)
        before = undoing.state(one)
        gone = choosing.take_sound(one, sound)
        undoing.remember(one, before)
        tell(session, "crate", crate.id)
        return page_of(session, crate.id, gone)


@api.put(
    "/<int:id>/under",
    summary="Lay transparency over another master's first picture",
    responses={200: CratePage},
)
def lay_over(path: Numbered, body: LayOver) -> Response:
    """Lay transparency over another master's first picture, or with none over what was before."""
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        crate = open_crate(session, one.crate_id)
        nothing_runs(one.runs)
        under = None if body.master is None else get(session, Master, body.master)
        before = undoing.state(one)
        choosing.take_under(one, under)
        undoing.remember(one, before)
        tell(session, "crate", crate.id)
        return page_of(session, crate.id)


def _cut(deliverable: int, body: Choose) -> dict[str, Any] | None:
    """Look where a copy of a range begins, where that is asked for and not known yet."""
    with services().database.session() as session:
        one = get(session, Deliverable, deliverable)
        rate = cuts.rate_of(one)
        if rate is None or one.span is None or not cuts.wanted(one, body.property, body.value):
            return None
        path, sha256 = Path(one.master.path), one.master.sha256
        span = Span.model_validate(one.span)
    return cuts.find(path, sha256, span, rate)


@api.get(
    "/<int:id>/planned/<int:frame>",
    summary="A frame of the master as the route will show it, as JPEG",
)
def planned(path: FramePath, query: PlannedQuery) -> Response:
    """Give a frame through the route's own chain; frames are counted from the master's first."""
    files, plan, mark = _planned(path.id)
    return pictures.planned(files, plan, plan.place_of(path.frame), query, mark)


@api.get(
    "/<int:id>/planned-places/<int:frame>",
    summary="A frame of what will be made, as JPEG",
)
def planned_place(path: FramePath, query: PlannedQuery) -> Response:
    """Give a frame through the route's own chain; frames are counted from the first made."""
    files, plan, mark = _planned(path.id)
    return pictures.planned(files, plan, path.frame, query, mark)


def _planned(id: int) -> tuple[list[Path], Plan, str]:
    with services().database.session() as session:
        one = get(session, Deliverable, id)
        plan = status.shown(one)
        if plan is None or one.master.state not in {"measuring", "ready"}:
            raise NotFound(
                "There is no route yet that could show a picture.",
                "See what the page says is missing.",
            )
        return origins.paths(one), plan, masters.mark(one.master)


@api.post("/<int:id>/exceptions", summary="Sign off an exception", responses={200: CratePage})
def sign_off(path: Numbered, body: SignOff) -> Response:
    """Sign off a broken requirement of the finished file."""
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        crate = open_crate(session, one.crate_id)
        item = status.item_of(one)
        made = sealing.sign_off(item, body.property, body.reason, body.by, datetime.now(UTC))
        one.exceptions = [*one.exceptions, made]
        tell(session, "crate", crate.id)
        return page_of(session, crate.id)
