"""Live updates as server-sent events."""

from __future__ import annotations

import queue
from collections.abc import Iterator

from flask import Response
from flask_openapi3 import APIBlueprint  # type: ignore[attr-defined]

from .house import house

api = APIBlueprint("events", __name__, url_prefix="/api/events")
QUIET = 15.0  # seconds between signs of life


@api.get("", summary="Live updates: {topic, id, ...} as server-sent events")
def stream() -> Response:
    """Stream what changes."""
    news = house().news
    mine = news.subscribe()

    def lines() -> Iterator[str]:
        try:
            yield "retry: 1500\n\n"
            while True:
                try:
                    yield f"data: {mine.get(timeout=QUIET)}\n\n"
                except queue.Empty:
                    yield ": still here\n\n"
        finally:
            news.unsubscribe(mine)

    return Response(lines(), mimetype="text/event-stream", headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"})
