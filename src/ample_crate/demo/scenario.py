"""The demo's crates: the invented house Quillstone and its programme Lichen Hours."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from fractions import Fraction
from pathlib import Path

from sqlalchemy import select

from ..core.specs.order import FORM
from ..handover.bag import highest_number
from ..store import masters as masters_
from ..store import specs
from ..store.database import Database, tell
from ..store.models import Crate, Deliverable, Master, NamedSpan
from ..store.places import Folders
from ..store.queries import next_number
from ..work import intake, standing
from ..work.orders import order
from . import oddments

SCAN = "lichen_roll2_[0086400-0086435].dpx"
HOUSE, PRODUCTION = "Quillstone", "Lichen Hours"
EXTRAS: tuple[tuple[str, tuple[str, ...], Fraction], ...] = (
    ("", (oddments.LOOP, oddments.STILL, oddments.MIX, oddments.TAPE), Fraction(25)),
    (oddments.SCAN, (SCAN,), Fraction(24)),
)
LESSONS = """
id: harbour-lessons
title: Lessons for the portal
source:
  folder: lessons
  names: ["*.mov", "*.mp4"]
spec: harbour-course
name:
  pattern: "{lesson}_{*}"
  fields: {lesson: "{lesson}"}
due: {days: 2}
limits: {at_once: 2, bytes_a_day: 20 GB}
stops_for: [motion.rate]
"""
# title, spec, masters, due in
CRATES: tuple[tuple[str, str, tuple[str, ...], timedelta], ...] = (
    (
        "Lichen Hours, episode 3, for transmission",
        "skerry-sd625",
        ("lichen_hours_ep03_cut.mxf",),
        timedelta(hours=3),
    ),
    (
        "Lichen Hours trailer for the portfolio",
        "pinfold-720p",
        ("lichen_hours_trailer.mov",),
        timedelta(hours=26),
    ),
    (
        "Foyer loop: fog, rain and trailer",
        "tannery-list",
        ("lichen_hours_fog_51.mp4", "lichen_hours_rain_50p.mp4", "lichen_hours_trailer.mov"),
        timedelta(days=4),
    ),
    (
        "Lichen Hours, episode 3, for the valley",
        "fellside-1080p",
        ("lichen_hours_ep03_cut.mxf",),
        timedelta(days=5),
    ),
    (
        "How a lantern is lit: lesson 4",
        "harbour-course",
        ("lichen_hours_trailer.mov",),
        timedelta(days=6),
    ),
    (
        "Fog loop for the stage",
        "tannery-stage",
        (oddments.LOOP,),
        timedelta(days=7),
    ),
    (
        "Title card for the foyer wall",
        "tannery-stills",
        (oddments.STILL,),
        timedelta(days=7, hours=2),
    ),
    (
        "Lichen Hours trailer for the web page",
        "pinfold-webm",
        ("lichen_hours_trailer.mov",),
        timedelta(days=8),
    ),
    (
        "From the tape shelf, for transmission",
        "skerry-d10-625",
        (oddments.TAPE,),
        timedelta(days=9),
    ),
    (
        "Fog with surround",
        "owlery-uhd",
        ("lichen_hours_fog_51.mp4",),
        timedelta(days=10),
    ),
    (
        "Lichen Hours, episode 3, on disc",
        "ostler-dvd-625",
        ("lichen_hours_ep03_cut.mxf",),
        timedelta(days=12),
    ),
    (
        "Roll 2 for the vault",
        "brackwater-scan",
        (SCAN,),
        timedelta(days=14),
    ),
    (
        "The mix of episode 3 for the vault",
        "brackwater-sound",
        (oddments.MIX,),
        timedelta(days=14, hours=1),
    ),
)


def load(database: Database, folders: Folders, masters: list[Path]) -> None:
    """Put the masters and crates in place, once; a demo that was worked on is left as it is."""
    now = datetime.now(UTC)
    with database.session() as session:
        if session.scalars(select(Crate).limit(1)).first() is not None:
            return
        rows: dict[str, Master] = {}
        for path in masters:
            row = session.scalars(select(Master).where(Master.path == str(path.resolve()))).first()
            if row is None:
                row = masters_.add(
                    session, path.resolve(), path.name, "intake", production=PRODUCTION
                )
                order(session, "ingest", row.id)
            rows[path.name] = row
        for folder, names, rate in EXTRAS:
            place = intake.folder_of(folders, 0, folder)
            for row in intake.take(session, folders, place, list(names), rate, PRODUCTION):
                rows[row.name] = row
        session.flush()
        for title, spec, names, due in CRATES:
            number = next_number(session, highest_number(folders.bags, folders.inboxes))
            crate = Crate(
                number=number,
                title=title,
                recipient_key=spec.split("-")[0],
                spec_id=spec,
                spec_version=specs.get(session, spec).version,
                due_at=(now + due).replace(minute=0, second=0, microsecond=0),
            )
            crate.deliverables = [
                Deliverable(master=rows[n], position=i) for i, n in enumerate(names)
            ]
            session.add(crate)
            session.flush()
        standing.switch(session, standing.keep(session, FORM.parse(LESSONS, "The order")), True)
        (folders.intake[0] / "lessons").mkdir(exist_ok=True)
        tape = rows[oddments.TAPE]
        session.add(NamedSpan(master_id=tape.id, name="lantern walk", first=30, frames=50))
        tell(session, "all", 0)
