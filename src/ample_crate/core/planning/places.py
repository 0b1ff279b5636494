"""Which frame of a master is shown at a place of what is made of it."""

from __future__ import annotations

from fractions import Fraction
from itertools import accumulate
from math import ceil, floor

from .plan import Input, Plan
from .steps import (
    Blend,
    Compensate,
    Deinterlace,
    Hold,
    Interlace,
    PictureStep,
    Retime,
    UndoPulldown,
)
from .streams import MadePicture, picture_after

HALF = Fraction(1, 2)
BETWEEN = Blend | Compensate  # steps that make frames of two


def source_of(plan: Plan, place: int) -> int:
    """Give the frame of the picture's master that is shown at a place of what is made, both counted
    from 0; of a frame of two fields that of the first. The master's frames last equally long.
    """
    return _seen(plan, place, 0)


def mixed_in(plan: Plan, place: int) -> tuple[int, Fraction] | None:
    """Give which of the master's frames is mixed into what is shown at a place, besides its own,
    and how much of it, from 0 to 1; None where that is shown alone.
    """
    picture = plan.picture
    blend = picture.steps[-1] if isinstance(picture, MadePicture) and picture.steps else None
    if not isinstance(blend, BETWEEN) or not isinstance(picture, MadePicture):
        return None
    have = picture_after(picture.source, picture.steps[:-1]).rate
    _, share = about(place - plan.around.first, have, blend.rate)
    return (_seen(plan, place, 1), share) if share else None


def about(place: int, have: Fraction, want: Fraction) -> tuple[int, Fraction]:
    """Say which frame of a rate comes before a place of another, and how much of the next one
    belongs to it.
    """
    at = place * have / want
    return floor(at), at - floor(at)


def _seen(plan: Plan, place: int, ahead: int) -> int:
    picture = plan.picture
    if picture is None:
        return 0
    place = max(0, place - plan.around.first)
    taken = plan.inputs[picture.input]
    if not isinstance(picture, MadePicture):
        return taken.frame(place)
    return frame_at(picture, taken, place, ahead)


def frame_at(picture: MadePicture, taken: Input, place: int, ahead: int = 0) -> int:
    """Give the frame of a master's file that is shown at a place of what a picture's steps give, or
    of the next one that is mixed into it (`ahead` is 1).
    """
    formats = list(accumulate(picture.steps, lambda f, step: step.after(f), initial=picture.source))
    each = Fraction(1)  # frames for one of the master's, up to a step
    for step, before in reversed(list(zip(picture.steps, formats, strict=False))):
        each = before.rate / picture.source.rate if isinstance(step, Retime) else Fraction(1)
        if isinstance(step, BETWEEN):
            place = about(place, before.rate, step.rate)[0] + ahead
            continue
        place = _before(step, place, before.rate, taken.first * each)
    return taken.frame(place)


def _before(step: PictureStep, place: int, rate: Fraction, first: Fraction) -> int:
    """Give the place before a step of what is shown at one after it."""
    if isinstance(step, Interlace):
        return 2 * place
    if isinstance(step, Deinterlace) and step.every_field:
        return place // 2
    if isinstance(step, UndoPulldown):
        # Which of five was dropped the pictures decide: this one, or the next.
        return place * 5 // 4
    if isinstance(step, Hold):
        return 0
    if isinstance(step, Retime):
        # Each frame goes to the place next to its time, and stays until the next one comes.
        times = step.rate / rate
        begun = floor(first * times + HALF)
        return ceil((place + begun + HALF) / times - first) - 1
    return place
