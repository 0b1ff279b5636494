"""Which plans are made from one reading of their inputs."""

from __future__ import annotations

from collections.abc import Sequence

from .plan import Plan
from .streams import MadePicture, MadeSound

MOST = 6  # plans
# Luma samples in a frame of all of them: encoders keep many frames, and one process has so much
# memory and no more.
MOST_SAMPLES = 2 * 3840 * 2160


def taken_along(first: Plan, others: Sequence[Plan]) -> list[int]:
    """Choose which of other plans, by their places, are made from the reading of a first one's
    inputs: those that take the same of the same, as many as one process can bear.
    """
    if not _all_made(first):
        return []
    room, chosen = MOST_SAMPLES - _frame(first), list[int]()
    for place, other in enumerate(others):
        needed = _frame(other)
        alike = (other.inputs, other.seconds) == (first.inputs, first.seconds)
        if alike and _all_made(other) and needed <= room and len(chosen) < MOST - 1:
            room -= needed
            chosen.append(place)
    return chosen


def _all_made(plan: Plan) -> bool:
    """Say whether all of it is encoded: what is copied takes no time that sharing would save."""
    return all(isinstance(stream, MadePicture | MadeSound) for stream in plan.streams)


def _frame(plan: Plan) -> int:
    picture = plan.picture
    return 0 if picture is None else picture.format.width * picture.format.height
