"""A finished file as a player would play it: every way there is, in one layer and in several, by
its own index. Runs inside the child process.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, closing
from typing import Any

from ..core.quality.rehearsal import LAYERS, WAYS, Played, of_layer, places
from .pictures import Reader

MOST = 3.0  # seconds for each way


def handle(progress: Callable[[dict[str, Any]], None], path: str) -> dict[str, Any]:
    """Play a file every way.

    Returns:
        {rate, frames, played: as `Played.as_json` has each, seconds}.

    Raises:
        BadMedia: it has no picture.
    """
    began = time.monotonic()
    with ExitStack() as opened:
        readers = [
            opened.enter_context(closing(Reader(path, even=True))) for _ in range(max(LAYERS))
        ]
        readers[0].frame(10**9)
        frames, rate = readers[0].place + 1, readers[0].rate
        pool = opened.enter_context(ThreadPoolExecutor(max(LAYERS)))
        trials = [(way, layers) for way in WAYS for layers in LAYERS]
        played = []
        for number, (way, layers) in enumerate(trials):
            elapsed, share = time.monotonic() - began, number / len(trials)
            told = {"stage": "rehearse", "frame": number, "elapsed": elapsed, "share": share}
            progress({**told, "speed": 0.0, "final": True})
            costs = _costs(pool, readers[:layers], places(way, frames), frames)
            played.append(Played(way.key, layers, costs, float(rate)).as_json())
    taken = time.monotonic() - began
    return {"rate": str(rate), "frames": frames, "played": played, "seconds": taken}


def _costs(
    pool: ThreadPoolExecutor, readers: Sequence[Reader], asked: Sequence[int], frames: int
) -> list[float]:
    """Time each picture of all layers, as long as there is time."""
    until, costs = time.perf_counter() + MOST, list[float]()
    layers = len(readers)
    for place in asked:
        began = time.perf_counter()
        wanted = [of_layer(place, n, layers, frames) for n in range(layers)]
        # All that is left to do with them is to show them.
        for _ in pool.map(lambda pair: pair[0].frame(pair[1]), zip(readers, wanted, strict=True)):
            pass
        now = time.perf_counter()
        costs.append(now - began)
        if now > until:
            break
    return costs
