"""The engine, sessions, migrations and the news channel."""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import Engine, create_engine, text
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.orm import Session, sessionmaker

CHANNEL = "ample_news"
# What is raised while the database is away: restarting, or not to be reached.
AWAY = (OperationalError, InterfaceError)
PATIENCE, TRIED_EVERY = 900.0, 0.5  # seconds
Result = TypeVar("Result")


class Database:
    """One database: `session()` commits at the end of its block, or rolls back."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine: Engine = create_engine(
            url.replace("postgresql://", "postgresql+psycopg://", 1),
            pool_size=8,
            max_overflow=16,
            pool_pre_ping=True,
        )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """Open a session, commit at the end of the block."""
        with self._sessions() as session, session.begin():
            yield session

    @contextmanager
    def at_one_moment(self) -> Iterator[Session]:
        """Open a session all of whose questions are answered as of its first: what is read of
        several tables fits together.
        """
        with self.session() as session:
            session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
            yield session

    def lasting(self, work: Callable[[Session], Result], seconds: float = PATIENCE) -> Result:
        """Do something in a session of its own, again and again while the database is away.

        Args:
            work: what to do; it may be done more than once, but is committed once.
            seconds: how long to wait for the database to come back.

        Raises:
            OperationalError, InterfaceError: it did not come back in that time.
        """
        end = time.monotonic() + seconds
        while True:
            try:
                with self.session() as session:
                    return work(session)
            except AWAY:
                if time.monotonic() > end:
                    raise
            time.sleep(TRIED_EVERY)

    def migrate(self) -> None:
        """Bring the schema up to date."""
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        config.attributes["engine"] = self.engine
        command.upgrade(config, "head")

    def dispose(self) -> None:
        """Close all connections."""
        self.engine.dispose()


def tell(session: Session, topic: str, id: int, **more: Any) -> None:
    """Tell everyone who listens that something changed, when the session commits.

    Args:
        session: the session that changes it.
        topic: "master", "crate" or "run".
        id: which.
        more: small figures to show without asking again.
    """
    body = json.dumps({"topic": topic, "id": id, **more})
    session.execute(text("select pg_notify(:channel, :body)"), {"channel": CHANNEL, "body": body})
