"""Live updates as server-sent events."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint  # type: ignore[attr-defined]

api = APIBlueprint("events", __name__, url_prefix="/api/events")


@api.get("", summary="Live updates: {topic, id, ...} as server-sent events")
def stream() -> Response:
    """Say that there are news; what stands before the application tells them (`front`)."""
    return Response(
        mimetype="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )
