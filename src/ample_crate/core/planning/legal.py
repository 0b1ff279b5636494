"""Whether levels are brought within what television takes."""

from __future__ import annotations

from collections.abc import Sequence

from ..errors import BadValue, Impossible
from ..facts import Facts
from ..formats.colour import CARRIED
from ..formats.pixels import RGB
from ..specs.requirement import Requirement
from ..specs.rules import test
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


def plan_legal(
    chosen: str, f: PictureFormat, master: Facts, rules: Sequence[Requirement] = ()
) -> tuple[tuple[Legalise, ...], Notes]:
    """Plan whether levels are brought within limits.

    Args:
        chosen: whether a person asks for it: nothing is done to levels else.
        f: of the picture as it is made.
        master: what is known of it.
        rules: what is asked of its levels.

    Raises:
        Impossible: pictures whose levels are not judged by EBU R 103.
    """
    judged = not (f.chroma == RGB or f.full_range or f.transfer in CARRIED)
    if not chosen:
        return (), _left(master, rules) if judged else NOTHING
    if not judged:
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


def _left(master: Facts, rules: Sequence[Requirement]) -> Notes:
    """Say that levels which are left as they are break a rule."""
    out = master.value(KEY)
    if out is None or all(test(rule)(out) for rule in rules if rule.when is None):
        return NOTHING
    return caution(
        KEY,
        "Levels leave EBU R 103.",
        "The spec asks for less, and nothing is done to them.",
        f"up to {float(out):g} % of a frame",
        "Have them brought within it, softly, on the planning bench (colour), or ask for a master "
        "that keeps to it.",
    )
