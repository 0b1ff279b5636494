"""The level: the lowest that holds a picture at its rate, or the one that is asked for."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import ceil
from typing import cast

from ..formats.levels import Level, Levels, Load
from ..specs.rules import limits
from ..units.values import show_bit_rate
from .coding import Coding
from .notes import NOTHING, Notes, caution
from .request import Request
from .steps import PictureFormat

REFUSED = "A player built to the level may refuse or stutter."


@dataclass(frozen=True)
class Claim:
    """What weighs on a level: the picture, its rate in b/s, the least rate that is asked; and the
    wrapper that tells the level.
    """

    load: Load
    rate: int
    floor: Fraction | None
    wrapper: str


def load_of(f: PictureFormat, kept: int) -> Load:
    """Give a picture as it weighs on a level; `kept` frames stay in the decoder."""
    return Load(f.size, f.rate, f.fields is not None, kept)


def highest_allowed(request: Request, coding: Coding) -> Level | None:
    """Give the highest level that the spec allows, where it says one by its number."""
    levels = coding.codec.levels
    most = request.values.cap("picture.level")
    if levels is None or levels.named_with_profile or not most:
        return None
    return levels.by_number(most, coding.profile)


def plan_level(request: Request, coding: Coding, claim: Claim) -> tuple[Level | None, Notes]:
    """Settle the level; None of a codec that has none."""
    levels = coding.codec.levels
    if levels is None:
        return None, NOTHING
    if levels.named_with_profile:
        return _with_profile(levels, coding, claim)
    return _by_number(request, levels, coding, claim)


def _by_number(
    request: Request, levels: Levels, coding: Coding, claim: Claim
) -> tuple[Level | None, Notes]:
    top = highest_allowed(request, coding)
    needed = levels.lowest(claim.load, claim.rate, coding.profile, wrapper=claim.wrapper)
    requirement = request.spec.requirement("picture.level")
    chosen = needed
    if requirement is not None and requirement.rule.operator == "is":
        exact = Fraction(cast(Fraction, limits(requirement)[0]))
        chosen = levels.by_number(exact, coding.profile)
    held = needed is not None and (top is None or needed.number <= top.number)
    if chosen is not None and held:
        return chosen, NOTHING
    said = _out_of_level(levels, coding.profile, claim, top, needed)
    return chosen or levels.table(coding.profile)[-1], said


def _out_of_level(
    levels: Levels, profile: str, claim: Claim, top: Level | None, need: Level | None
) -> Notes:
    """Say which limit of the highest allowed level is passed."""
    highest, load = top, claim.load
    if load.interlaced and (top is None or not top.fields):
        highest = levels.with_fields()[-1]
    if highest is not None and highest.holds(load):
        return _too_fast(levels, profile, claim, top, highest)
    held = f"; level {top.name} holds {top.says}" if top else ""
    return caution(
        "picture.level",
        "The asked level cannot hold this picture.",
        REFUSED,
        f"{levels.said(load)}; it needs {f'level {need.name}' if need else 'more than any level'}"
        f"{held}",
        "Ask the recipient to allow the higher level, or a smaller picture.",
        blocks=True,
    )


def _too_fast(
    levels: Levels, profile: str, claim: Claim, top: Level | None, highest: Level
) -> Notes:
    asked = highest is top
    fields = "" if asked else ", the highest with fields,"
    within = f" in {profile}" if levels.by_profile else ""
    return caution(
        "picture.level",
        "The asked level does not allow this rate."
        if asked
        else "No level allows this rate in fields.",
        REFUSED,
        f"{show_bit_rate(claim.rate)}; level {highest.name}{fields} allows "
        f"{show_bit_rate(highest.bit_rate)}{within}",
        _lower_rate(highest.bit_rate, claim.floor),
        blocks=True,
    )


def _with_profile(levels: Levels, coding: Coding, claim: Claim) -> tuple[Level | None, Notes]:
    """Hold a picture against the level that is asked by profile and level, or take the lowest that
    holds it.
    """
    asked = levels.by_name(coding.profile_level) if coding.profile_level else None
    level = asked or levels.lowest(claim.load, claim.rate, coding.profile, wrapper=claim.wrapper)
    if level is None:
        return None, caution(
            "picture.profile_level",
            "No level of this profile holds this picture.",
            "A player built to a level may refuse or stutter.",
            levels.said(claim.load),
            "Ask the recipient for a smaller picture or another codec.",
            blocks=True,
        )
    return level, _held(levels, level, claim)


def _held(levels: Levels, level: Level, claim: Claim) -> Notes:
    if not level.holds(claim.load):
        return caution(
            "picture.profile_level",
            "The asked level cannot hold this picture.",
            REFUSED,
            f"{levels.said(claim.load)}; {level.name} holds {level.says}",
            "Ask the recipient to allow a higher level, or a smaller picture.",
            blocks=True,
        )
    if claim.rate <= level.bit_rate:
        return NOTHING
    return caution(
        "picture.profile_level",
        "The asked level does not allow this rate.",
        REFUSED,
        f"{show_bit_rate(claim.rate)}; {level.name} allows {show_bit_rate(level.bit_rate)}",
        _lower_rate(level.bit_rate, claim.floor),
        blocks=True,
    )


def _lower_rate(most: int, floor: Fraction | None) -> str:
    """Say which rate to choose, where the spec allows it."""
    if floor is not None and most < floor:
        return (
            f"The spec asks for at least {show_bit_rate(ceil(floor))}: ask the "
            f"recipient which of the two counts."
        )
    return f"Choose at most {show_bit_rate(most)}."
