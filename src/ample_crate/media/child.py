"""The child process: takes one JSON request a line, answers with progress, a result or an error a
line.
"""

from __future__ import annotations

import ctypes
import json
import os
import signal
import sys
import threading
import time
from collections.abc import Callable
from importlib import import_module
from typing import Any

from .limits import Limits, apply

PR_SET_PDEATHSIG = 1  # linux/prctl.h


# What is asked for, by the module and function that handle it: each is brought in when it is first
# asked for.
OPERATIONS = {
    "read": ("headers", "handle"),
    "measure": ("measuring.whole", "handle"),
    "second": ("measuring.second", "handle"),
    "render": ("render", "handle"),
    "cut": ("cuts", "handle"),
    "proxy": ("proxy", "handle"),
    "trial": ("trial", "handle"),
    "decoding": ("decoding", "handle"),
    "stretches": ("stretches", "handle"),
    "hearing": ("hearing", "handle"),
    "viewing": ("viewing", "handle"),
    "rehearse": ("rehearsing", "handle"),
    "weights": ("weights", "handle"),
    "picture": ("pictures", "handle"),
    "planned": ("planned", "handle"),
    "coded": ("coded", "handle"),
    "quality": ("quality", "handle"),
    "difference": ("planned", "answer_difference"),
    "magnified": ("magnified", "handle"),
}


def operation(name: str) -> Callable[..., dict[str, Any]]:
    """Give what answers a request."""
    module, function = OPERATIONS[name]
    found: Callable[..., dict[str, Any]] = getattr(
        import_module(f"ample_crate.media.{module}"), function
    )
    return found


def main() -> None:
    """Serve requests from standard input until it closes."""
    limits = Limits(**json.loads(sys.argv[1]))
    # A worker that is killed takes its encoder along, or two would write the same file when the run
    # is taken up.
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    apply(limits)
    signal.signal(
        signal.SIGXFSZ, signal.SIG_IGN
    )  # a write past the limit then fails with EFBIG, and says so
    # The codec libraries may print; answers go out on a descriptor of their own.
    answers = os.fdopen(os.dup(1), "w", encoding="utf-8")
    os.dup2(2, 1)
    from . import causes, guard, words

    words.to_standard_error()

    def send(kind: str, body: Any) -> None:
        answers.write(json.dumps({kind: body}) + "\n")
        answers.flush()

    # Of several things that are made beside each other, each in a thread of its own.
    last, one_line = dict[Any, float](), threading.Lock()

    def progress(body: dict[str, Any]) -> None:
        now, of = time.monotonic(), body.get("of")
        if now - last.get(of, 0.0) >= 0.25 or body.get("final"):
            last[of] = now
            with one_line:
                send("progress", body)

    for line in sys.stdin:
        request = json.loads(line)
        try:
            kind, body = "result", operation(request["op"])(progress=progress, **request["args"])
        except Exception as error:
            told = causes.told(error, guard.worked_on(request["args"]))
            kind, body = "error", told.as_json()
        sys.stderr.write(f"{words.END}\n")
        sys.stderr.flush()
        send(kind, body)


if __name__ == "__main__":
    main()
