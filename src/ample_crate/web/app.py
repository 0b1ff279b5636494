"""The application factory."""

from __future__ import annotations

import secrets
from http import HTTPStatus

from flask import Flask, Response, current_app, g, request, send_from_directory
from flask_openapi3 import APIBlueprint, Info, OpenAPI  # type: ignore[attr-defined]
from pydantic import ValidationError
from sqlalchemy.exc import DataError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from werkzeug.exceptions import HTTPException

from .. import __version__
from ..core.errors import AmpleError, of_the_disk
from ..media.viewer import Viewer
from ..store.database import AWAY, Database
from ..store.places import FRONT_END, Folders
from ..work import logs
from . import metrics, trials, uploads
from .news import News
from .schemas import Problem
from .services import Services, problem

STATUS = {
    "not-found": 404,
    "refused": 409,
    "changed": 409,
    "no-room": 507,
    "bad-value": 422,
    "bad-spec": 422,
    "bad-media": 422,
    "impossible": 422,
}
POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; "
    "frame-ancestors 'self'; "
    "form-action 'self'; base-uri 'self'; object-src 'none'"
)


def _invalid(error: ValidationError) -> Response:
    first = error.errors()[0]
    where = ".".join(str(p) for p in first["loc"])
    return problem(
        422,
        "The request is not as it should be",
        f"{where}: {first['msg']}",
        "Correct the field and send it again.",
        "invalid",
    )


def blueprints() -> list[APIBlueprint]:
    """List the API's resources."""
    from . import (
        bench,
        codec_trials,
        crates,
        day,
        deliverables,
        easing,
        events,
        floor,
        foretold,
        hardness,
        health,
        hearing,
        housekeeping,
        intake,
        machines,
        many,
        masters,
        near,
        orders,
        paces,
        quality,
        receipts,
        recipients,
        rehearsals,
        reports,
        runs,
        specs,
        trimming,
        uploads,
        viewings,
    )

    return [
        m.api
        for m in (
            floor,
            day,
            hardness,
            easing,
            hearing,
            intake,
            machines,
            masters,
            near,
            orders,
            codec_trials,
            uploads,
            specs,
            recipients,
            trials,
            many,
            crates,
            deliverables,
            bench,
            trimming,
            runs,
            receipts,
            reports,
            events,
            health,
            housekeeping,
            foretold,
            paces,
            quality,
            rehearsals,
            viewings,
        )
    ]


def bare(static: bool = True) -> OpenAPI:
    """Make the application with its routes but without a house, as the OpenAPI document needs
    it.
    """
    app = OpenAPI(
        __name__,
        info=Info(title="Ample Crate", version=__version__),
        validation_error_status=422,
        validation_error_callback=_invalid,
        static_folder=None,
        doc_ui=True,
        responses={"default": Problem},
        security_schemes={},
    )
    for blueprint in blueprints():
        app.register_api(blueprint)
    if static:
        metrics.add_to(app)
        _front_end(app)
    return app


def create(database: Database, folders: Folders) -> OpenAPI:
    """Make the application."""
    app = bare()
    # # the order of a spec's clauses is its reader's
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.config["MAX_CONTENT_LENGTH"] = None
    trials.clear(folders.make())
    app.extensions["ample"] = Services(database, folders, Viewer(), News(database.url))
    app.register_error_handler(AmpleError, _refuse)
    app.register_error_handler(HTTPException, _http)
    for away in AWAY:
        app.register_error_handler(away, _away)
    app.register_error_handler(PoolTimeout, _away)
    app.register_error_handler(DataError, _unstorable)
    app.register_error_handler(RecursionError, _too_deep)
    app.register_error_handler(OSError, _disk)
    app.register_error_handler(Exception, _unforeseen)
    app.before_request(_named)
    app.teardown_request(_unnamed)
    app.before_request(_same_origin)
    app.after_request(_headers)
    app.wsgi_app = uploads.MethodOverride(app.wsgi_app)  # type: ignore[assignment]
    return app


def _refuse(error: AmpleError) -> Response:
    status = STATUS.get(error.code, 500)
    return problem(status, HTTPStatus(status).phrase, error.what, error.way_out, error.code)


