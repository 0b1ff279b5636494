"""Which plans are made from one reading of their inputs."""

from __future__ import annotations

from collections.abc import Sequence

from .plan import Plan
from .ready import NO_PAST, Past, encode_seconds
from .streams import Captions, MadePicture, MadeSound

MOST = 6  # plans
# Luma samples in a frame of all of them: encoders keep many frames, and one process has so much
# memory and no more.
MOST_SAMPLES = 2 * 3840 * 2160
# All are done when the slowest is: how many times as long as another one may take, and the seconds
# under which that does not matter.
MOST_SLOWER, QUICK = 6.0, 5.0


def taken_along(first: Plan, others: Sequence[Plan], past: Past = NO_PAST) -> list[int]:
    """Choose which of other plans are made from the reading of a first one's inputs: those that
    take the same of the same, at about its pace, as many as one process can bear.

    Args:
        first: the plan that is made anyway.
        others: that might go along, those that waited longest first.
        past: what finished runs teach.

    Returns:
        their places.
    """
    if not _shares(first):
        return []
    room, chosen = MOST_SAMPLES - _frame(first), list[int]()
    for place, other in enumerate(others):
        needed = _frame(other)
        paced = all(_keeps_pace(other, one, past) for one in [first, *(others[n] for n in chosen)])
        fits = needed <= room and len(chosen) < MOST - 1
        if fits and paced and _shares(other) and _takes_the_same(first, other):
            room -= needed
            chosen.append(place)
    return chosen


def _takes_the_same(one: Plan, other: Plan) -> bool:
    return (one.inputs, one.seconds) == (other.inputs, other.seconds)


def _keeps_pace(one: Plan, other: Plan, past: Past) -> bool:
    """Say whether neither waits much longer for the other than it would take alone."""
    quick, slow = sorted(max(QUICK, _expected(plan, past)) for plan in (one, other))
    return slow <= MOST_SLOWER * quick


def _expected(plan: Plan, past: Past) -> float:
    return 0.0 if plan.picture is None else encode_seconds(plan.effort, plan.work, past)


def _shares(plan: Plan) -> bool:
    """Say whether its reading can be shared, and that saves anything: a picture that is copied
    takes no time, and captions are turned by the decoder of one file.
    """
    first = plan.picture or plan.streams[0]
    text = plan.captions or any(isinstance(stream, Captions) for stream in plan.streams)
    return isinstance(first, MadePicture | MadeSound) and not text


def _frame(plan: Plan) -> int:
    picture = plan.picture
    return 0 if picture is None else picture.format.width * picture.format.height
