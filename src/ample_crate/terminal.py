"""The command line's progress."""

from __future__ import annotations

import shutil
import sys
from typing import Any


class Line:
    """Progress on a terminal: one line written over and over; silent elsewhere."""

    def __init__(self) -> None:
        self.shown = sys.stderr.isatty()

    def __call__(self, body: dict[str, Any]) -> None:
        if not self.shown:
            return
        remaining = body.get("remaining")
        left = f", {remaining:.0f} s left" if remaining is not None else ""
        which = f" {body['pass']}/{body['passes']}" if body.get("passes", 1) > 1 else ""
        text = (
            f"{body['stage']}{which}: frame {body['frame']}, {body['speed']:.2f}x "
            f"real time, {body['elapsed']:.0f} s{left}"
        )
        width = shutil.get_terminal_size().columns - 1
        print(f"\r{text[:width]:<{width}}", end="", file=sys.stderr, flush=True)

    def done(self) -> None:
        """Clear the line away."""
        if self.shown:
            print("\r\033[K", end="", file=sys.stderr)
