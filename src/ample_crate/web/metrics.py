"""Figures for a monitor, in the text format of Prometheus."""

from __future__ import annotations

import shutil

from flask import Flask, Response
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Gauge, generate_latest
from sqlalchemy import func, select, text

from ..store.models import Run
from ..store.past import past
from .health import ALIVE_FOR, WORKERS
from .services import services

JOBS = text(
    "select queue_name, status::text, count(*) from procrastinate_jobs group by queue_name, status"
)


def add_to(app: Flask) -> None:
    """Give the figures at /metrics, which is no part of the API's document."""
    app.add_url_rule("/metrics", "metrics", _metrics)


def _metrics() -> Response:
    figures = CollectorRegistry()
    jobs = Gauge("ample_jobs", "Jobs of the engine", ["queue", "status"], registry=figures)
    runs = Gauge("ample_runs", "Runs", ["state"], registry=figures)
    speed = Gauge(
        "ample_encode_speed",
        "Luma samples encoded a second, over the last runs",
        ["codec"],
        registry=figures,
    )
    workers = Gauge("ample_workers", "Workers with a sign of life", registry=figures)
    free = Gauge("ample_disk_free_bytes", "Bytes free on the disk of the media", registry=figures)
    with services().database.session() as session:
        for queue, status, count in session.execute(JOBS):
            jobs.labels(queue, status).set(count)
        for state, count in session.execute(select(Run.state, func.count()).group_by(Run.state)):
            runs.labels(state).set(count)
        for codec, millions in past(session).encode.items():
            speed.labels(codec).set(millions * 1e6)
        workers.set(session.scalar(WORKERS, {"seconds": ALIVE_FOR}) or 0)
    free.set(shutil.disk_usage(services().folders.media).free)
    return Response(generate_latest(figures), content_type=CONTENT_TYPE_LATEST)
