"""Whether the application is well: its database, its workers, its disk, its sandbox."""

from __future__ import annotations

import os
import shutil
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy import text

from ..media import confine
from ..store.database import AWAY
from .schemas import Health
from .services import give, services

api = APIBlueprint("health", __name__, url_prefix="/api/health", abp_tags=[Tag(name="health")])
ALIVE_FOR = 30  # seconds since a worker's last sign of life


@api.get("", summary="Whether the application is well", responses={200: Health, 503: Health})
def health() -> Response:
    """Say whether the application is well; 503 while its database is away."""
    workers, database = 0, "away"
    try:
        with services().database.session() as session:
            workers = int(session.scalar(WORKERS, {"seconds": ALIVE_FOR}) or 0)
            database = "here"
    except AWAY:
        pass
    disk = shutil.disk_usage(services().folders.media)
    said: dict[str, Any] = {
        "status": "well" if database == "here" and workers else "unwell",
        "instance": os.environ.get("AMPLE_INSTANCE", ""),
        "database": database,
        "workers": workers,
        "sandbox": confine.way(),
        "disk_free": disk.free,
        "disk_total": disk.total,
    }
    answer = give(Health(**said))
    if database == "away":
        answer.status_code = 503
        answer.headers["Retry-After"] = "2"
    return answer


WORKERS = text(
    "select count(*) from procrastinate_workers where last_heartbeat > now() - make_interval(secs "
    "=> :seconds)"
)
