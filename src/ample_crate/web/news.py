"""News from the database to browsers: one listener a process, one queue a browser. All of it runs
in one event loop.
"""

from __future__ import annotations

import asyncio
import contextlib

import psycopg

from ..store.database import CHANNEL

MOST, AGAIN = (
    1000,
    1.0,
)  # pieces of news that wait for a browser; seconds before the line is tried again


class News:
    """Listens on the database's channel, and starts to when the first browser asks."""

    def __init__(self, url: str) -> None:
        self._url = url
        self._queues: set[asyncio.Queue[str]] = set()
        self._listener: asyncio.Task[None] | None = None

    def subscribe(self) -> asyncio.Queue[str]:
        """Give a queue that fills with news; called in the event loop."""
        mine: asyncio.Queue[str] = asyncio.Queue(maxsize=MOST)
        self._queues.add(mine)
        if self._listener is None:
            self._listener = asyncio.ensure_future(self._listen())
        return mine

    def unsubscribe(self, mine: asyncio.Queue[str]) -> None:
        """Give a queue back."""
        self._queues.discard(mine)

    async def _listen(self) -> None:
        while True:
            with contextlib.suppress(psycopg.Error):
                async with await psycopg.AsyncConnection.connect(
                    self._url, autocommit=True
                ) as connection:
                    await connection.execute(f"listen {CHANNEL}")
                    # News may have been missed while the line was down.
                    self._spread('{"topic": "all", "id": 0}')
                    async for note in connection.notifies():
                        self._spread(note.payload)
            await asyncio.sleep(AGAIN)

    def _spread(self, payload: str) -> None:
        for one in self._queues:
            with contextlib.suppress(asyncio.QueueFull):
                one.put_nowait(payload)
