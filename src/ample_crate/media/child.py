"""The child process: takes one JSON request a line, answers with progress, a result or an error a
line.
"""

from __future__ import annotations

import ctypes
import json
import os
import signal
import sys
import time
from collections.abc import Callable
from importlib import import_module
from typing import Any

from ..core.errors import AmpleError, BadMedia, NoRoom, OverLimit
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
    "picture": ("pictures", "handle"),
    "planned": ("planned", "handle"),
    "difference": ("pictures", "answer_difference"),
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
    import av

    from . import words

    words.to_standard_error()

    def send(kind: str, body: Any) -> None:
        answers.write(json.dumps({kind: body}) + "\n")
        answers.flush()

    last = [0.0]

    def progress(body: dict[str, Any]) -> None:
        now = time.monotonic()
        if now - last[0] >= 0.25 or body.get("final"):
            last[0] = now
            send("progress", body)

    for line in sys.stdin:
        request = json.loads(line)
        try:
            kind, body = "result", operation(request["op"])(progress=progress, **request["args"])
        except AmpleError as error:
            kind, body = "error", error.as_json()
        except (
            Exception
        ) as error:  # every cause becomes one clear message; the traceback stands beside it
            kind, body = "error", explain(error, request["args"].get("path", "")).as_json()
            if not isinstance(error, av.FFmpegError | MemoryError | OSError):
                import traceback

                traceback.print_exc()
        sys.stderr.write(f"{words.END}\n")
        sys.stderr.flush()
        send(kind, body)


def explain(error: Exception, path: str) -> AmpleError:
    """Turn what a library raised into an error with a cause and a way out."""
    import errno

    import av

    name = os.path.basename(path)
    number = getattr(error, "errno", None)
    if number == errno.ENOSPC:
        return NoRoom(
            "The disk is full.",
            "Free some room and run again; nothing was left under a final name.",
        )
    if number == errno.EFBIG:
        return OverLimit(
            "The file grew past its size limit.",
            "Look at the bit rate the route gives and run again.",
        )
    if isinstance(error, MemoryError) or number == errno.ENOMEM:
        return OverLimit(
            f"'{name}' needs more memory than a child process may use.",
            "The header may claim a picture larger than it is; ask for a sound file.",
        )
    if number == errno.EACCES:
        return BadMedia(
            f"'{name}' may not be read.", "Give the application read access to the file."
        )
    if isinstance(error, FileNotFoundError):
        return BadMedia(
            f"'{name}' is not there any more.", "Put the file back, or hand it in again."
        )
    if isinstance(error, av.InvalidDataError):
        return BadMedia(
            f"'{name}' is not a readable media file: its bytes follow no format that can be read.",
            "Check that it is whole and what it says it is, and hand it in again.",
        )
    if isinstance(error, av.FFmpegError):
        return BadMedia(
            f"'{name}' could not be worked on: {error.strerror or error}.",
            "Its own words tell more; hand in the file again, or change the route.",
        )
    return AmpleError(
        f"Something unforeseen went wrong with '{name}'.",
        "Its own words, kept with the run and in the worker's log, tell more.",
    )


if __name__ == "__main__":
    main()
