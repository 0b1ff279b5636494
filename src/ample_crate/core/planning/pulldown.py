"""Film that is carried in fields, two and three in turn: its own frames are found again.

Four frames of film lie in five of two fields. That of 30 000/1001 a second 24 000/1001 are film is
the custom where television has 60 fields (2:3 pulldown: common practice).
"""

from __future__ import annotations

from fractions import Fraction

from ..errors import BadValue, Impossible
from ..facts import Facts
from ..formats.pixels import RGB
from ..units.fields import FieldOrder
from .notes import NOTHING, Notes, caution, step
from .plan import Plan
from .steps import FIELDS_MATCHED_IN, FILM_OF_FIELDS, PictureFormat, UndoPulldown
from .streams import MadePicture

PULLDOWN, UNDONE = "pulldown", "undone"
CARRIERS = frozenset({Fraction(30000, 1001), Fraction(30)})
FOUND = "2:3 in fields"  # as the cadence is named


def choice_of(master: Facts, chosen: object) -> str | None:
    """Read whether 2:3 pulldown is undone: "undone", "" for not, None where nobody chose.

    Raises:
        BadValue: it is neither, or the master cannot carry film so.
    """
    if chosen is None:
        return None
    text = str(chosen)
    if text not in ("", UNDONE):
        raise BadValue(f"'{text}' is nothing that is done to pulldown.", f"Choose {UNDONE}.")
    if text and not may_carry(master):
        raise BadValue(
            "Only fields of 29.97 or 30 frames a second carry film by two and three.",
            "Leave the pulldown as it is.",
        )
    return text


def may_carry(master: Facts) -> bool:
    """Say whether a master may carry film so: fields are matched by their luma."""
    fields = master.value("motion.scan") == "interlaced"
    luma = master.value("picture.chroma") != RGB and master.value("picture.alpha") is not True
    return fields and luma and master.fraction("motion.rate") in CARRIERS


def found(master: Facts) -> bool | None:
    """Say whether film was found in a master's fields; None where nobody looked."""
    cadence = master.value("motion.cadence")
    return None if cadence is None else str(cadence).startswith(FOUND)


def undoes(
    master: Facts, chosen: str | None, depth: int, rate: Fraction, fields: FieldOrder | None
) -> bool:
    """Say whether film's own frames are made of a master's fields: where a person chose it, else
    where film was found in them and is asked for.

    Args:
        master: its facts.
        chosen: see `choice_of`.
        depth: bits of what is made.
        rate, fields: what is asked.

    Raises:
        Impossible: more bits are asked than fields are matched in.
    """
    if chosen is not None:
        if chosen and depth > FIELDS_MATCHED_IN:
            raise Impossible(
                f"Film is found in fields of {FIELDS_MATCHED_IN} bit here, and what is made has "
                f"{depth}.",
                f"Leave the pulldown as it is, or choose {FIELDS_MATCHED_IN} bit where the spec "
                f"allows that.",
            )
        return bool(chosen)
    own = master.fraction("motion.rate")
    asked = fields is None and own is not None and rate == own * FILM_OF_FIELDS
    return asked and may_carry(master) and found(master) is True and depth <= FIELDS_MATCHED_IN


def choices(master: Facts, chosen: str | None, plan: Plan | None) -> dict[str, str]:
    """Give what is chosen of it, where there is something to choose: the picture is made anew, and
    in no more bits than fields are matched in.
    """
    picture = None if plan is None else plan.picture
    if isinstance(picture, MadePicture) and may_carry(master):
        done = any(isinstance(step, UndoPulldown) for step in picture.steps)
        if done or picture.format.depth <= FIELDS_MATCHED_IN:
            return {PULLDOWN: UNDONE if done else ""}
    # What has no effect can be taken back.
    return {PULLDOWN: chosen} if chosen else {}


def told(master: Facts, source: PictureFormat) -> Notes:
    """Say what is done, and how sure it is that there is film."""
    film = float(source.rate * FILM_OF_FIELDS)
    said = step(
        f"2:3 pulldown undone: {film:.5g} frames of film",
        "Fields of one moment are woven together again, and of five frames the one is dropped that "
        "shows nothing of its own. No field is scaled or mixed.",
        "motion.rate",
        "motion.scan",
        "motion.cadence",
    )
    return said + _doubt(master)


def _doubt(master: Facts) -> Notes:
    sure = found(master)
    if sure:
        return NOTHING
    why = (
        "Nobody has looked yet how its pictures repeat."
        if sure is None
        else f"Its pictures were found otherwise: {master.value('motion.cadence')}."
    )
    return caution(
        "motion.cadence",
        "It is not known that these fields carry film.",
        f"{why} Of fields that each have their own moment a fifth of the motion would be lost, and "
        f"edges would comb.",
        str(master.value("motion.cadence") or "not measured"),
        "Look at the strip of frames on the planning bench, or have everything of the master "
        "measured.",
    )
