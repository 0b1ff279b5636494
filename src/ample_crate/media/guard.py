"""Runs media operations in child processes with limits, so that a crash or a hostile file costs one
item.
"""

from __future__ import annotations

import contextlib
import json
import os
import queue
import re
import signal
import subprocess
import sys
import threading
import time
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from types import TracebackType
from typing import Any

from ..core.errors import AmpleError, BadMedia, Cancelled, OverLimit
from . import confine, words
from .confine import View
from .limits import Limits
from .pausing import GATE

AHEAD = 3  # requests that lie with a child while an answer is looked at
MOST_WORDS, LONGEST_WORD, WORDS_WITHIN = 40, 400, 5.0  # lines, characters of one, seconds
ADDRESS = re.compile(r" @ 0x[0-9a-f]+\]")
Progress = Callable[[dict[str, Any]], None]
SIGNALLED = 128  # exit codes beyond it name a signal, as shells have it
SIGNALS = {
    signal.SIGKILL: "was ended for using too much memory or time",
    signal.SIGXCPU: "used up its processor time",
    signal.SIGSEGV: "crashed on these bytes",
    signal.SIGABRT: "crashed on these bytes",
    signal.SIGBUS: "crashed on these bytes",
    signal.SIGFPE: "crashed on these bytes",
}


class _Words:
    """What a child says beside its answers, by request: the codec library's own words, or a
    traceback.
    """

    def __init__(self) -> None:
        self._now: deque[str] = deque(maxlen=MOST_WORDS)
        self._before: dict[int, list[str]] = {}
        self._number, self._over = 0, False
        self._more = threading.Condition()

    def listen(self, lines: Iterable[str]) -> None:
        """Take in what is said until the child falls silent for good."""
        with contextlib.suppress(ValueError):  # closed while it was listened to
            for line in lines:
                if line.startswith(words.END):
                    self._turn()
                else:
                    self._now.append(line.rstrip()[:LONGEST_WORD])
        with self._more:
            self._over = True
            self._more.notify_all()

    def _turn(self) -> None:
        with self._more:
            self._before[self._number] = list(self._now)
            self._before.pop(self._number - 2 * AHEAD, None)
            self._now.clear()
            self._number += 1
            self._more.notify_all()

    def of(self, number: int) -> str:
        """Give what was said of a request, once all of it has come."""
        with self._more:
            self._more.wait_for(lambda: self._over or self._number > number, WORDS_WITHIN)
            said = self._before.get(number, list(self._now))
        # Addresses of the library's objects tell nobody anything.
        return "\n".join(ADDRESS.sub("]", line) for line in dict.fromkeys(said))


