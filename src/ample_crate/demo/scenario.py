"""The demo's crates: the invented house Quillstone and its programme Lichen Hours."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import select

from ..store.database import Database, tell
from ..store.models import Crate, Deliverable, Master
from ..store.queries import next_number
from ..work.engine import Desk

HOUSE = "Quillstone"
# title, spec, masters, due in
CRATES: tuple[tuple[str, str, tuple[str, ...], timedelta], ...] = (
    ("Lichen Hours, episode 3, for transmission", "skerry-sd625", ("lichen_hours_ep03_cut.mxf",), timedelta(hours=3)),
    ("Lichen Hours trailer for the portfolio", "pinfold-720p", ("lichen_hours_trailer.mov",), timedelta(hours=26)),
    ("Foyer loop: fog, rain and trailer", "tannery-list",
     ("lichen_hours_fog_51.mp4", "lichen_hours_rain_50p.mp4", "lichen_hours_trailer.mov"), timedelta(days=4)),
)  # fmt: skip


def load(database: Database, desk: Desk, masters: list[Path]) -> None:
    """Put the masters and crates in place, once; a demo that was worked on is left as it is."""
    now = datetime.now(UTC)
    with database.session() as session:
        if session.scalars(select(Crate).limit(1)).first() is not None:
            return
        rows: dict[str, Master] = {}
        for path in masters:
            row = session.scalars(select(Master).where(Master.path == str(path.resolve()))).first()
            if row is None:
                row = Master(name=path.name, path=str(path.resolve()), origin="intake", size=path.stat().st_size)
                session.add(row)
            rows[path.name] = row
        session.flush()
        for title, spec, names, due in CRATES:
            number = next_number(session)
            crate = Crate(
                number=number, title=title, recipient_key=spec.split("-")[0], spec_id=spec, spec_version=1,
                due_at=(now + due).replace(minute=0, second=0, microsecond=0),
            )  # fmt: skip
            crate.deliverables = [Deliverable(master=rows[n], position=i) for i, n in enumerate(names)]
            session.add(crate)
            session.flush()
        ids = [row.id for row in rows.values()]
        tell(session, "all", 0)
    for id in ids:
        desk.order("take_in", id)
