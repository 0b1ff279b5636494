"""What stands before a programme and after it: colour bars with a tone, a slate, black."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import Literal, get_args

from ..errors import BadValue
from ..specs.rules import bounds
from ..specs.spec import Spec
from ..units.parts import Part
from ..units.values import read_seconds
from .titles import titles

LEADER, TAIL = "leader", "tail"
Kind = Literal["bars", "slate", "black"]
KINDS: tuple[Kind, ...] = get_args(Kind)
PART = re.compile(r"\s*(\w+)\s+(.+?)\s*")
LONGEST = 600  # seconds: a leader of ten minutes is a mistake
BLACK = Fraction(10)  # seconds of black before a programme, where the leader is longer
# 1 kHz (common practice); its level: EBU R 68, and SMPTE RP 155 where television has 60 fields.
PITCH, ALIGNED, ALIGNED_60 = 1000, -18, -20


class Standing(Part):
    """A picture that stands for so many frames."""

    kind: Kind
    frames: int


class Around(Part):
    """What stands before a programme, in order, and how many frames of black after it.

    Attributes:
        lines: what is written on a slate.
        tone: dBFS of the tone that goes with bars.
    """

    before: tuple[Standing, ...] = ()
    after: int = 0
    lines: tuple[str, ...] = ()
    tone: int = ALIGNED

    @property
    def first(self) -> int:
        """Give the place of the programme's first frame."""
        return sum(one.frames for one in self.before)

    @property
    def frames(self) -> int:
        """Count the frames before and after."""
        return self.first + self.after

    def standing(self, place: int, frames: int) -> Kind | None:
        """Say what stands at a place of so many frames; None within the programme."""
        for one in self.before:
            if place < one.frames:
                return one.kind
            place -= one.frames
        return "black" if place >= frames - self.frames else None


def read(text: str) -> tuple[tuple[Kind, Fraction], ...]:
    """Read a leader: "bars 60 s, slate 10 s, black 5 s".

    Raises:
        BadValue: it is none.
    """
    parts = [one for one in text.split(",") if one.strip()]
    found = tuple(_part(one) for one in parts)
    if sum(seconds for _, seconds in found) > LONGEST:
        raise BadValue(f"A leader of more than {LONGEST} s is not made.", "Choose a shorter one.")
    return found


def shown(parts: Sequence[tuple[Kind, Fraction]]) -> str:
    """Write a leader as `read` reads it."""
    return ", ".join(f"{kind} {float(seconds):g} s" for kind, seconds in parts)


def _part(text: str) -> tuple[Kind, Fraction]:
    match = PART.fullmatch(text)
    for kind in KINDS:
        if match is not None and match[1] == kind:
            return kind, _seconds(match[2])
    raise BadValue(
        f"'{text.strip()}' is no part of a leader.",
        f"Write {', '.join(KINDS[:-1])} or {KINDS[-1]} and how long it stands, such as "
        f"'bars 60 s, slate 10 s, black 5 s'.",
    )


def _seconds(text: str) -> Fraction:
    seconds = read_seconds(text)
    if seconds <= 0:
        raise BadValue("A part of a leader stands for some time.", "Write so many seconds.")
    return seconds


def read_tail(text: str) -> Fraction:
    """Read how long black stands after a programme: "5 s".

    Raises:
        BadValue: it is no time, or a long one.
    """
    if not text.strip():
        return Fraction(0)
    seconds = read_seconds(text)
    if not 0 <= seconds <= LONGEST:
        raise BadValue(f"'{text}' of black is not made.", f"Choose 0 to {LONGEST} s.")
    return seconds


def asked(spec: Spec) -> str:
    """Write the leader that a spec asks for; "" where it asks for none."""
    whole = _least(spec, "motion.leader")
    bars = max(_least(spec, "motion.bars_before"), _least(spec, "sound.tone_before"))
    slate, black = _least(spec, "motion.slate"), _least(spec, "motion.black_before")
    rest = whole - bars - slate - black
    if rest > 0:
        more = min(rest, max(Fraction(0), BLACK - black))
        black, bars = black + more, bars + rest - more
    parts: tuple[tuple[Kind, Fraction], ...]
    parts = (("bars", bars), ("slate", slate), ("black", black))
    return shown([(kind, seconds) for kind, seconds in parts if seconds > 0])


def _least(spec: Spec, key: str) -> Fraction:
    """Give the least that a spec asks of a time; of one figure with a margin that figure."""
    lows = []
    for requirement in spec.on(key):
        found = bounds(requirement)
        low, high = found if found is not None else (None, None)
        if requirement.when is None and low is not None:
            lows.append((low + high) / 2 if requirement.rule.operator == "is" and high else low)
    return max([Fraction(0), *lows])


def frames_of(parts: Sequence[tuple[Kind, Fraction]], rate: Fraction) -> int:
    """Count the frames of a leader."""
    return sum(whole(seconds, rate) for _, seconds in parts)


def whole(seconds: Fraction, rate: Fraction) -> int:
    """Count the frames of a time, at least one."""
    return max(1, round(seconds * rate))


def written(names: Mapping[str, str], spec: Spec, seconds: Fraction) -> tuple[str, ...]:
    """Give what a slate says: the programme, its length, for whom by which spec, and which version
    of it.
    """
    called, rest = titles(names), int(seconds)
    length = f"{rest // 3600}:{rest // 60 % 60:02d}:{rest % 60:02d}"
    lines = (called.title, called.episode, f"length {length}", spec.title, called.version)
    return tuple(line for line in lines if line)
