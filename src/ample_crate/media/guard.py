"""Runs media operations in child processes with limits, so that a crash or a hostile file costs one item."""

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
from collections.abc import Callable
from types import TracebackType
from typing import Any

from ..core.errors import AmpleError, BadMedia, Cancelled, OverLimit
from . import confine, words
from .confine import View
from .limits import Limits

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


class Child:
    """One confined child process that answers requests one after the other; `view` is what it sees of the disk."""

    def __init__(self, limits: Limits, view: View) -> None:
        self.limits = limits
        self._process = confine.start(
            [sys.executable, "-m", "ample_crate.media.child", json.dumps(limits.as_json())], view,
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE,
        )  # fmt: skip
        # The last of what the child says beside its answers: the codec library's own words, or a traceback.
        self._words: deque[str] = deque(maxlen=MOST_WORDS)
        self._worded = threading.Event()
        threading.Thread(target=self._listen, daemon=True).start()
        self._lines: queue.Queue[str | None] = queue.Queue()
        threading.Thread(target=self._pump, daemon=True).start()

    def __enter__(self) -> Child:
        return self

    def __exit__(self, kind: type[BaseException] | None, value: BaseException | None, tb: TracebackType | None) -> None:
        self.close()

    @property
    def pid(self) -> int:
        """Give the child's process id."""
        return self._process.pid

    @property
    def alive(self) -> bool:
        """Say whether the child still runs."""
        return self._process.poll() is None

    def _pump(self) -> None:
        assert self._process.stdout is not None
        for line in self._process.stdout:
            self._lines.put(line)
        self._lines.put(None)

    def _listen(self) -> None:
        assert self._process.stderr is not None
        with contextlib.suppress(ValueError):  # closed while it was listened to
            for line in self._process.stderr:
                if line.startswith(words.END):
                    self._worded.set()
                else:
                    self._words.append(line.rstrip()[:LONGEST_WORD])
        self._worded.set()

    def _said(self) -> str:
        """Give what the child said beside its answer, once all of it has come."""
        self._worded.wait(WORDS_WITHIN)
        # Addresses of the library's objects tell nobody anything.
        return "\n".join(ADDRESS.sub("]", line) for line in dict.fromkeys(self._words))

    def ask(
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
        assert self._process.stdin is not None
        with contextlib.suppress(BrokenPipeError):
            self._process.stdin.write(json.dumps({"op": op, "args": args}) + "\n")
            self._process.stdin.flush()
        self._words.clear()
        self._worded.clear()
        heard = time.monotonic()
        while True:
            try:
                line = self._lines.get(timeout=0.5)
            except queue.Empty:
                if cancelled is not None and cancelled():
                    self.close()
                    raise Cancelled("The work was stopped.", "Run it again when you like.") from None
                if time.monotonic() - heard > self.limits.silence:
                    self.close()
                    raise OverLimit(
                        f"The work on '{self._name(args)}' gave no sign of life for {self.limits.silence:.0f} s.",
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
                if cancelled is not None and cancelled():
                    self.close()
                    raise Cancelled("The work was stopped.", "Run it again when you like.")
            elif "error" in answer:
                raise as_error(answer["error"], self._said())
            else:
                return dict(answer["result"])

    @staticmethod
    def _name(args: dict[str, Any]) -> str:
        return os.path.basename(str(args.get("path", "")))

    def _ended(self, args: dict[str, Any]) -> AmpleError:
        code = self._process.wait()
        if code > SIGNALLED:
            code = SIGNALLED - code  # as whoever stands between tells of a signal
        why = SIGNALS.get(signal.Signals(-code), "ended by a signal") if code < 0 else f"ended with code {code}"
        said = self._said()
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


def as_error(body: dict[str, str], said: str = "") -> AmpleError:
    """Rebuild an error that a child wrote as JSON, with its own class; `said` is what the child said beside it."""
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
        return child.ask(op, args, progress, cancelled)
