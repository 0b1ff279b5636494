"""The report on a finished file: as a page that prints well, on paper, as data, and as a table."""

from __future__ import annotations

import base64
import csv
import io
import json
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any, Literal

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, Refused
from ..core.quality import Likeness, summary
from ..core.specs import naming
from ..handover import paper, report
from ..store import masters
from ..store.models import Run
from ..store.queries import get
from ..work import reporting
from ..work.pairs import Pair, pair_of
from ..work.reporting import Told
from .schemas import In, Numbered
from .services import services

api = APIBlueprint("reports", __name__, url_prefix="/api/runs", abp_tags=[Tag(name="runs")])

SHOWN, WIDTH = 6, 480  # moments with pictures, and samples across each
KINDS = {
    "html": "text/html; charset=utf-8",
    "pdf": "application/pdf",
    "json": "application/json",
    "csv": "text/csv; charset=utf-8",
}
Pictures = Callable[[int], dict[str, str]]


class ReportQuery(In):
    """How a report is written down."""

    kind: Literal["html", "pdf", "json", "csv"] = "html"


@api.get("/<int:id>/report", summary="The report on a finished file")
def show(path: Numbered, query: ReportQuery) -> Response:
    """Give the ledger of what a run made, how it was made, and how near it stays to its master."""
    with services().database.session() as session:
        run = get(session, Run, path.id)
        told = reporting.of(session, run)
        pictures = _pictures(session, run, 0 if told.found is None else told.found.shift)
    content = _written(told, query.kind, pictures)
    answer = Response(content, content_type=KINDS[query.kind])
    if query.kind != "html":
        name = f"{naming.stem(told.entry['file'])}.report.{query.kind}"
        answer.headers.set("Content-Disposition", "attachment", filename=name)
    return answer


def _written(told: Told, kind: str, pictures: Pictures) -> str | bytes:
    if kind == "csv":
        return _table(told.found)
    if kind == "json":
        return json.dumps(told.entry | _quality(told, None), indent=2, ensure_ascii=False)
    html = report.page(told.title, [told.entry | _quality(told, pictures)])
    return paper.pdf(html) if kind == "pdf" else html


def _quality(told: Told, pictures: Pictures | None) -> dict[str, Any]:
    found = told.found
    if found is None:
        return {}
    shown = told.moments if pictures is None else _illustrated(told.moments, pictures)
    return {
        "quality": {
            "frames": found.frames,
            "identical": found.identical,
            **summary(found.of_programme),
            "curve": {key: list(curve) for key, curve in found.curves.items()},
            "moments": shown,
            "notes": list(found.notes),
        }
    }


def _illustrated(moments: list[dict[str, Any]], pictures: Pictures) -> list[dict[str, Any]]:
    return [
        {**one, "pictures": pictures(one["frame"]) if n < SHOWN else {}}
        for n, one in enumerate(moments)
    ]


def _pictures(session: Session, run: Run, shift: int) -> Pictures:
    """Give what shows a frame of a file and of what its route gives, as far as both are there.

    Args:
        session: of the store.
        run: that made the file.
        shift: frames that the file begins later than the route.
    """
    try:
        pair, mark = pair_of(run), masters.mark(run.deliverable.master)
    except Refused:
        return lambda frame: {}
    return lambda frame: _shown(pair, mark, frame, frame - shift)


def _shown(pair: Pair, mark: str, frame: int, place: int) -> dict[str, str]:
    viewer, inside = services().viewer, services().folders.inside
    inputs = [inside(path) for path in pair.inputs]
    look = {"width": WIDTH, "mark": mark}
    made: dict[str, str] = {}
    # A picture that cannot be had keeps no report back.
    with suppress(AmpleError, OSError):
        made["what the route gives"] = _address(viewer.planned(inputs, pair.plan, place, look))
        made["the file"] = _address(viewer.picture(inside(Path(pair.file)), frame, WIDTH))
    return made


def _address(jpeg: bytes) -> str:
    return f"data:image/jpeg;base64,{base64.b64encode(jpeg).decode()}"


def _table(found: Likeness | None) -> str:
    if found is None:
        raise Refused(
            "There are no figures of each frame yet.", "Measure the quality first, side by side."
        )
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["frame", *found.curves])
    for place in range(found.frames):
        writer.writerow([found.of_file(place), *found.at(place).values()])
    return out.getvalue()