def _http(error: HTTPException) -> Response:
    code = error.code or 500
    return problem(
        code,
        error.name,
        error.description or error.name,
        "Check the address and the request.",
        "http",
    )


def _away(error: Exception) -> Response:
    """Answer while the database is away; what it says of itself is for the log alone."""
    current_app.logger.warning("the database is away: %s", error)
    answer = problem(
        503,
        "Service Unavailable",
        "The database is away.",
        "It is being brought back; this is asked again by itself.",
        "away",
    )
    answer.headers["Retry-After"] = "2"
    return answer


def _unstorable(error: Exception) -> Response:
    """Answer a value that no column takes: a character that is no text, a number beyond all
    counting.
    """
    current_app.logger.info("a value cannot be stored: %s", error)
    return problem(
        422,
        "Unprocessable Entity",
        "The request has a value that cannot be stored.",
        "Leave out odd characters and numbers beyond reason.",
        "bad-value",
    )


def _too_deep(error: RecursionError) -> Response:
    return problem(
        422,
        "Unprocessable Entity",
        "The request is nested deeper than anything that is read here.",
        "Send a plainer document.",
        "too-deep",
    )


def _disk(error: OSError) -> Response:
    """Answer what a disk refused while a request was worked on."""
    told = of_the_disk(error)
    if told is None:
        return _unforeseen(error)
    current_app.logger.warning("%s", error)
    return _refuse(told)


def _unforeseen(error: Exception) -> Response:
    current_app.logger.exception("unforeseen")
    return problem(
        500,
        "Internal Server Error",
        "Something unforeseen went wrong.",
        "Nothing was changed; try again, and see the server's log.",
    )


def _named() -> None:
    """Give a request a name of its own, which every line logged for it carries."""
    g.name = secrets.token_hex(6)
    g.about = logs.about(request=g.name)
    g.about.__enter__()


def _unnamed(error: BaseException | None) -> None:
    about = g.pop("about", None)
    if about is not None:
        about.__exit__(None, None, None)


def _same_origin() -> Response | None:
    """Refuse changes that another site's page asks for, and hosts that are not ours (DNS
    rebinding).
    """
    host = (request.host or "").rsplit(":", 1)[0].strip("[]")
    if host not in {"127.0.0.1", "localhost", "::1"}:
        return problem(
            403,
            "Forbidden",
            f"This server does not answer for '{host}'.",
            "Use http://127.0.0.1.",
            "host",
        )
    origin = request.headers.get("Origin")
    if (
        origin
        and request.method not in {"GET", "HEAD", "OPTIONS"}
        and origin != request.host_url.rstrip("/")
    ):
        return problem(
            403,
            "Forbidden",
            "Another site asked for this change.",
            "Use the application's own page.",
            "origin",
        )
    return None


def _headers(response: Response) -> Response:
    response.headers.setdefault("X-Request-Id", g.get("name", ""))
    response.headers.setdefault("X-Content-Type-Options", "nosniff")
    response.headers.setdefault("Content-Security-Policy", POLICY)
    response.headers.setdefault("Cross-Origin-Opener-Policy", "same-origin")
    response.headers.setdefault("Cross-Origin-Resource-Policy", "same-origin")
    response.headers.setdefault("Referrer-Policy", "no-referrer")
    return response


def _front_end(app: Flask) -> None:
    def page(path: str = "") -> Response:
        if path.startswith(("api/", "openapi")):
            return problem(
                404,
                "Not Found",
                f"There is nothing at /{path}.",
                "See /openapi for the API.",
                "not-found",
            )
        file = FRONT_END / path
        if path and file.is_file() and file.resolve().is_relative_to(FRONT_END.resolve()):
            response = send_from_directory(FRONT_END, path)
            if path.startswith("assets/"):
                response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            packed = FRONT_END / f"{path}.gz"
            if packed.is_file() and "gzip" in request.headers.get("Accept-Encoding", ""):
                kind = response.content_type
                response = send_from_directory(FRONT_END, f"{path}.gz")
                response.content_type, response.headers["Content-Encoding"] = kind, "gzip"
                response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return response
        return send_from_directory(FRONT_END, "index.html", max_age=0)

    # Plain rules, which the OpenAPI document leaves out.
    app.add_url_rule("/", "front", page)
    app.add_url_rule("/<path:path>", "page", page)
