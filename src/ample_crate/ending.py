"""How a command ends: by itself, by an error, or because it was asked to stop."""

from __future__ import annotations

import json
import os
import signal
import sys
from collections.abc import Callable
from types import FrameType

from .core.errors import AmpleError

FAILED = 2
SIGINT_CODE, SIGPIPE_CODE = 130, 141  # 128 and the signal's number, as shells have it


class _Stop:
    """Stops as Ctrl-C does: what is half made is cleared away."""

    asked = False

    def __call__(self, signum: int, frame: FrameType | None) -> None:
        self.asked = True
        raise KeyboardInterrupt


def code_of(command: Callable[[], int], as_json: bool = False, stoppable: bool = True) -> int:
    """Run a command; give its exit code, and say why where it failed.

    Args:
        command: gives its own code.
        as_json: whether an error is printed as a document too.
        stoppable: whether it is ended by SIGTERM as by Ctrl-C; else it sees to both itself.
    """
    stop = _Stop()
    if stoppable:
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, stop)
    try:
        return command()
    except KeyboardInterrupt:
        return _stopped()
    except Exception as error:
        # A lock that is broken into complains of that, in place of the stop.
        return _stopped() if stop.asked else _told(error, as_json)


def _stopped() -> int:
    print("\nample: stopped; nothing was left under a final name.", file=sys.stderr)
    return SIGINT_CODE


def _told(error: Exception, as_json: bool) -> int:
    """Say what went wrong; what nobody foresaw goes on as it is."""
    if isinstance(error, AmpleError):
        if as_json:
            print(json.dumps({"error": error.as_json()}, indent=2))
        print(f"ample: {error.sentence()}", file=sys.stderr)
        if error.said:
            print(f"ample: in its own words:\n{error.said}", file=sys.stderr)
        return FAILED
    if isinstance(error, BrokenPipeError):  # whoever read our output has heard enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return SIGPIPE_CODE
    if isinstance(error, OSError):
        what = error.strerror or error
        print(f"ample: {what}: {error.filename or 'a file'}.", file=sys.stderr)
        return FAILED
    raise error
