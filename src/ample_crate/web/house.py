"""What requests work with, and how they answer."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, cast

from flask import Response, current_app, jsonify

from ..media.ops import Viewer
from ..store.database import Database
from ..store.places import Folders
from .news import News


@dataclass(frozen=True)
class House:
    """What requests work with."""

    database: Database
    folders: Folders
    viewer: Viewer
    news: News


def house() -> House:
    """Give the house of the current application."""
    return cast(House, current_app.extensions["ample"])


def problem(status: int, title: str, detail: str, way_out: str = "", code: str = "error") -> Response:
    """Give an error as problem details (RFC 9457)."""
    body = {"type": f"urn:ample-crate:{code}", "title": title, "status": status, "detail": detail, "way_out": way_out}
    response = jsonify(body)
    response.status_code = status
    response.content_type = "application/problem+json"
    return response


def give(model: Any) -> Response:
    """Give a model as JSON."""
    return jsonify(model.model_dump(mode="json", by_alias=True))
