"""How whole frames come to another rate: repeated and dropped, or blended."""

from __future__ import annotations

from ..errors import BadValue
from .motion import may_blend
from .plan import Plan
from .steps import Blend, Retime
from .streams import MadePicture

RETIME = "retime"
BLENDED = "blended"


def choice_of(chosen: object) -> str:
    """Read how frames come to another rate: "blended", or "" for repeated and dropped.

    Raises:
        BadValue: it is neither.
    """
    text = str(chosen or "")
    if text not in ("", BLENDED):
        raise BadValue(f"'{text}' is no way to another rate.", f"Choose {BLENDED}, or none.")
    return text


def choices(chosen: str, plan: Plan | None) -> dict[str, str]:
    """Give what is chosen of it, where there is something to choose: whole frames come to a rate at
    which some lie between two of them.
    """
    picture = None if plan is None else plan.picture
    if isinstance(picture, MadePicture):
        done = any(isinstance(step, Blend) for step in picture.steps)
        retimed = any(isinstance(step, Retime) for step in picture.steps)
        even = plan is not None and plan.inputs[picture.input].clock == "even"
        whole = picture.format.fields is None
        between = may_blend(picture.source.rate, picture.format.rate)
        if done or (retimed and even and whole and between):
            return {RETIME: BLENDED if done else ""}
    # What has no effect can be taken back.
    return {RETIME: chosen} if chosen else {}
