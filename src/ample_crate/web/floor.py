"""The floor."""

from __future__ import annotations

from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint  # type: ignore[attr-defined]
from sqlalchemy import select

from ..core.plan import Route
from ..store.models import Crate, Deliverable, Master, Run
from ..store.queries import past_speeds
from ..work import crates
from . import views
from .house import give, house
from .schemas import Floor, RunningOut

api = APIBlueprint("floor", __name__, url_prefix="/api/floor")
SHOWN_DONE = 12


@api.get("", summary="Crates due, runs going on, what needs a person", responses={200: Floor})
def floor() -> Response:
    """Give the floor."""
    with house().database.session() as session:
        speeds = past_speeds(session)
        rows = list(session.scalars(select(Crate).where(Crate.state != "received", Crate.removed_at.is_(None)).order_by(Crate.due_at, Crate.id)))
        rows += session.scalars(select(Crate).where(Crate.state == "received").order_by(Crate.id.desc()).limit(SHOWN_DONE))
        newest = {number: max(c.revision for c in rows if c.number == number) for number in {c.number for c in rows}}
        shown = [views.crate(c, speeds) for c in rows if c.revision == newest[c.number]]
        running = [
            RunningOut(
                run=views.run(r), crate=r.deliverable.crate_id, number=r.deliverable.crate.number,  # type: ignore[arg-type]
                title=r.deliverable.crate.title, name=r.deliverable.master.name, codec=_codec(r),
            )
            for r in session.scalars(select(Run).where(Run.state.in_(["queued", "running", "stopping"])).order_by(Run.id))
        ]  # fmt: skip
        attention: list[dict[str, Any]] = []
        for failed in session.scalars(select(Master).where(Master.state == "failed").order_by(Master.id.desc()).limit(20)):
            said = failed.error or {}
            attention.append({"kind": "master", "id": failed.id, "title": failed.name, "what": said.get("what", "")})
        for one in shown:
            if one.next_step == "look":
                attention.append({"kind": "crate", "id": one.id, "title": f"{one.number} {one.title}", "what": "A finished file breaks its spec."})
            elif one.next_step == "plan" and one.blocked:
                attention.append({"kind": "crate", "id": one.id, "title": f"{one.number} {one.title}", "what": one.blocked})
            elif one.error is not None:
                attention.append({"kind": "crate", "id": one.id, "title": f"{one.number} {one.title}", "what": one.error.what})
        failed_runs = select(Run).join(Deliverable).join(Crate).where(Run.state == "failed", Crate.removed_at.is_(None))
        for run in session.scalars(failed_runs.order_by(Run.id.desc()).limit(20)):
            if run.deliverable.runs[-1].id == run.id:
                attention.append({"kind": "crate", "id": run.deliverable.crate_id, "title": run.deliverable.master.name, "what": (run.error or {}).get("what", "")})
        return give(Floor(crates=shown, running=running, attention=attention, now=crates.now()))


def _codec(run: Run) -> str:
    plan = Route.model_validate(run.route).plan
    return plan.picture.codec if plan else ""
