"""A still of another file that transparency is laid over: it covers the picture, and what reaches
beyond is cut off evenly.
"""

from __future__ import annotations

from fractions import Fraction

from ..errors import Impossible
from ..facts import Facts
from ..formats.pixels import RGB
from ..specs.delivery import STILL
from .beside import Beside
from .notes import Notes, step
from .plan import Input
from .request import Request
from .source import format_of
from .steps import Crop, Flatten, PictureFormat, Samples, Scale, Still
from .streams import MadePicture, Stream

BACKGROUND = "background"  # the choice
KEY = "picture.alpha"


def still_of(request: Request, have: PictureFormat) -> tuple[Still, Notes]:
    """Say how a still is brought under a picture.

    Args:
        request: which names the still.
        have: the picture, with transparency.

    Raises:
        Impossible: it has no picture, is clear itself, or is in other colours.
    """
    under = request.under
    if under is None:
        raise Impossible(
            "No still is chosen that the picture is laid over.",
            "Choose one, or another background.",
        )
    seen = format_of(under.facts)
    _require_fitting(request.whole, under, seen, have)
    steps, cut = _covering(seen, have)
    place = 1 if request.laying is None else 2
    return Still(input=place, source=seen, steps=steps), _said(under.name, cut)


def _require_fitting(
    master: Facts, under: Beside, seen: PictureFormat, have: PictureFormat
) -> None:
    opaque = under.facts.value("picture.alpha_use") == "wholly opaque"
    if seen.alpha and not opaque:
        raise Impossible(
            f"'{under.name}' has transparency itself.", "Choose a still without, or a colour."
        )
    if seen.fields is not None:
        raise Impossible(f"'{under.name}' is interlaced.", "Choose a still of whole frames.")
    # What says nothing of its colours is taken to be in the other's.
    told = all(facts.value("picture.primaries") is not None for facts in (master, under.facts))
    if (told and seen.colour != have.colour) or seen.transfer != have.transfer:
        raise Impossible(
            f"'{under.name}' is in {_colours(seen)}, and the master in {_colours(have)}.",
            "Choose a still in the master's colours, or a plain background.",
        )


def _colours(f: PictureFormat) -> str:
    return f"{f.colour} {f.transfer}".strip()


def _covering(
    seen: PictureFormat, have: PictureFormat
) -> tuple[tuple[Samples | Crop | Scale, ...], Fraction]:
    """Give the steps that have a still cover a picture, and the share of it that is cut off."""
    aspect = have.pixel_aspect * have.width / have.height
    wide = seen.pixel_aspect * seen.width / seen.height >= aspect
    width = round(seen.height * aspect / seen.pixel_aspect) if wide else seen.width
    height = seen.height if wide else round(seen.width * seen.pixel_aspect / aspect)
    part = Crop(
        x=(seen.width - width) // 2, y=(seen.height - height) // 2, width=width, height=height
    )
    # In R'G'B' every sample can be cut at.
    steps = Samples(chroma=RGB, depth=16), part, Scale(width=have.width, height=have.height)
    return steps, 1 - Fraction(width * height, seen.width * seen.height)


def _said(name: str, cut: Fraction) -> Notes:
    share = f"; {float(100 * cut):.0f} % of it is cut off" if cut * 100 >= 1 else ""
    seen = f"What is clear shows it, as large as the picture{share}."
    return step(f"Laid over '{name}'", seen, KEY)


def fed(request: Request, streams: tuple[Stream, ...]) -> tuple[Input, ...]:
    """Say which further files a plan reads.

    Raises:
        Impossible: a still is chosen, and nothing of it would be seen.
    """
    used = any(
        isinstance(step, Flatten) and step.still is not None
        for stream in streams
        if isinstance(stream, MadePicture)
        for step in stream.steps
    )
    if used:
        return (Input(rate=None, still=True),)
    if request.values.background == STILL:
        name = "the still" if request.under is None else f"'{request.under.name}'"
        raise Impossible(
            f"Nothing of {name} would be seen: nothing is laid over it.",
            "Choose another background.",
        )
    return ()
