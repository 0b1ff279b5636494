"""What it costs to show the pictures of a file: on from its first, back from its last, and here and
there. Runs inside the child process.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing
from typing import Any

import numpy as np

from .pictures import Reader

MOST = 3.0  # seconds for each way
FRAMES = 240  # for each way
SEED = 7


def handle(progress: Callable[[dict[str, Any]], None], path: str) -> dict[str, float]:
    """Time the decoding of a file's pictures.

    Returns:
        frames a second, each asked for by itself in turn: `forwards`, `backwards` (from the end)
        and `random` (anywhere).
    """
    count = _counted(path)
    some = min(count, FRAMES)
    ways: dict[str, Sequence[int]] = {
        "forwards": range(some),
        "backwards": range(count - 1, count - 1 - some, -1),
        "random": [int(n) for n in np.random.default_rng(SEED).integers(0, count, FRAMES)],
    }
    found = {}
    for number, (way, places) in enumerate(ways.items()):
        progress({"stage": "decode", "way": way, "share": number / len(ways), "final": True})
        found[way] = _timed(path, places)
    return found


def _counted(path: str) -> int:
    with closing(Reader(path, even=True)) as reader:
        reader.frame(10**9)
        return reader.place + 1


def _timed(path: str, places: Sequence[int]) -> float:
    """Ask for frames in turn, as long as there is time; the file is open before."""
    with closing(Reader(path, even=True)) as reader:
        began = time.perf_counter()
        count = sum(1 for _ in _shown(reader, places, began + MOST))
        return count / (time.perf_counter() - began)


def _shown(reader: Reader, places: Sequence[int], until: float) -> Iterator[int]:
    for place in places:
        reader.frame(place)
        yield place
        if time.perf_counter() > until:
            return
