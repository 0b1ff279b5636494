"""A picture whose frames each stand alone, made in segments that are joined as they are coded.

What comes of that is what one encoder makes from end to end, byte by byte: a codec whose frames
hang on what was coded before is not parted (`PictureMaking.frames_alone`), nor is a picture whose
conversions look at more than one frame.
"""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

from .plan import File, Limits, Plan
from .steps import Blend, Compensate, Deinterlace, Hold, Interlace, Retime, UndoPulldown
from .streams import MadePicture

# Steps that look at several frames.
ACROSS = Deinterlace | Blend | Compensate | Retime | Interlace | Hold | UndoPulldown
LEAST_FRAMES = 2


def can_be_parted(plan: Plan) -> bool:
    """Say whether the picture of a plan can be made in segments.

    Its master's frames must be known to last equally long: a segment finds its own by their times.
    """
    picture = plan.picture
    if not isinstance(picture, MadePicture) or picture.input != 0:
        return False
    making = picture.encoding.row.made
    alone = making is not None and making.frames_alone
    across = any(isinstance(step, ACROSS) for step in picture.steps)
    across = across or any(one.still for one in plan.inputs) or bool(plan.around.frames)
    across = across or picture.burnt is not None
    images = any(file.images is not None for file in plan.files)
    return alone and not across and not images and plan.inputs[0].clock == "even"


def parted(plan: Plan, count: int) -> list[Plan]:
    """Part the picture of a plan.

    Args:
        plan: that can be parted.
        count: how many segments at most.

    Returns:
        plans of the segments, in order: each makes one file, with nothing but its frames.
    """
    count = max(1, min(count, plan.frames // LEAST_FRAMES))
    edges = [plan.frames * n // count for n in range(count + 1)]
    return [
        _segment(plan, n, first, last - first) for n, (first, last) in enumerate(pairwise(edges))
    ]


def _segment(plan: Plan, number: int, first: int, frames: int) -> Plan:
    place = next(n for n, stream in enumerate(plan.streams) if stream is plan.picture)
    picture, whole = plan.streams[place], plan.inputs[0]
    file = next(file for file in plan.files if place in file.streams)
    assert isinstance(picture, MadePicture)
    return plan.model_copy(
        update={
            "inputs": (whole.model_copy(update={"first": whole.frame(first)}),),
            "streams": (picture,),
            "files": (File(name=f"{number:05d}", wrapper=file.wrapper, streams=(0,)),),
            "folder": "",
            "seconds": Fraction(frames) / picture.format.rate,
            "limits": Limits(),
            "captions": (),
        }
    )
