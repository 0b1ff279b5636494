"""Questions asked of the database in more than one place."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import TypeVar

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from ..core.errors import NotFound
from ..core.plan import Plan
from ..core.spec import Recipient as RecipientDocument
from ..core.spec import Spec
from .models import Base, Crate, Deliverable, Master, NamedSpan, Recipient, Run, SpecVersion

Row = TypeVar("Row", bound=Base)
NAMES = {NamedSpan: "range", Master: "master", Crate: "crate", Deliverable: "deliverable", Run: "run"}


def get(session: Session, table: type[Row], id: int, lock: bool = False) -> Row:
    """Get a row by its id, locked against others where asked.

    Raises:
        NotFound: there is none.
    """
    row = session.get(table, id, with_for_update=lock)
    if row is None:
        name = NAMES.get(table, "row")  # type: ignore[call-overload]
        raise NotFound(f"There is no {name} {id}.", "It may have been removed; go back to the list.")
    return row


def keep_specs(session: Session, recipients: Sequence[RecipientDocument], specs: Sequence[Spec]) -> None:
    """Bring the register up to the spec files that ship; versions that crates use stay as they are."""
    for recipient in recipients:
        session.merge(
            Recipient(key=recipient.key, name=recipient.name, kind=recipient.kind, document=recipient.model_dump(mode="json"))
        )
    session.flush()
    used = {(crate_spec, version) for crate_spec, version in session.execute(select(Crate.spec_id, Crate.spec_version).distinct())}
    for spec in specs:
        if (spec.id, spec.version) in used:
            continue  # a crate was planned with this version: what it was judged by must not change under it
        session.merge(
            SpecVersion(
                id=spec.id, version=spec.version, recipient_key=spec.recipient,
                document=spec.model_dump(mode="json", by_alias=True, exclude_none=True),
            )
        )  # fmt: skip


def specs_in_force(session: Session) -> list[SpecVersion]:
    """List the newest version of every spec."""
    newest = select(SpecVersion.id, func.max(SpecVersion.version).label("version")).group_by(SpecVersion.id).subquery()
    query = select(SpecVersion).join(
        newest, (SpecVersion.id == newest.c.id) & (SpecVersion.version == newest.c.version)
    )
    return list(session.scalars(query.options(selectinload(SpecVersion.recipient)).order_by(SpecVersion.id)))


def past_speeds(session: Session) -> dict[str, float]:
    """Give millions of luma samples a second by codec over the last twenty finished runs of each."""
    totals: dict[str, list[float]] = defaultdict(lambda: [0.0, 0.0, 0.0])
    for run in session.scalars(select(Run).where(Run.state == "done").order_by(Run.id.desc()).limit(60)):
        plan = run.route.get("plan")
        if plan is None or not run.encode_seconds:
            continue
        made = Plan.model_validate(plan)
        sums = totals[made.picture.codec]
        if sums[2] < 20:
            sums[0] += work_of(made) / 1e6
            sums[1] += run.encode_seconds
            sums[2] += 1
    return {codec: samples / seconds for codec, (samples, seconds, _) in totals.items() if seconds > 0}


def work_of(plan: Plan) -> float:
    """Give the luma samples that an encode puts out, counting each pass."""
    return float(plan.seconds * plan.picture.rate) * plan.picture.width * plan.picture.height * plan.picture.passes


def next_number(session: Session) -> int:
    """Give the next crate number."""
    return int(session.scalar(select(func.coalesce(func.max(Crate.number), 100))) or 100) + 1
