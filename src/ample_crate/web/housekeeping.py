"""Housekeeping: the disk, what takes it, what bounds it, and the daily tidying."""

from __future__ import annotations

import shutil

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy import func, select, text

from ..store.models import Tidying
from ..work import housekeeping
from ..work.orders import order
from .health import ALIVE_FOR, WORKERS
from .schemas import HoldingOut, HousekeepingOut, TidyingOut
from .services import give, services

api = APIBlueprint(
    "housekeeping", __name__, url_prefix="/api/housekeeping", abp_tags=[Tag(name="housekeeping")]
)
SHOWN = 10
JOBS = text("select status::text, count(*) from procrastinate_jobs group by status order by status")


@api.get("", summary="What takes room, and what bounds it", responses={200: HousekeepingOut})
def page() -> Response:
    """Give the disk, what each thing takes, the work that waits, and the last tidyings."""
    return _page()


def _page() -> Response:
    folders = services().folders
    disk = shutil.disk_usage(folders.media)
    with services().database.session() as session:
        rows = session.scalars(select(Tidying).order_by(Tidying.id.desc()).limit(SHOWN)).all()
        workers = int(session.scalar(WORKERS, {"seconds": ALIVE_FOR}) or 0)
        jobs = {str(status): int(count) for status, count in session.execute(JOBS)}
        database = int(session.scalar(select(func.pg_database_size(func.current_database()))) or 0)
        tidyings = [TidyingOut(at=row.at, **row.document) for row in rows]
    return give(
        HousekeepingOut(
            disk_free=disk.free,
            disk_total=disk.total,
            place=str(folders.media),
            database_bytes=database,
            workers=workers,
            waiting=jobs.get("todo", 0),
            at_work=jobs.get("doing", 0),
            tidyings=tidyings,
            holdings=[HoldingOut.model_validate(one) for one in housekeeping.holdings(folders)],
        )
    )


@api.post("/tidy", summary="Tidy now", responses={200: HousekeepingOut})
def tidy() -> Response:
    """Order the tidying that is done daily anyway."""
    with services().database.session() as session:
        order(session, "tidy", 0)
    return _page()
