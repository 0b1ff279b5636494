"""How a finished file would play: which frame is asked for at each moment, and which come late.

A player as it is meant here decodes the next picture of every layer while it shows this one. What
takes longer than a picture lasts comes late, and what is shown stands so much longer.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np

TICKS = 240  # pictures shown each way
LAYERS = (1, 2, 4)  # that play at once
SEED = 11


@dataclass(frozen=True)
class Way:
    """A way to play.

    Attributes:
        key: by which it is known.
        says: in words.
        speed: times the file's own; from its end where it is negative.
    """

    key: str
    says: str
    speed: Fraction = Fraction(1)


WAYS = (
    Way("forwards", "forwards, over its end to its start"),
    Way("backwards", "backwards, over its start to its end", Fraction(-1)),
    Way("ping-pong", "forwards to its end and back"),
    Way("random", "anywhere"),
    Way("faster", "at 1.7 times its speed", Fraction(17, 10)),
    Way("slower", "at 0.6 of its speed", Fraction(3, 5)),
)


def places(way: Way, frames: int, ticks: int = TICKS) -> list[int]:
    """Give the frames that are asked for, in turn; the file's end lies in the middle of them.

    Args:
        way: to play.
        frames: of the file.
        ticks: pictures shown.
    """
    if way.key == "random":
        return [int(n) for n in np.random.default_rng(SEED).integers(0, frames, ticks)]
    steps = [int(n * way.speed // 1) for n in range(ticks)]
    if way.key == "ping-pong":
        begin = max(0, frames - 1 - ticks // 2)
        return [_back_and_forth(begin + step, frames) for step in steps]
    half = abs(steps[ticks // 2])
    begin = half if way.speed < 0 else frames - half
    return [(begin + step) % frames for step in steps]


def of_layer(place: int, layer: int, layers: int, frames: int) -> int:
    """Give the frame that one of several layers shows, each of which plays another part."""
    return (place + layer * frames // layers) % frames


def asked(way: str, layers: int, frames: int, ticks: int) -> list[list[int]]:
    """Give the frames that each layer shows in turn, by a way's key."""
    leading = places(next(one for one in WAYS if one.key == way), frames)[:ticks]
    return [[of_layer(place, n, layers, frames) for place in leading] for n in range(layers)]


def _back_and_forth(step: int, frames: int) -> int:
    if frames == 1:
        return 0
    turn = step % (2 * frames - 2)
    return turn if turn < frames else 2 * frames - 2 - turn


@dataclass(frozen=True)
class Played:
    """What came of playing one way.

    Attributes:
        way: its key.
        layers: how many played at once.
        costs: seconds that each picture of all layers took.
        rate: pictures a second that are due.
    """

    way: str
    layers: int
    costs: Sequence[float]
    rate: float

    @property
    def waits(self) -> list[float]:
        """Give by how many seconds each picture came late; the first is there before it plays."""
        return [0.0, *(max(0.0, cost - 1 / self.rate) for cost in self.costs[1:])]

    def as_json(self) -> dict[str, Any]:
        """Give it as a document: waits in milliseconds."""
        waits = self.waits
        return {
            "way": self.way,
            "layers": self.layers,
            "shown": len(waits),
            "late": sum(1 for wait in waits if wait > 0),
            "worst": round(1000 * max(waits, default=0.0), 2),
            "waits": [round(1000 * wait, 2) for wait in waits],
            "could": round(len(self.costs) / max(1e-9, sum(self.costs)), 2),
        }


def short(
    played: Sequence[Mapping[str, Any]], ways: Sequence[str], layers: int, late: int
) -> list[str]:
    """List the ways that are asked for in which more pictures came late than may.

    Args:
        played: as `Played.as_json` has each.
        ways: that are asked for.
        layers: that are to play at once.
        late: pictures of `TICKS` that may come late; of fewer as many fewer.

    A way that was not played falls short.
    """
    kept = {
        one["way"]
        for one in played
        if one["layers"] == layers and one["late"] * TICKS <= late * one["shown"]
    }
    return [way for way in ways if way not in kept]
