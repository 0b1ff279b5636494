"""Pieces of work that are done one after the other, told of as one."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from ..media import ops

Told = dict[str, Any]


def _itself(number: int, told: Told) -> Told:
    return told


def parts(
    control: ops.Control, count: int, seen: Callable[[int, Told], Told] = _itself
) -> Callable[[int], ops.Control]:
    """Give the control of each of so many parts.

    Args:
        control: of the whole: told how much of all is done, and how long the rest will take.
        count: how many there are; each is thought to take as long.
        seen: what is made of what a part tells, by its number from 0 on; its share is of the part.
    """
    began = time.monotonic()

    def part(number: int) -> ops.Control:
        def tell(body: Told) -> None:
            if control.progress is None:
                return
            told = seen(number, body)
            share, elapsed = (number + told["share"]) / count, time.monotonic() - began
            left = elapsed * (1 - share) / share if share else None
            whole = {"share": share, "elapsed": elapsed, "remaining": left}
            control.progress(told | whole)

        return ops.Control(tell, control.cancelled)

    return part
