"""Whether levels are brought within what television takes."""

from __future__ import annotations

from ..errors import BadValue, Impossible
from ..facts import Facts
from ..formats.colour import CARRIED
from ..formats.pixels import RGB
from .notes import NOTHING, Notes, caution, step
from .steps import Legalise, PictureFormat

LEVELS, LEGAL = "levels", "legal"
KEY = "picture.excursion"


def choice_of(chosen: object) -> str:
    """Read what is done to levels: "legal", or "" for nothing.

    Raises:
        BadValue: it is neither.
    """
    text = str(chosen or "")
    if text not in ("", LEGAL):
        raise BadValue(f"'{text}' is nothing that is done to levels.", f"Choose {LEGAL}, or none.")
    return text


def plan_legal(chosen: str, f: PictureFormat, master: Facts) -> tuple[tuple[Legalise, ...], Notes]:
    """Plan whether levels are brought within limits.

    Args:
        chosen: whether a person asks for it: nothing is done to levels else.
        f: of the picture as it is made.
        master: what is known of it.

    Raises:
        Impossible: pictures whose levels are not judged by EBU R 103.
    """
    if not chosen:
        return (), NOTHING
    if f.chroma == RGB or f.full_range or f.transfer in CARRIED:
        raise Impossible(
            "EBU R 103 is about luma and colour of standard range, in limited range.",
            "Leave the levels as they are.",
        )
    said = step(
        "Levels brought within EBU R 103",
        "Luma above 98 % is turned down softly, to 103 % at most; colour that leaves -5 to 105 % "
        "is taken back towards grey of its own lightness.",
        KEY,
    )
    out = master.value(KEY)
    if out:
        said += caution(
            KEY,
            "What is too bright or too colourful is changed.",
            "Highlights lose some of their drawing, colours some of their strength.",
            f"up to {float(out):g} % of a frame",
            "Look at the brightest and most colourful frames beside the master.",
        )
    return (Legalise(),), said
