"""Image sequences: which files of a folder are the frames of one master, and what is missing."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction

from ..errors import BadValue
from ..units.values import fraction

ENDINGS = {".dpx", ".tif", ".tiff", ".png", ".exr", ".jpg", ".jpeg"}
MOST_MISSING = 500  # numbers between two images of one sequence
MOST_DIGITS = 20
NUMBERED = re.compile(r"(.*?)(\d+)(\.[A-Za-z]+)$")
# A whole, as `Sequence.name` names it.
WHOLE = re.compile(r"(?P<head>.*)\[(?P<first>\d+)-(?P<last>\d+)\]\.[A-Za-z]+")


SLOWEST, FASTEST = 1, 1000  # frames a second


def rate_of(text: str) -> Fraction:
    """Read the rate of a sequence, such as "24" or "30000/1001".

    Raises:
        BadValue: it is none, or beyond reason.
    """
    rate = fraction(text)
    if not SLOWEST <= rate <= FASTEST:
        raise BadValue(
            f"{text} frames a second is beyond reason for a sequence.",
            "Usual are 24, 25 and 30000/1001.",
        )
    return rate


@dataclass(frozen=True)
class Sequence:
    """Numbered images that belong together.

    Attributes:
        head, ending: what stands before and after the number.
        names: file names in the order of their numbers.
        numbers: their numbers.
    """

    head: str
    ending: str
    names: tuple[str, ...]
    numbers: tuple[int, ...]

    @property
    def name(self) -> str:
        """Name the whole: "roll_[0001-0240].dpx"."""
        first, last = (NUMBERED.fullmatch(n) for n in (self.names[0], self.names[-1]))
        assert first and last
        return f"{self.head}[{first[2]}-{last[2]}]{self.ending}"

    @property
    def missing(self) -> list[tuple[int, int]]:
        """Give the gaps in the numbering as (first, last) missing number."""
        pairs = zip(self.numbers, self.numbers[1:], strict=False)
        return [(a + 1, b - 1) for a, b in pairs if b > a + 1]

    @property
    def missing_count(self) -> int:
        """Count the missing numbers."""
        return sum(b - a + 1 for a, b in self.missing)


def gather(names: Iterable[str], least: int = 2) -> tuple[list[Sequence], list[str]]:
    """Part file names into sequences and the rest.

    Two files belong together when they differ in the last number of their name alone, and no more
    numbers are missing between them than a gap of some seconds has: what lies further apart are two
    rolls, not one with a hole.
    """
    groups: dict[tuple[str, str], list[tuple[int, str]]] = defaultdict(list)
    rest: list[str] = []
    for name in names:
        match = NUMBERED.fullmatch(name)
        # A number of twenty digits counts no frames.
        if match and len(match[2]) < MOST_DIGITS and match[3].lower() in ENDINGS:
            groups[match[1], match[3]].append((int(match[2]), name))
        else:
            rest.append(name)
    found = []
    for (head, ending), members in sorted(groups.items()):
        members.sort()
        for roll in _rolls(members):
            numbers = [n for n, _ in roll]
            if len(roll) >= least and len(set(numbers)) == len(numbers):
                found.append(
                    Sequence(head, ending, tuple(name for _, name in roll), tuple(numbers))
                )
            else:
                rest += [name for _, name in roll]
    return found, sorted(rest)


def _rolls(members: list[tuple[int, str]]) -> Iterator[list[tuple[int, str]]]:
    """Part numbered names where too many numbers are missing between two."""
    roll: list[tuple[int, str]] = []
    for member in members:
        if roll and member[0] - roll[-1][0] - 1 > MOST_MISSING:
            yield roll
            roll = []
        roll.append(member)
    if roll:
        yield roll


GAP = re.compile(r"Frames? \d+( to \d+)? (is|are) missing\.")


def tells_a_gap(note: str) -> bool:
    """Say whether a note is one of `gaps_told`."""
    return GAP.fullmatch(note) is not None


def gaps_told(sequence: Sequence) -> list[str]:
    """Say in plain words which numbers are missing."""
    return [
        f"Frame {a} is missing." if a == b else f"Frames {a} to {b} are missing."
        for a, b in sequence.missing
    ]
