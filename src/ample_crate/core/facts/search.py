"""What a person types to find a master, read as conditions: words, and figures with units."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from ..units.values import BYTE_UNITS, TIME_UNITS, show_rate, show_seconds
from . import Facts
from .properties import lookup

FIGURE = re.compile(
    r"(over|under|longer than|shorter than|>|<)\s*([0-9.]+)\s*([A-Za-z]+)", re.IGNORECASE
)


@dataclass(frozen=True)
class Bound:
    """A figure that must be exceeded or stayed under: bytes of size, or seconds of length."""

    what: Literal["size", "seconds"]
    over: bool
    figure: float


@dataclass(frozen=True)
class Query:
    """A search: all words must be there, none of the barred ones, and every bound must hold."""

    words: tuple[str, ...] = ()
    barred: tuple[str, ...] = ()
    bounds: tuple[Bound, ...] = ()
    unread: tuple[str, ...] = ()


def read(text: str) -> Query:
    """Read a search such as `interlaced 5.1 over 10 GB`, `alpha -prores`, `longer than 30 min`.

    Figures whose unit is not known are given back in `unread`.
    """
    bounds, unread = [], []
    units = {k.lower(): k for k in BYTE_UNITS}

    def figure(match: re.Match[str]) -> str:
        word, number, unit = match[1].lower(), match[2], match[3]
        over = word in {"over", "longer than", ">"}
        try:
            if unit.lower() in units:
                bounds.append(
                    Bound("size", over, float(Fraction(number) * BYTE_UNITS[units[unit.lower()]]))
                )
            elif unit.lower() in TIME_UNITS:
                bounds.append(
                    Bound("seconds", over, float(Fraction(number) * TIME_UNITS[unit.lower()]))
                )
            else:
                unread.append(match[0])
        except ValueError:
            unread.append(match[0])
        return " "

    rest = FIGURE.sub(figure, text).lower().split()
    return Query(
        tuple(w for w in rest if not w.startswith("-")),
        tuple(w[1:] for w in rest if w.startswith("-") and len(w) > 1),
        tuple(bounds),
        tuple(unread),
    )


def summary(facts: Facts) -> list[str]:
    """Say in a few words what a file is."""
    said: list[str] = []
    size, rate = facts.value("picture.size"), facts.fraction("motion.rate")
    if size is not None:
        said.append(lookup("picture.size").kind.show(size))
        fields = facts.value("motion.scan") == "interlaced"
        if rate is not None and facts.value("motion.frames") != 1:
            said.append(f"{show_rate(rate)}{' interlaced' if fields else ''}")
        said.append(lookup("picture.codec").kind.show(facts.value("picture.codec")))
        if facts.value("picture.alpha"):
            said.append("alpha")
    if facts.value("sound.tracks"):
        said.append(
            f"{facts.value('sound.layout')} "
            f"{lookup('sound.codec').kind.show(facts.value('sound.codec'))}"
        )
    seconds = facts.fraction("file.duration")
    if seconds:
        said.append(show_seconds(seconds))
    return said


def words(name: str, production: str, facts: Facts, more: Iterable[str] = ()) -> str:
    """Give the text that a search looks through: the name, the production, and what the facts say
    in the trade's words.
    """
    said = [name, production, *summary(facts), *more]
    for key in (
        "picture.codec",
        "picture.profile",
        "picture.chroma",
        "picture.transfer",
        "motion.scan",
        "motion.field_order",
        "motion.cadence",
        "file.wrapper",
        "sound.codec",
        "sound.layout",
        "sound.language",
    ):
        value = facts.value(key)
        if value is not None:
            said += [str(value), lookup(key).kind.show(value)]
    size, rate, depth = (
        facts.value("picture.size"),
        facts.fraction("motion.rate"),
        facts.value("picture.bit_depth"),
    )
    if size is not None:
        said += [
            str(size),
            f"{size.height}{'i' if facts.value('motion.scan') == 'interlaced' else 'p'}",
        ]
    else:
        said.append("sound alone")
    if rate is not None:
        said.append(f"{float(rate):.3f}".rstrip("0").rstrip(".") + "fps")
    if depth:
        said.append(f"{depth}bit")
    if facts.value("motion.intra_only"):
        said.append("intra")
    if facts.value("motion.steady") is False:
        said.append("variable rate vfr")
    if not facts.value("sound.tracks"):
        said.append("mute")
    return " ".join(said).lower()
