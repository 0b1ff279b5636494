"""What decoding a frame costs on this machine: forwards, backwards and at random, as a venue's
scrubbing will ask.
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from fractions import Fraction

import av
from av.codec.context import ThreadType

from ...core.units.values import Value
from ..read import open_media, picture_stream

# Beside the pass over the whole file, this much of its time, but at least and at most these
# seconds, goes into the three.
SHARE, LEAST, MOST = 0.06, 0.25, 6.0


def measure(
    path: str, rate: Fraction | None, frames: int, pass_seconds: float
) -> dict[str, Value | None]:
    """Time the three ways to come to a frame; nothing is said of files that cannot be sought in."""
    if rate is None:
        return {}
    budget = min(MOST, max(LEAST, SHARE * pass_seconds)) / 3
    with open_media(path) as container:
        stream = picture_stream(container)
        assert stream is not None
        stream.thread_type = ThreadType.AUTO
        base = Fraction(stream.time_base or Fraction(1, 90000))
        first = stream.start_time or 0
        began, seen = time.monotonic(), 0
        for _ in container.decode(stream):
            seen += 1
            if time.monotonic() - began >= budget:
                break
        forwards = (time.monotonic() - began) / max(1, seen)

        def reach(number: int) -> None:
            at = first + int(number / rate / base)
            container.seek(at, stream=stream, backward=True)
            for frame in container.decode(stream):
                if frame.pts is None or frame.pts >= at - 1:
                    return

        try:
            rng = random.Random(1)
            backwards = _timed(lambda turn: reach(max(0, frames * 3 // 4 - turn)), budget)
            anywhere = _timed(lambda turn: reach(rng.randrange(frames)), budget)
        except (av.FFmpegError, PermissionError):
            return {"motion.cost_forwards": _exact(forwards)}
    return {
        "motion.cost_forwards": _exact(forwards),
        "motion.cost_backwards": _exact(backwards),
        "motion.cost_random": _exact(anywhere),
    }


def _timed(turn: Callable[[int], None], budget: float) -> float:
    began, turns = time.monotonic(), 0
    while turns < 3 or time.monotonic() - began < budget:
        turn(turns)
        turns += 1
        if time.monotonic() - began > 3 * budget and turns >= 1:
            break
    return (time.monotonic() - began) / turns


def _exact(seconds: float) -> Fraction:
    return Fraction(round(seconds * 10**5), 10**5)
