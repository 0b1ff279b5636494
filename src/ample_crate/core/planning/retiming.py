"""How whole frames come to another rate: repeated and dropped, blended, or made along motion."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import get_args

from ..errors import BadValue, Impossible
from ..formats.pixels import RGB, Pixels
from .motion import Between, may_blend
from .notes import NOTHING, Notes, caution
from .plan import Plan
from .steps import FOLLOWED_IN, Blend, Compensate, PictureFormat, PictureStep, Retime
from .streams import MadePicture

RETIME = "retime"
WAYS: tuple[Between, ...] = get_args(Between)
# Luma samples that are made a second (measured: 1.5e6 to 2.4e6, 352 x 288 to 1920 x 1080).
SAMPLES_A_SECOND = 2e6
HOUR = 3600
FOLLOWED = {"4:2:0", "4:2:2", "4:4:4"}  # chroma of what motion is followed in


def choice_of(chosen: object) -> Between:
    """Read how frames come to another rate: "blended", "compensated" (made along what moves), or ""
    for repeated and dropped.

    Raises:
        BadValue: it is none of them.
    """
    text = str(chosen or "")
    found = next((way for way in WAYS if way == text), None)
    if found is None:
        offered = " or ".join(filter(None, WAYS))
        raise BadValue(f"'{text}' is no way to another rate.", f"Choose {offered}, or none.")
    return found


def way_for(chosen: Between, pixels: Pixels) -> Between:
    """Give the way that is taken to some pixels: R'G'B' is not mixed.

    Raises:
        Impossible: motion is to be followed in more bits than it can be.
    """
    if pixels.chroma == RGB:
        return ""
    if chosen == "compensated" and not _follows(pixels):
        clear = " with transparency" if pixels.alpha else ""
        raise Impossible(
            f"Motion is followed in {FOLLOWED_IN} bit and without transparency here, and what is "
            f"made has {pixels.depth} bit in {pixels.chroma}{clear}.",
            "Blend the frames, or choose other samples where the spec allows them.",
        )
    return chosen


def _follows(pixels: Pixels) -> bool:
    return pixels.depth <= FOLLOWED_IN and pixels.chroma in FOLLOWED and not pixels.alpha


def hours(f: PictureFormat, steps: Sequence[PictureStep], seconds: Fraction) -> Notes:
    """Say how long it takes to follow motion, where that is done."""
    if not any(isinstance(step, Compensate) for step in steps):
        return NOTHING
    frames = round(seconds * f.rate)
    takes = frames * f.width * f.height / SAMPLES_A_SECOND
    shown = f"{takes / HOUR:.1f} hours" if takes >= HOUR else f"{takes / 60:.0f} minutes"
    return caution(
        "motion.rate",
        f"Following motion takes about {shown}.",
        "The encoder waits for every frame.",
        f"{frames} frames of {f.width} x {f.height}",
        "Try some seconds of it first, or have frames blended, which takes no time.",
    )


def choices(chosen: str, plan: Plan | None) -> dict[str, str]:
    """Give what is chosen of it, where there is something to choose: whole frames come to a rate at
    which some lie between two of them.
    """
    picture = None if plan is None else plan.picture
    if plan is not None and isinstance(picture, MadePicture):
        done = way_of(plan)
        retimed = any(isinstance(step, Retime) for step in picture.steps)
        even = plan.inputs[picture.input].clock == "even"
        whole = picture.format.fields is None
        between = may_blend(picture.source.rate, picture.format.rate)
        if done or (retimed and even and whole and between):
            return {RETIME: done}
    # What has no effect can be taken back.
    return {RETIME: chosen} if chosen else {}


def way_of(plan: Plan) -> Between:
    """Give how frames between two are made."""
    steps = plan.picture.steps if isinstance(plan.picture, MadePicture) else ()
    return next((way for step in steps if (way := _name(step))), "")


def _name(step: PictureStep) -> Between:
    if isinstance(step, Blend):
        return "blended"
    return "compensated" if isinstance(step, Compensate) else ""
