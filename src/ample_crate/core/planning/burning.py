"""What is burnt into a picture, planned."""

from __future__ import annotations

from fractions import Fraction

from ..errors import BadValue, Impossible
from ..formats.pixels import RGB
from ..formats.wrapper import Wrapper
from ..units import timecode
from .burn_in import NAME, TIMECODE, BurnIn, named
from .leader import Around
from .notes import NOTHING, Notes, step
from .request import Request
from .start import KEY, plan_start
from .steps import PictureFormat


def plan_burn_in(
    request: Request, f: PictureFormat, place: Wrapper, around: Around
) -> tuple[BurnIn | None, Notes]:
    """Plan what is burnt into a picture.

    Args:
        request: what is planned.
        f: of the picture as it is made.
        place: the wrapper.
        around: what stands around the programme, into which nothing is burnt.

    Raises:
        Impossible: it is made of red, green and blue.
    """
    kinds, watermark = request.values.burn_in, request.values.watermark
    if not kinds and not watermark:
        return None, NOTHING
    if f.chroma == RGB:
        raise Impossible(
            "Nothing is burnt into pictures of red, green and blue here.",
            "Leave it out, or choose a codec of luma and colour where the spec takes one.",
        )
    label = _first(request, f.rate, place, around) if TIMECODE in kinds else None
    burnt = BurnIn(
        start=None if label is None else timecode.read(label, f.rate, ";" in label),
        rate=f.rate,
        drop=label is not None and ";" in label,
        name=named(request.names) if NAME in kinds else "",
        watermark=watermark,
    )
    what = [*kinds, *(["watermark"] if watermark else [])]
    begins = f" The timecode begins with {label}." if label is not None else ""
    why = f"Drawn into every frame of the programme.{begins}"
    return burnt, step(f"Burnt in: {', '.join(what)}", why, "picture.codec")


def _first(request: Request, rate: Fraction, place: Wrapper, around: Around) -> str:
    """Give the label of the programme's first frame: as the file counts, else as the master does,
    else from zero.
    """
    start, _ = plan_start(request, place, rate)
    if start is not None:
        drop = ";" in start
        return timecode.show(timecode.read(start, rate, drop) + around.first, rate, drop)
    held = str(request.master.value(KEY) or "")
    try:
        timecode.read(held, rate)
    except BadValue:
        return "00:00:00:00"
    return held
