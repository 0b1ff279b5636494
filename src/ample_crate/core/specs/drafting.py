"""A spec written from a file that a recipient accepted: its facts become rules, and a person says
which matter.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import ceil
from typing import Any

from .. import formats
from ..facts import Facts
from ..facts.properties import PROPERTIES, Property, split_track
from ..units.values import Value
from .requirement import Requirement
from .wording import asked


@dataclass(frozen=True)
class Proposal:
    """A rule that a fact suggests.

    Attributes:
        usual: whether such a rule is usually meant, so that it is ticked before anyone looks.
        shown: what the file has.
    """

    requirement: Requirement
    usual: bool
    shown: str
    because: str


DRAFTS = ("exactly", "at most", "nearly", "within")
# A figure that was measured is rounded up to the next of these, as recipients write round figures.
ROUND = {"bit_rate": 500_000, "bytes": 1_000_000}


def proposals(facts: Facts, source: str) -> list[Proposal]:
    """Propose a rule for each fact that a recipient could care for.

    Args:
        facts: of the file that was accepted; measured where possible.
        source: what the requirements are said to come from.
    """
    made = []
    drafted = [p for draft in DRAFTS for p in PROPERTIES.values() if p.draft == draft]
    for prop in drafted:
        for track in _tracks(prop.key, facts):
            value = facts.value(track.removesuffix("@1"))
            if value is None or _idle(prop.key, value, facts):
                continue
            rule, because = _rule(prop, value)
            one = Requirement.model_validate({"property": track, "rule": rule, "source": source})
            made.append(
                Proposal(one, not prop.seldom, prop.kind.show(value), f"{because}: {asked(one)}.")
            )
    return made


def _tracks(key: str, facts: Facts) -> list[str]:
    """Give a sound property once where all tracks say the same, else once a track."""
    if not key.startswith("sound.") or key == "sound.tracks":
        return [key]
    rows = facts.tracks(key)
    if len({fact.value for _, fact in rows}) == 1:
        return [key]
    return [f"{key}@{split_track(k)[1]}" for k, fact in rows if fact.value is not None]


def _idle(key: str, value: Value, facts: Facts) -> bool:
    """Say whether a rule on a value would say nothing, or say the same as another."""
    if key == "picture.interval_lines":
        return value == 0
    if key == "motion.field_order":
        return bool(facts.value("motion.scan") != "interlaced")
    if key == "picture.profile":
        return facts.value("picture.profile_level") is not None
    if key == "picture.pixel_aspect":
        codec = formats.PICTURE.get(str(facts.value("picture.codec")))
        states_shape = codec is not None and codec.shapes is not None
        return states_shape or facts.value("picture.display_aspect") is None
    if key in {"picture.bit_rate", "picture.peak_bit_rate", "picture.rate_mode"}:
        known = formats.PICTURE.get(str(facts.value("picture.codec")))
        return known is not None and not known.rated
    if key == "sound.bit_rate":
        sound = formats.SOUND.get(str(facts.value("sound.codec")))
        return sound is not None and sound.plain
    if key in {"file.drop_frame", "picture.alpha", "motion.intra_only"}:
        return value is False
    return False


def _rule(prop: Property, value: Any) -> tuple[dict[str, Any], str]:
    stored = prop.kind.stored
    if prop.draft == "at most":
        step = ROUND.get(prop.kind.name)
        if step:
            value = ceil(Fraction(value, step)) * step
        elif prop.kind.name in {"dbtp", "lufs", "percent"}:
            value = Fraction(ceil(value))
        return {"at_most": _plain(prop, value, stored)}, "No more than the file has, rounded up"
    if prop.draft == "nearly":
        if prop.kind.name == "bit_rate" and value >= 1_000_000:
            value = round(Fraction(value, 100_000)) * 100_000
        if prop.kind.name == "lufs":
            value = Fraction(round(value))
        return {
            "is": _plain(prop, value, stored),
            "tolerance": prop.tolerance,
        }, "As the file has it, with the usual tolerance"
    if prop.draft == "within":
        return {"between": list(prop.margins)}, "The usual tolerance (common practice)"
    return {"is": _plain(prop, value, stored)}, "As the file has it"


def _plain(prop: Property, value: Any, stored: Any) -> Any:
    """Write a value as a person would in a spec file."""
    if prop.kind.name == "bit_rate":
        return (
            f"{value // 1_000_000} Mb/s"
            if value % 1_000_000 == 0
            else f"{value // 1000} kb/s"
            if value % 1000 == 0
            else f"{value} b/s"
        )
    if prop.kind.name == "bytes":
        return f"{value // 1_000_000} MB" if value % 1_000_000 == 0 else f"{value} B"
    if prop.kind.name == "ratio":
        return f"{value.numerator}:{value.denominator}"
    if prop.kind.name in {"rate", "level", "lufs", "dbtp", "percent"} and isinstance(
        value, Fraction
    ):
        return (
            value.numerator
            if value.denominator == 1
            else float(value)
            if prop.kind.name == "level"
            else f"{value.numerator}/{value.denominator}"
        )
    if prop.kind.name == "hertz":
        return f"{value / 1000:g} kHz"
    return stored(value)
