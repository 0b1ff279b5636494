"""Every property a fact can have or a requirement can ask for: a row each, a module a group."""

from __future__ import annotations

import difflib
from fractions import Fraction

from ...errors import BadSpec
from ...units.values import Value
from . import delivery, file, motion, picture, picture_content, sound
from .model import GROUPS, Depth, Group, Property

__all__ = [
    "GROUPS",
    "PROPERTIES",
    "Depth",
    "Group",
    "Property",
    "disagree",
    "lookup",
    "split_track",
    "track_key",
]
PROPERTIES: dict[str, Property] = {
    one.key: one
    for module in (picture, picture_content, motion, sound, file, delivery)
    for one in module.PROPERTIES
}
# Headers round their lengths and name nominal rates: only more than this is a contradiction.
LENGTH_SLACK, RATE_SLACK = Fraction(1, 20), Fraction(1, 10)


def disagree(key: str, declared: Value | None, measured: Value | None) -> bool:
    """Say whether what a header declares and what decoding shows contradict each other."""
    if declared is None or measured is None:
        return False
    kind = lookup(key).kind.name
    if key == "picture.vbv":
        return int(measured) > int(declared)  # type: ignore[arg-type]
    if kind == "seconds":
        return abs(Fraction(declared) - Fraction(measured)) > LENGTH_SLACK  # type: ignore[arg-type]
    if kind == "bit_rate":
        return abs(Fraction(declared) - Fraction(measured)) > RATE_SLACK * Fraction(measured)  # type: ignore[arg-type]
    return declared != measured


def split_track(key: str) -> tuple[str, int]:
    """Split "sound.codec@2" into ("sound.codec", 2); a key without a track number is track 1."""
    base, _, track = key.partition("@")
    return base, int(track) if track else 1


def track_key(base: str, track: int) -> str:
    """Give the key of a property in a numbered sound track, counting from 1."""
    return base if track == 1 else f"{base}@{track}"


def lookup(key: str) -> Property:
    """Find a property by key, with or without a track number.

    Raises:
        BadSpec: there is no such property; the message names the nearest ones.
    """
    base, _ = split_track(key)
    try:
        return PROPERTIES[base]
    except KeyError:
        near = difflib.get_close_matches(base, PROPERTIES, n=3)
        hint = (
            f"Did you mean {' or '.join(near)}?" if near else "See docs/properties.md for the list."
        )
        raise BadSpec(f"There is no property '{base}'.", hint) from None
