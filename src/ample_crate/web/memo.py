"""Answers that stand for as long as nothing in the database changes.

PostgreSQL names a snapshot by the transactions that it shows. As long as the name stays, nobody has
written anything that a query could see, so that what was read before is what would be read again.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, TypeVar

from sqlalchemy import text
from sqlalchemy.orm import Session

Answer = TypeVar("Answer")
SNAPSHOT = text("select pg_current_snapshot()::text")


@dataclass
class _Slot:
    lock: threading.Lock = field(default_factory=threading.Lock)
    snapshot: str = ""
    answer: Any = None


class Memo:
    """Keeps the last answer to each question, with the snapshot that it was read in.

    Args:
        most: questions that are kept in mind.
    """

    def __init__(self, most: int = 200) -> None:
        self._most = most
        self._slots: OrderedDict[str, _Slot] = OrderedDict()
        self._lock = threading.Lock()

    def answer(
        self,
        session: Session,
        question: str,
        make: Callable[[], Answer],
        holds: Callable[[Answer], bool] = lambda answer: True,
    ) -> Answer:
        """Give the answer to a question, read anew where the database may have changed since; of
        many who ask at once one reads.

        Args:
            session: what the database is asked with.
            question: names the answer.
            make: reads it.
            holds: says whether an answer holds still, for what it says of anything but the
            database.
        """
        slot = self._slot(question)
        with slot.lock:
            # Taken first: what changes while the answer is read makes it out of date at once.
            snapshot = str(session.scalar(SNAPSHOT))
            if slot.snapshot != snapshot or not holds(slot.answer):
                slot.answer = make()
                slot.snapshot = snapshot
            answer: Answer = slot.answer
            return answer

    def _slot(self, question: str) -> _Slot:
        with self._lock:
            slot = self._slots.pop(question, None) or _Slot()
            self._slots[question] = slot
            while len(self._slots) > self._most:
                self._slots.popitem(last=False)
            return slot
