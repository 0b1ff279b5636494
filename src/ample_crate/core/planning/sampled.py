"""A stretch of what a plan makes: its picture alone, by a quantiser in place of a rate."""

from __future__ import annotations

from ..errors import Refused
from .encoding import RatedPicture
from .places import source_of
from .plan import Plan
from .streams import CopiedPicture, MadePicture


def rated_of(plan: Plan) -> RatedPicture:
    """Give the encoding of a plan whose rate can be chosen, and its picture be sampled.

    Raises:
        Refused: there is none.
    """
    encoding = plan.rated
    if isinstance(plan.picture, CopiedPicture):
        raise Refused(
            "The picture is copied: it keeps the rate that it has.",
            "To learn what other rates buy, choose to have it encoded where the spec allows it.",
        )
    if encoding is None:
        raise Refused(
            "No rate is set of what is made: its size follows from the pictures.",
            "Ask for this where a codec keeps to a rate.",
        )
    if encoding.pace == "hardware":
        raise Refused(
            "What this machine's hardware makes of a rate is not known before.",
            "Choose another pace, or try some seconds of it.",
        )
    return encoding


def sampled(plan: Plan, place: int, frames: int, quantiser: int) -> Plan:
    """Give the plan of a stretch, in one pass.

    Args:
        plan: of the whole, whose picture keeps to a rate (`rated_of`).
        place: of the stretch's first frame in what is made.
        frames: of the stretch.
        quantiser: that all of it is coded about.
    """
    picture, encoding = plan.picture, rated_of(plan)
    assert isinstance(picture, MadePicture)
    inputs = list(plan.inputs)
    inputs[picture.input] = inputs[picture.input].model_copy(
        update={"first": source_of(plan, place)}
    )
    free = {"quantiser": quantiser, "passes": 1, "constant": False, "named": False}
    burnt = None if picture.burnt is None else picture.burnt.later(place)
    coded = encoding.model_copy(update=free)
    alone = picture.model_copy(update={"encoding": coded, "burnt": burnt})
    file = plan.files[0].model_copy(update={"streams": (0,), "chapters": 0, "captions": ()})
    return plan.model_copy(
        update={
            "inputs": tuple(inputs),
            "streams": (alone,),
            "files": (file,),
            "folder": "",
            "seconds": frames / picture.format.rate,
            "captions": (),
        }
    )
