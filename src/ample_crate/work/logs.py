"""Logs as lines of JSON, each with the ids of what it is about: task, run, crate, master,
request.
"""

from __future__ import annotations

import json
import logging
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import UTC, datetime
from typing import Any

from ..core.errors import AmpleError, of_the_disk

log = logging.getLogger(__name__)
# never changed, only replaced
_about: ContextVar[dict[str, Any]] = ContextVar("about", default={})  # noqa: B039
# What they say at the level of information is of their own insides.
QUIET = ("procrastinate", "bagit", "alembic", "psycopg.pool")


@contextmanager
def about(**ids: Any) -> Iterator[None]:
    """Let every line that is logged inside carry these ids."""
    token = _about.set(
        _about.get() | {key: value for key, value in ids.items() if value is not None}
    )
    try:
        yield
    finally:
        _about.reset(token)


class Lines(logging.Formatter):
    """One line of JSON a record: {at, level, from, what, ids..., trace?}."""

    def format(self, record: logging.LogRecord) -> str:
        """Give the line."""
        line: dict[str, Any] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "from": record.name,
            "what": record.getMessage(),
            **_about.get(),
        }
        if record.exc_info:
            line["trace"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False, default=str)


def as_error(error: Exception) -> dict[str, str]:
    """Give any error as a person may read it; what nobody foresaw goes to the log in full."""
    if isinstance(error, AmpleError):
        if error.said:
            log.warning("%s Its own words: %s", error.what, error.said)
        return error.as_json()
    foreseen = of_the_disk(error) if isinstance(error, OSError) else None
    if foreseen is not None:
        log.warning("%s", error)
        return foreseen.as_json()
    log.error("unforeseen", exc_info=error)
    return AmpleError(
        f"Something unforeseen went wrong: {error}.", "See the log, then try again."
    ).as_json()


def set_up() -> None:
    """Send everything from the level of information on to standard error."""
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(Lines())
    logging.basicConfig(level=logging.INFO, handlers=[handler], force=True)
    for name in QUIET:
        logging.getLogger(name).setLevel(logging.WARNING)
