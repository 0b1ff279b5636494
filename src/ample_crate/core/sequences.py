"""Image sequences: which files of a folder are the frames of one master, and what is missing."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

ENDINGS = {".dpx", ".tif", ".tiff", ".png", ".exr", ".jpg", ".jpeg"}
NUMBERED = re.compile(r"(.*?)(\d+)(\.[A-Za-z]+)$")


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

    Two files belong together when they differ in the last number of their name alone.
    """
    groups: dict[tuple[str, str], list[tuple[int, str]]] = defaultdict(list)
    rest: list[str] = []
    for name in names:
        match = NUMBERED.fullmatch(name)
        if match and match[3].lower() in ENDINGS:
            groups[match[1], match[3]].append((int(match[2]), name))
        else:
            rest.append(name)
    found = []
    for (head, ending), members in sorted(groups.items()):
        members.sort()
        numbers = [n for n, _ in members]
        if len(members) >= least and len(set(numbers)) == len(numbers):
            found.append(Sequence(head, ending, tuple(name for _, name in members), tuple(numbers)))
        else:
            rest += [name for _, name in members]
    return found, sorted(rest)


def gaps_told(sequence: Sequence) -> list[str]:
    """Say in plain words which numbers are missing."""
    return [f"Frame {a} is missing." if a == b else f"Frames {a} to {b} are missing." for a, b in sequence.missing]
