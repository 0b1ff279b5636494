"""A mix that a person sets: how much of each channel taken goes into each one made."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from fractions import Fraction
from math import log10

from ..errors import BadValue, Impossible
from ..units import loudspeakers
from ..units.loudspeakers import Mix, Speakers
from .notes import Notes, caution, step

MIX = "mix"
LEAST, MOST = Fraction(-60), Fraction(20)  # dB
KNOWN = frozenset(one for speakers in loudspeakers.LAYOUTS.values() for one in speakers)
TERM = re.compile(r"([A-Za-z]+)\s*([-+\u2212]?\d+(?:\.\d+)?)?\s*(?:dB)?", re.IGNORECASE)
EXAMPLE = "Write it like this: FL = FL, FC -3; FR = FR, FC -3."
Matrix = Mapping[str, Mapping[str, Fraction]]


def read(text: str) -> Matrix:
    """Read a mix: of each loudspeaker made, those taken with their gains in dB, as in "FL = FL, FC
    -3; FR = FR, FC -3".

    Raises:
        BadValue: it is none.
    """
    rows: dict[str, dict[str, Fraction]] = {}
    for line in filter(None, (part.strip() for part in text.split(";"))):
        name, equals, terms = line.partition("=")
        made = _speaker(name)
        if not equals or made in rows:
            raise BadValue(f"'{line}' does not say once what {made} is made of.", EXAMPLE)
        rows[made] = _row(terms)
    return rows


def shown(matrix: Matrix) -> str:
    """Give a mix as it is read."""
    rows = (
        f"{made} = {', '.join(f'{one} {_decibels(gain)}'.strip() for one, gain in row.items())}"
        for made, row in matrix.items()
    )
    return "; ".join(rows)


def mixed(matrix: Matrix, have: Speakers, want: Speakers) -> Mix:
    """Bring the channels of some loudspeakers to those of others as a person set it; what is not
    named is silent.

    Raises:
        Impossible: it names others, or nothing would be heard.
    """
    taken = {one for row in matrix.values() for one in row}
    for names, there, whose in ((matrix.keys(), want, "made"), (taken, have, "taken")):
        odd = sorted(set(names) - set(there))
        if odd:
            raise Impossible(
                f"No channel that is {whose} is {odd[0]}: there {_are(there)}.",
                "Set the mix anew, or take it back.",
            )
    gains = tuple(tuple(_factor(matrix.get(made, {}).get(one)) for one in have) for made in want)
    if not any(any(row) for row in gains):
        raise Impossible("Nothing of the master's sound would be heard.", "Set the mix anew.")
    return Mix("set", gains)


def said(matrix: Matrix, have: Speakers, want: Speakers) -> Notes:
    """Say that a mix was set, and what comes of it."""
    taken = {one for row in matrix.values() for one in row}
    left = [one for one in have if one not in taken]
    silent = [one for one in want if not matrix.get(one)]
    notes = step("Channels mixed as set", shown(matrix) + " (dB).", "sound.layout")
    if left:
        notes += caution(
            "sound.layout",
            f"{_and(left)} {'goes' if len(left) == 1 else 'go'} nowhere.",
            "What the master has there does not reach the recipient.",
            f"{len(left)} of {len(have)} channels",
            "Set how much of it is to be heard, if any is.",
        )
    if silent:
        notes += caution(
            "sound.layout",
            f"{_and(silent)} will be silent.",
            "Nothing of the master is mixed there.",
            f"{len(silent)} of {len(want)} channels",
            "Set what is to be heard there, unless it is meant so.",
        )
    return notes


def decibels(gain: Fraction) -> float | None:
    """Give a factor in dB; None for nothing."""
    return 20 * log10(gain) if gain else None


def _row(text: str) -> dict[str, Fraction]:
    row: dict[str, Fraction] = {}
    for term in filter(None, (part.strip() for part in text.split(","))):
        found = TERM.fullmatch(term)
        if found is None:
            raise BadValue(f"'{term}' is no channel with its gain.", EXAMPLE)
        one = _speaker(found[1])
        gain = Fraction((found[2] or "0").replace("\N{MINUS SIGN}", "-"))
        if one in row or not LEAST <= gain <= MOST:
            raise BadValue(
                f"'{term}' is taken twice, or by more than a gain can be.",
                f"Name each channel once, with {LEAST} to +{MOST} dB.",
            )
        row[one] = gain
    return row


def _speaker(text: str) -> str:
    name = text.strip().upper()
    if name not in KNOWN:
        raise BadValue(f"'{text.strip()}' is no loudspeaker.", f"There {_are(sorted(KNOWN))}.")
    return name


def _factor(gain: Fraction | None) -> Fraction:
    if gain is None:
        return loudspeakers.NOTHING
    return Fraction(round(10 ** (float(gain) / 20) * 10**6), 10**6)


def _decibels(gain: Fraction) -> str:
    return f"{float(gain):+g}" if gain else ""


def _and(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def _are(names: Sequence[str]) -> str:
    return f"{'is' if len(names) == 1 else 'are'} {', '.join(names)}"
