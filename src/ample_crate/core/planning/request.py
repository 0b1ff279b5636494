"""What is to be planned, as one value that every stage is given."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, NamedTuple

from ..errors import Impossible
from ..facts import Facts
from ..facts.span import Span
from ..specs.spec import Spec
from . import programme, pulldown, retiming
from .beside import LAID, Beside, Laying, joined, lay
from .plan import Left, Plan
from .resolve import Resolver
from .speed import Sound, Speed


class Cut(NamedTuple):
    """The part of a master's coded frames that holds a range and decodes by itself.

    Attributes:
        first: frame, counted from 0.
        frames: how many.
    """

    first: int
    frames: int


@dataclass(frozen=True)
class Item:
    """What a crate says of one of its items, besides its choices.

    Attributes:
        span: the named range to deliver; None for the whole.
        given: what the file name may need: production, date (as 20261123), crate, revision.
        share: bytes that the crate leaves it; None where it is the only one.
        cut: where a copy of the range would begin and end; None where that is not known.
        sound: another file whose sound goes with the picture; None for the master's own.
        under: another file whose first picture transparency may be laid over.
    """

    span: Span | None = None
    given: Mapping[str, str] = field(default_factory=dict)
    share: int | None = None
    cut: Cut | None = None
    sound: Beside | None = None
    under: Beside | None = None


@dataclass(frozen=True)
class Request:
    """A master, a spec and what is chosen in the room that it leaves.

    Attributes:
        master: facts of what is delivered of the master (`programme.of`).
        all_sound: the same, with every sound track in its own place.
        whole: facts of the whole master.
        values: settles the value of each property; it holds the spec with its alternatives taken.
        span: the range that is delivered; None for the whole.
        cut: where a copy of that range would begin and end; None where that is not known.
        tracks: the master's sound tracks that are delivered; None where several could be and
            nobody chose.
        channels: those of one track that are delivered, counted from 1; None for all.
        share: bytes that the crate leaves; None where there is no such limit.
        names: fields of the file name.
        laying: where sound from another file is laid; None for the master's own.
        under: another file whose first picture transparency may be laid over.
        speed: how fast the master is taken; its facts are those of a film so taken.
    """

    master: Facts
    all_sound: Facts
    whole: Facts
    values: Resolver
    span: Span | None
    cut: Cut | None
    tracks: list[int] | None
    channels: list[int] | None
    share: int | None
    names: Mapping[str, str]
    laying: Laying | None = None
    under: Beside | None = None
    speed: Speed = Speed(None)  # noqa: RUF009 (frozen)

    @property
    def first(self) -> int:
        """Give the first frame that is delivered."""
        return 0 if self.span is None else self.span.first

    @property
    def left_out(self) -> tuple[Left, ...]:
        """List what is left out within the range."""
        rate = self.master.fraction("motion.rate")
        if self.span is None or rate is None:
            return ()
        pieces = self.span.left_out
        return tuple(Left(start=one.first / rate, seconds=one.frames / rate) for one in pieces)

    @property
    def sound(self) -> Sound:
        """Say whose sound goes with the picture."""
        if self.laying is not None:
            return "another's"
        return "own" if self.master.value("sound.tracks") else "none"

    def moves(self, made: Fraction | None, plan: Plan | None) -> dict[str, str]:
        """Give what is chosen of how the picture moves, where something of that rate is made."""
        speed = self.speed.choices(made, self.sound)
        film = pulldown.choices(self.master, self.values.pulldown, plan)
        return speed | film | retiming.choices(self.values.retime, plan)

    @property
    def spec(self) -> Spec:
        """Give what is asked."""
        return self.values.spec


def delivered(master: Facts, item: Item, choices: Mapping[str, Any] | None = None) -> Facts:
    """Give the facts of what an item delivers of a master, with the sound of another file where it
    has that.

    Raises:
        BadValue: the range or the tracks are none of theirs, or the sound cannot be laid so.
        Impossible: the other file has no sound.
    """
    if item.sound is not None:
        laying = lay(master, item.sound, str((choices or {}).get(LAID, "")))
        master = joined(master, item.sound, laying)
    return programme.of(master, item.span, choices)


USUAL_RATE = Fraction(25)  # of a still, which has none


def positive(value: Fraction, name: str) -> Fraction:
    """Give a value that must be more than 0.

    Raises:
        Impossible: it is not.
    """
    if value <= 0:
        raise Impossible(
            f"No picture has a {name} of {float(value):g}.",
            "Look at the spec again: it asks for what cannot be.",
        )
    return Fraction(value)
