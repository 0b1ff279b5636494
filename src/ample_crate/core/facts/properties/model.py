"""What a property's row says: all that the rest of the product asks about a property."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any, Literal, NamedTuple

from ... import formats
from ...units.values import KINDS, Kind, Value
from ..words import Words, written

Group = Literal["picture", "motion", "sound", "file", "delivery"]
GROUPS: tuple[Group, ...] = ("picture", "motion", "sound", "file", "delivery")
Depth = Literal["ledger", "everything"]
# Codecs and wrappers are said by the names of the trade.
_KINDS = KINDS | {"name": replace(KINDS["name"], show=formats.label)}
# What a figure can be at all, by the kind of its values, where its row says no more.
WITHIN_REASON: dict[str, tuple[int, int]] = {
    "count": (0, 10**9),
    "seconds": (0, 10**7),
    "percent": (0, 1000),
    "degrees": (-360, 360),
}
USUAL_SLIPS = (Fraction(10**6), Fraction(1000), Fraction(1, 1000), Fraction(1, 10**6))


class Flag(NamedTuple):
    """A yes or no in words: what is so, and what a spec then asks for instead."""

    yes: str
    no: str
    asks: str
    forbids: str


@dataclass(frozen=True)
class Property:
    """One property.

    Attributes:
        key: its group and name.
        label: its name on screen.
        kind: of its values.
        proof: "declared" where the stream's own header is what the recipient reads, "measured"
            where only decoding tells the truth.
        meaning: in a line.
        depth: how deep a file is measured to find it.
        of_whole: whether it says nothing of a range of what it was measured over.
        moving: whether it means nothing of one image; all properties of motion do not.
        chosen: whether the planner settles it, so that it can be chosen where the spec leaves it
            open; every other one comes out of the encode.
        rewrap: whether another wrapper or name mends it, the coded streams left as they are.
        rated: whether only an encoder that aims at a rate can be asked for it.
        predicted: what a prediction of it says: the value itself, the most that it comes to, or a
            figure about which it lands.
        draft: how a rule drawn from an accepted file asks for it; not at all where empty.
        tolerance: of a rule that asks for it nearly.
        margins: of a rule that asks for it within limits.
        seldom: whether such a rule is proposed, and not taken by itself.
        words: what can be read or written of it.
        plausible: the least and the most that a figure of it can be in its base unit (common
            practice); None where its kind tells.
        slips: factors by which a figure is out where its unit was left out or mistaken.
        usual: usual values, where it has no words.
        unit: of bare figures in an editor, where it is not its kind's.
        phrase: a requirement on it as a sentence, with {verb} and {asked}, where "the ... must be
            ..." reads badly.
        together: the same of a range about nought.
        flag: of a yes or no, what is so and what is asked for instead.
        corrections: what a person may correct it to; none where it is not corrected by hand.
    """

    key: str
    label: str
    kind: Kind
    proof: Literal["declared", "measured"]
    meaning: str
    depth: Depth = "ledger"
    of_whole: bool = False
    moving: bool = False
    chosen: bool = False
    rewrap: bool = False
    rated: bool = False
    predicted: Literal["exactly", "at most", "about"] = "exactly"
    draft: Literal["exactly", "at most", "nearly", "within", ""] = ""
    tolerance: str = ""
    margins: tuple[str, str] = ("", "")
    seldom: bool = False
    words: Words | None = None
    plausible: tuple[Fraction | int, Fraction | int] | None = None
    slips: tuple[Fraction, ...] = USUAL_SLIPS
    usual: tuple[str, ...] = ()
    unit: str = ""
    phrase: str = ""
    together: str = ""
    flag: Flag | None = None
    corrections: tuple[str, ...] = ()

    @property
    def group(self) -> Group:
        """Give the ledger's group, which is the first part of the key."""
        head = self.key.split(".", 1)[0]
        for group in GROUPS:
            if head == group:
                return group
        raise AssertionError(self.key)

    @property
    def needs_motion(self) -> bool:
        """Say whether it means nothing of one image."""
        return self.moving or self.group == "motion"

    @property
    def within_reason(self) -> tuple[Fraction | int, Fraction | int] | None:
        """Give the least and the most that a figure of it can be; None where there is no limit."""
        return self.plausible or WITHIN_REASON.get(self.kind.name)

    def read(self, value: object) -> Value:
        """Read what a person or a spec says of the property, in the words by which files are read.

        Raises:
            BadValue: it is not in the property's unit, or none of its words.
        """
        read = self.kind.read(value)
        return written(self.words, self.label, read) if isinstance(read, str) else read


def row(
    key: str,
    label: str,
    kind: str,
    proof: Literal["declared", "measured"],
    meaning: str,
    **more: Any,
) -> Property:
    """Make a property's row; `kind` is the name of its values' kind."""
    return Property(key, label, _KINDS[kind], proof, meaning, **more)
