"""The engine, sessions, migrations and the news channel."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session, sessionmaker

CHANNEL = "ample_news"


class Database:
    """One database: `session()` commits at the end of its block, or rolls back."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine: Engine = create_engine(
            url.replace("postgresql://", "postgresql+psycopg://", 1), pool_size=8, max_overflow=16, pool_pre_ping=True
        )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """Open a session, commit at the end of the block."""
        with self._sessions() as session, session.begin():
            yield session

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
