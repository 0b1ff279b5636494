"""What a worker finds out when a person asks, as it is told: where it stands."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from ..store.studied import Studied
from .schemas import ErrorOut, Out, Progress


class StudyOut(Out):
    """Where it stands; `state` is "none" where nobody asked."""

    id: int | None
    state: str
    progress: Progress | None
    error: ErrorOut | None
    at: datetime | None


def standing(row: Studied | None) -> dict[str, Any]:
    """Give where it stands, by the names of `StudyOut`."""
    if row is None:
        return {"id": None, "state": "none", "progress": None, "error": None, "at": None}
    return {
        "id": row.id,
        "state": row.state,
        "progress": None if row.progress is None else Progress.model_validate(row.progress),
        "error": None if row.error is None else ErrorOut.model_validate(row.error),
        "at": row.at,
    }
