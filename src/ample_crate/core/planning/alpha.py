"""Transparency: kept as straight alpha, laid over a background, or refused; never lost in
silence.
"""

from __future__ import annotations

from ..specs.delivery import STILL
from .coding import Coding
from .notes import NOTHING, Notes, caution, question, step
from .request import Request
from .steps import Flatten, PictureFormat, PictureStep, Unpremultiply
from .under import still_of

KEY = "picture.alpha"
Way = tuple[tuple[PictureStep, ...], Notes]


def plan_alpha(request: Request, have: PictureFormat, coding: Coding) -> Way:
    """Say what becomes of the master's transparency: the steps, and what is to be said of them."""
    if not have.alpha:
        return (), _opaque(coding)
    multiplied = request.whole.value("picture.alpha_mode") == "premultiplied"
    straight: tuple[PictureStep, ...] = (Unpremultiply(),) if multiplied else ()
    if coding.pixels.alpha:
        return straight, _divided() if multiplied else NOTHING
    if request.whole.value("picture.alpha_use") == "wholly opaque":
        return (), step(
            "Transparency left out", "It is opaque all over: nothing shows through.", KEY
        )
    background = request.values.background
    if background == "refused":
        return (), _refused(coding)
    if background == "none":
        return straight, _dropped(coding)
    if background == STILL:
        still, laid = still_of(request, have)
        return (*straight, Flatten(over=STILL, still=still)), laid
    return (*straight, Flatten(over=background)), _flattened(background, coding)


def _opaque(coding: Coding) -> Notes:
    if not coding.pixels.alpha:
        return NOTHING
    return caution(
        KEY,
        "The master has no transparency.",
        "The file carries a channel for it that is opaque all over.",
        "no alpha in the master",
        "Nothing to do if the spec asks it.",
    )


def _divided() -> Notes:
    return step(
        "Straight alpha made of premultiplied",
        "The master's colour is multiplied by its transparency already; players that multiply "
        "again would draw dark edges.",
        "picture.alpha_mode",
    )


def _none(coding: Coding) -> str:
    """Say that what is made carries no transparency."""
    made = coding.said
    return f"{made} is made without it here" if coding.codec.alpha_unmade else f"{made} has none"


def _refused(coding: Coding) -> Notes:
    return question(
        "background",
        KEY,
        "The master has transparency, and the file would have none.",
        f"{_none(coding)}, and this spec lays it over nothing by itself.",
        "alpha in the master",
        "Choose what it is laid over, or ask for a master without transparency.",
    )


def _dropped(coding: Coding) -> Notes:
    return caution(
        KEY,
        "The master's transparency is dropped.",
        f"{_none(coding)}; what was clear shows the colour that lies under it.",
        "alpha in the master",
        "Choose what it is laid over, or ask whether the recipient wants transparency.",
    )


def _flattened(background: str, coding: Coding) -> Notes:
    over = "a checker" if background == "checker" else background
    return step(f"Laid over {over}", "What is clear shows it.", KEY) + caution(
        KEY,
        f"The master's transparency is laid over {over}.",
        f"{_none(coding)}. {coding.codec.alpha_unmade}".strip(),
        "alpha in the master",
        "Choose another background, or ask whether the recipient wants transparency.",
    )