class Child:
    """One confined child process that answers requests one after the other; `view` is what it sees
    of the disk.
    """

    def __init__(self, limits: Limits, view: View) -> None:
        self.limits = limits
        self._process = confine.start(
            [sys.executable, "-m", "ample_crate.media.child", json.dumps(limits.as_json())],
            view,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
        )
        self._words, self._answered = _Words(), 0
        threading.Thread(
            target=self._words.listen, args=(self._process.stderr,), daemon=True
        ).start()
        # Of all queues the one that a signal may break into while its lock is held.
        self._lines: queue.SimpleQueue[str | None] = queue.SimpleQueue()
        threading.Thread(target=self._read_lines, daemon=True).start()

    def __enter__(self) -> Child:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        value: BaseException | None,
        tb: TracebackType | None,
    ) -> None:
        self.close()

    @property
    def pid(self) -> int:
        """Give the child's process id."""
        return self._process.pid

    @property
    def alive(self) -> bool:
        """Say whether the child still runs."""
        return self._process.poll() is None

    def _read_lines(self) -> None:
        assert self._process.stdout is not None
        for line in self._process.stdout:
            self._lines.put(line)
        self._lines.put(None)

    def request(
        self,
        op: str,
        args: dict[str, Any],
        progress: Progress | None = None,
        cancelled: Callable[[], bool] | None = None,
    ) -> dict[str, Any]:
        """Send a request and wait for its result.

        Args:
            op: name of the operation.
            args: its arguments, as JSON.
            progress: called with each sign of life.
            cancelled: asked twice a second whether to stop.

        Raises:
            AmpleError: what the child reports, or that it crashed, fell silent or reached a limit.
        """
        self._send(op, args)
        return self._answer(args, progress, cancelled)

    def request_all(
        self, op: str, requests: Sequence[dict[str, Any]]
    ) -> Iterator[dict[str, Any] | AmpleError]:
        """Send requests ahead, so that the child never waits for the next, and give their answers
        in order; a crash is the last.

        Args:
            op: name of the operation.
            requests: arguments of each, as JSON.
        """
        for request in requests[:AHEAD]:
            self._send(op, request)
        for number, request in enumerate(requests):
            try:
                answer: dict[str, Any] | AmpleError = self._answer(request)
            except AmpleError as error:
                answer = error
            if self.alive and number + AHEAD < len(requests):
                self._send(op, requests[number + AHEAD])
            yield answer
            if not self.alive:
                return

    def _send(self, op: str, args: dict[str, Any]) -> None:
        assert self._process.stdin is not None
        with contextlib.suppress(BrokenPipeError):
            self._process.stdin.write(json.dumps({"op": op, "args": args}) + "\n")
            self._process.stdin.flush()

    def _answer(
        self,
        args: dict[str, Any],
        progress: Progress | None = None,
        cancelled: Callable[[], bool] | None = None,
    ) -> dict[str, Any]:
        """Wait for the answer to the oldest request that has none."""
        heard = time.monotonic()
        while True:
            if cancelled is not None and GATE.shut:
                GATE.rest(self.pid, cancelled)
                heard = time.monotonic()
            try:
                line = self._lines.get(timeout=0.5)
            except queue.Empty:
                self._go_on_unless(cancelled)
                if time.monotonic() - heard > self.limits.silence:
                    self.close()
                    raise OverLimit(
                        f"The work on '{self._name(args)}' gave no sign of life for "
                        f"{self.limits.silence:.0f} s.",
                        "The file may be damaged; check it and run again.",
                    ) from None
                continue
            if line is None:
                raise self._ended(args)
            heard = time.monotonic()
            answer = json.loads(line)
            if "progress" in answer:
                if progress is not None:
                    progress(answer["progress"])
                self._go_on_unless(cancelled)
            else:
                self._answered += 1
                if "error" in answer:
                    raise as_error(answer["error"], self._words.of(self._answered - 1))
                return dict(answer["result"])

    def _go_on_unless(self, cancelled: Callable[[], bool] | None) -> None:
        if cancelled is not None and cancelled():
            self.close()
            raise Cancelled("The work was stopped.", "Run it again when you like.") from None

    @staticmethod
    def _name(args: dict[str, Any]) -> str:
        return os.path.basename(worked_on(args))

    def _ended(self, args: dict[str, Any]) -> AmpleError:
        code = self._process.wait()
        if code > SIGNALLED:
            code = SIGNALLED - code  # as whoever stands between tells of a signal
        why = (
            SIGNALS.get(signal.Signals(-code), "ended by a signal")
            if code < 0
            else f"ended with code {code}"
        )
        said = self._words.of(self._answered)
        if "MemoryError" in said[-200:]:
            why = "needed more memory than it may use"
        kind = OverLimit if code < 0 and -code in {signal.SIGKILL, signal.SIGXCPU} else BadMedia
        ended = kind(
            f"The process that worked on '{self._name(args)}' {why}.",
            "Other work goes on. The file may be damaged: check it and hand it in again.",
        )
        ended.said = said
        return ended

    def close(self) -> None:
        """End the child and everything it started."""
        if self.alive:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(self._process.pid, signal.SIGKILL)
        self._process.wait()
        for pipe in (self._process.stdin, self._process.stdout, self._process.stderr):
            if pipe is not None:
                with contextlib.suppress(OSError):
                    pipe.close()


def worked_on(args: dict[str, Any]) -> str:
    """Give the path of the file that a request is about, of several the first."""
    return str(args.get("path") or next(iter(args.get("inputs", [])), ""))


def as_error(body: dict[str, str], said: str = "") -> AmpleError:
    """Rebuild an error that a child wrote as JSON, with its own class; `said` is what the child
    said beside it.
    """
    known: dict[str, type[AmpleError]] = {c.code: c for c in AmpleError.__subclasses__()}
    made = known.get(body["code"], AmpleError)(body["what"], body["way_out"], body["code"])
    made.said = said
    return made


def run(
    op: str,
    args: dict[str, Any],
    limits: Limits,
    view: View,
    progress: Progress | None = None,
    cancelled: Callable[[], bool] | None = None,
) -> dict[str, Any]:
    """Run one operation in a child of its own."""
    with Child(limits, view) as child:
        return child.request(op, args, progress, cancelled)
