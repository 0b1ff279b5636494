"""News from the database to browsers: one listener a process, one queue a browser."""

from __future__ import annotations

import contextlib
import queue
import threading
import time

import psycopg

from ..store.database import CHANNEL


class News:
    """Listens on the database's channel, and starts to when the first browser asks."""

    def __init__(self, url: str) -> None:
        self._url = url
        self._queues: set[queue.Queue[str]] = set()
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    def subscribe(self) -> queue.Queue[str]:
        """Give a queue that fills with news."""
        mine: queue.Queue[str] = queue.Queue(maxsize=1000)
        with self._lock:
            self._queues.add(mine)
            if self._thread is None:
                self._thread = threading.Thread(target=self._listen, daemon=True, name="news")
                self._thread.start()
        return mine

    def unsubscribe(self, mine: queue.Queue[str]) -> None:
        """Give a queue back."""
        with self._lock:
            self._queues.discard(mine)

    def _listen(self) -> None:
        while True:
            try:
                with psycopg.connect(self._url, autocommit=True) as connection:
                    connection.execute(f"listen {CHANNEL}")
                    # News may have been missed while the line was down.
                    self._spread('{"topic": "all", "id": 0}')
                    for note in connection.notifies():
                        self._spread(note.payload)
            except psycopg.Error:
                time.sleep(1)

    def _spread(self, payload: str) -> None:
        with self._lock:
            for one in self._queues:
                with contextlib.suppress(queue.Full):
                    one.put_nowait(payload)
