"""Time to ready: encode + measure + seal + transfer, held against the due time."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction

from ..formats import PICTURE
from .plan import Plan

QUICKER = 3.0  # times as fast at another pace, until past runs tell (observed here)
UNKNOWN_SPEED = 20.0  # millions of samples a second, of a codec that is not made here
DEFAULT_MEASURE_SPEED = 220.0  # millions of samples a second decoded and looked at
COPY_BYTES_A_SECOND = 200 * 10**6  # read and written again (common practice)
SEAL_BYTES_A_SECOND = 300 * 10**6  # SHA-256 and a copy


@dataclass(frozen=True)
class Ready:
    """Seconds that each part of a hand-over takes.

    Attributes:
        encode, measure: of all its runs together, whoever makes them.
        seal, transfer: of all of it.
        wait: until the first of its runs begins.
        made: until the last of them is made by the workers that there are; None where nobody says,
        and they are made one after the other.
        held: how many of its runs a person holds back; they are counted as if let go now.
    """

    encode: float
    measure: float
    seal: float
    transfer: float
    wait: float = 0.0
    made: float | None = None
    held: int = 0

    @property
    def total(self) -> float:
        """Give the seconds until all of it is there."""
        made = self.encode + self.measure if self.made is None else self.made
        return made + self.seal + self.transfer

    def __add__(self, other: Ready) -> Ready:
        return Ready(
            self.encode + other.encode,
            self.measure + other.measure,
            self.seal + other.seal,
            self.transfer + other.transfer,
            self.wait + other.wait,
            self.made if other.made is None else other.made,
            self.held + other.held,
        )


NOTHING_TO_DO = Ready(0.0, 0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Past:
    """What finished runs teach of those to come (`outcomes.taught`).

    Attributes:
        encode: millions of luma samples coded a second, by `Plan.made_as` and by effort
            (`Plan.effort`).
        measure: millions decoded and measured a second, by effort.
        sizes: bytes that came over bytes that were planned, by `Plan.made_as` or `Plan.sized_by`
            and the bytes of the masters, and by the latter with "" for any masters.
        quality: dB that means of quality came to above those foretold from samples, by effort.
    """

    encode: Mapping[str, float] = field(default_factory=dict)
    measure: Mapping[str, float] = field(default_factory=dict)
    sizes: Mapping[tuple[str, str], float] = field(default_factory=dict)
    quality: Mapping[str, float] = field(default_factory=dict)

    def size(self, planned: int, sized_by: str, made_of: str = "", made_as: str = "") -> int:
        """Give the bytes to expect of what is planned to take so many.

        Args:
            planned: by the codec's own figures.
            sized_by: what such sizes are known by; "" where a plan knows its size.
            made_of: names the bytes of its masters: the same pictures take the same.
            made_as: names how it is made: what was made so before comes to the same again.
        """
        for key in ((made_as, made_of), (sized_by, made_of), (sized_by, "")):
            if key[0] and key in self.sizes:
                return round(planned * self.sizes[key])
        return planned


NO_PAST = Past()


def encode_seconds(effort: str, samples: float, past: Past = NO_PAST, made_as: str = "") -> float:
    """Estimate the time of an encode.

    Args:
        effort: the codec made, and how (`Plan.effort`).
        samples: luma samples put out, counted once a pass.
        past: what finished runs teach.
        made_as: names how it is made (`Plan.made_as`): what was made so before tells most.
    """
    codec, _, pace = effort.partition(", ")
    row = PICTURE.get(codec)
    usual = row.made.speed if row is not None and row.made is not None else UNKNOWN_SPEED
    speed = past.encode.get(made_as) or past.encode.get(effort) or usual * (QUICKER if pace else 1)
    return samples / 1e6 / speed


def seconds_of(plan: Plan, size: int) -> Ready:
    """Estimate the time to make and measure what a plan gives, where no past runs tell more."""
    encode = encode_seconds(plan.effort, plan.work) if plan.work else 0.0
    return Ready(encode or copy_seconds(size), measure_seconds(plan.samples), 0.0, 0.0)


def copy_seconds(size: int) -> float:
    """Estimate the time to put coded frames into another wrapper."""
    return size / COPY_BYTES_A_SECOND


def measure_seconds(samples: float, effort: str = "", past: Past = NO_PAST) -> float:
    """Estimate the time to decode and measure a finished file, as its codec was made."""
    return samples / 1e6 / (past.measure.get(effort) or DEFAULT_MEASURE_SPEED)


def transfer_seconds(size: int, line_rate: int) -> float:
    """Give the time to send bytes over a line of `line_rate` bits a second."""
    return float(Fraction(size * 8, line_rate)) if line_rate > 0 else float("inf")


def seal_seconds(size: int) -> float:
    """Estimate the time to copy and checksum a crate."""
    return size / SEAL_BYTES_A_SECOND
