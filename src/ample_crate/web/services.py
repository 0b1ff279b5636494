"""What requests work with, and how they answer."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, cast

from flask import Response, current_app, jsonify
from pydantic_core import to_json

from ..media.viewer import Viewer
from ..store.database import Database
from ..store.places import Folders
from .memo import Memo
from .news import News


@dataclass(frozen=True)
class Services:
    """What requests work with."""

    database: Database
    folders: Folders
    viewer: Viewer
    news: News
    memo: Memo = field(default_factory=Memo)


def services() -> Services:
    """Give what requests of the current application work with."""
    return cast(Services, current_app.extensions["ample"])


def problem(
    status: int, title: str, detail: str, way_out: str = "", code: str = "error"
) -> Response:
    """Give an error as problem details (RFC 9457)."""
    body = {
        "type": f"urn:ample-crate:{code}",
        "title": title,
        "status": status,
        "detail": detail,
        "way_out": way_out,
    }
    response = jsonify(body)
    response.status_code = status
    response.content_type = "application/problem+json"
    return response


def give(model: Any) -> Response:
    """Give a model as JSON."""
    return give_text(written(model))


def written(model: Any) -> str:
    """Write a model as JSON."""
    return str(model.model_dump_json(by_alias=True))


def give_text(text: str | bytes) -> Response:
    """Give what is JSON already."""
    return Response(text, mimetype="application/json")


def give_csv(text: str, name: str) -> Response:
    """Give a table to be kept under a name."""
    # With a mark, by which spreadsheets know UTF-8.
    answer = Response("\ufeff" + text, mimetype="text/csv")
    answer.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


def as_plain(document: dict[str, Any]) -> bytes:
    """Write a document that has the shape of its model already, without holding it against the
    model.
    """
    return to_json(document, inf_nan_mode="null")
