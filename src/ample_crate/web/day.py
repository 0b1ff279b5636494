"""The day sheet: whose turn it is, who works, what was made."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]

from ..core.formats import PICTURE, SOUND
from ..store.day import Worker
from ..store.queries import get
from ..work import crew, day, history, turns
from .day_schemas import (
    ChangeTurns,
    DayOut,
    History,
    HistoryPageQuery,
    HistoryQuery,
    MoveRuns,
    WantWorker,
)
from .schemas import Numbered
from .services import give, give_csv, services

api = APIBlueprint("day", __name__, url_prefix="/api", abp_tags=[Tag(name="day sheet")])


@api.get("/day", summary="The day sheet", responses={200: DayOut})
def sheet() -> Response:
    """Give the workers, and all runs on one time line."""
    return _sheet()


def _sheet() -> Response:
    with services().database.at_one_moment() as session:
        return give(DayOut.model_validate(day.sheet(session)))


@api.put("/day/rules", summary="Keep the rules by which runs wait", responses={200: DayOut})
def keep_rules(body: turns.Rules) -> Response:
    """Hold all runs or release them, and say when the night is."""
    with services().database.session() as session:
        turns.keep(session, body)
    return _sheet()


@api.post("/runs/move", summary="Put runs before another one", responses={200: DayOut})
def move(body: MoveRuns) -> Response:
    """Change the order of runs that wait."""
    with services().database.session() as session:
        turns.move(session, body.runs, body.before)
    return _sheet()


@api.patch("/runs/turns", summary="Change the turns of runs", responses={200: DayOut})
def change(body: ChangeTurns) -> Response:
    """Change the priority of runs that wait, hold them, or leave them for the night."""
    with services().database.session() as session:
        turns.change(session, body.runs, body.priority, body.held, body.night)
    return _sheet()


@api.put(
    "/workers/<int:id>/wanted",
    summary="Pause a worker, drain it or let it work",
    responses={200: DayOut},
)
def want(path: Numbered, body: WantWorker) -> Response:
    """Say what is wanted of a worker; it hears of it within some seconds."""
    with services().database.session() as session:
        crew.want(session, get(session, Worker, path.id), body.wanted)
    return _sheet()


@api.get("/runs/history", summary="Runs that have ended", responses={200: History})
def ended(query: HistoryPageQuery) -> Response:
    """List runs that have ended, the newest first."""
    with services().database.session() as session:
        wanted = _wanted(query)
        total, rows = history.found(session, wanted, query.limit, query.offset)
        kinds = history.by_codec(session, wanted)
    codecs = {key: codec.label for key, codec in PICTURE.items() if codec.made is not None}
    codecs |= {key: codec.label for key, codec in SOUND.items() if codec.made is not None}
    page = {"total": total, "rows": rows, "codecs": codecs, "by_codec": kinds}
    return give(History.model_validate(page))


@api.get("/runs/history.csv", summary="Runs that have ended, as CSV")
def ended_as_csv(query: HistoryQuery) -> Response:
    """Write runs that have ended, the newest first."""
    with services().database.at_one_moment() as session:
        rows = history.every(session, _wanted(query))
    return give_csv(history.written(rows), "runs.csv")


def _wanted(query: HistoryQuery) -> history.Wanted:
    return history.Wanted(query.words, query.state, query.codec, query.since, query.until)
