"""What was foretold of runs, held against what they came to; and what that teaches of those to
come.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from statistics import median
from typing import TypeVar

from .ready import Past

Kind = TypeVar("Kind")
TAUGHT_BY = 20  # the newest runs of a kind
AGAIN = 3  # the newest runs of the very same: a machine may be busier than it was
# Runs of a kind from which on what they teach is held to (the figure of the product's own bars).
ENOUGH = 5


@dataclass(frozen=True)
class Foretold:
    """What was foretold of a run when it was ordered.

    Attributes:
        size: bytes of what it makes.
        encode, measure: seconds.
        sampled: mean XPSNR that samples of its pictures foretold, dB; None where none were taken.
        quality: the same, with what earlier runs taught.
    """

    size: int
    encode: float
    measure: float
    sampled: float | None = None
    quality: float | None = None


@dataclass(frozen=True)
class Outcome:
    """A finished run.

    Attributes:
        effort: what was encoded, and how (`Plan.effort`); empty where no picture was.
        work: luma samples that were encoded, counting each pass.
        looked: luma samples that were measured.
        sized_by: what its size is known by (`Plan.sized_by`).
        made_of: names the bytes of its masters.
        made_as: names how it was made (`Plan.made_as`).
        planned, size: bytes by the plan, and of what came.
        encode, measure: seconds; None where they are not known, or several workers shared it.
        quality: mean XPSNR against its master; None where nobody compared.
        foretold: None of runs of which nothing was kept.
    """

    effort: str
    work: int
    looked: int
    sized_by: str
    made_of: str
    planned: int
    size: int
    encode: float | None
    measure: float | None
    quality: float | None = None
    foretold: Foretold | None = None
    made_as: str = ""


def taught(outcomes: Iterable[Outcome]) -> Past:
    """Say what runs teach of those to come.

    Args:
        outcomes: of runs, the newest first; as many of a kind count as `TAUGHT_BY`.
    """
    every = list(outcomes)
    sizes = _by(every, lambda o: (o.sized_by, ""), _of_its_size)
    alike = _by(every, lambda o: (o.sized_by, o.made_of), _of_its_size)
    again = _by(every, lambda o: (o.made_as, o.made_of), _of_any_size)
    apart = _by(every, lambda o: o.effort, _above)
    return Past(
        encode=_speeds(every, lambda o: (o.work, o.encode)) | _speeds_again(every),
        measure=_speeds(every, lambda o: (o.looked, o.measure)),
        # Of the very same pictures the newest tells most: its settings are the likeliest.
        sizes={key: median(ratios) for key, ratios in sizes.items()}
        | {key: ratios[0] for key, ratios in [*alike.items(), *again.items()] if all(key)},
        quality={key: median(n) for key, n in apart.items() if len(n) >= ENOUGH},
    )


def _of_its_size(one: Outcome) -> float | None:
    return one.size / one.planned if one.sized_by and one.planned else None


def _of_any_size(one: Outcome) -> float | None:
    return one.size / one.planned if one.planned else None


def _above(one: Outcome) -> float | None:
    """Give by how many dB a run came out above what its samples alone foretold."""
    sampled = None if one.foretold is None else one.foretold.sampled
    return None if sampled is None or one.quality is None else one.quality - sampled


def _by(
    every: Sequence[Outcome],
    kind: Callable[[Outcome], Kind],
    figure: Callable[[Outcome], float | None],
) -> dict[Kind, list[float]]:
    """Gather a figure of the newest runs of each kind, where they have one."""
    found: dict[Kind, list[float]] = defaultdict(list)
    for one in every:
        value = figure(one)
        if value is not None and len(found[kind(one)]) < TAUGHT_BY:
            found[kind(one)].append(value)
    return {key: values for key, values in found.items() if values}


def _speeds(
    every: Sequence[Outcome], done: Callable[[Outcome], tuple[int, float | None]]
) -> dict[str, float]:
    """Give millions of samples a second by effort: all samples over all seconds."""
    pairs: dict[str, list[tuple[int, float]]] = defaultdict(list)
    for one in every:
        samples, seconds = done(one)
        if samples and seconds and len(pairs[one.effort]) < TAUGHT_BY:
            pairs[one.effort].append((samples, seconds))
    return {
        effort: sum(n for n, _ in mine) / 1e6 / sum(seconds for _, seconds in mine)
        for effort, mine in pairs.items()
    }


def _speeds_again(every: Sequence[Outcome]) -> dict[str, float]:
    """Give millions of samples a second by how what is made is made."""
    found = _by(every, lambda o: o.made_as, lambda o: o.work / 1e6 / o.encode if o.encode else None)
    return {key: median(n[:AGAIN]) for key, n in found.items() if key and n[0]}


@dataclass(frozen=True)
class Error:
    """How far off what was foretold was, over runs of a kind.

    Attributes:
        runs: that it is known of.
        middle: the median of the errors' amounts: shares of what came, or dB.
        worst: the largest.
    """

    runs: int
    middle: float
    worst: float


def errors(outcomes: Sequence[Outcome]) -> Mapping[str, Error]:
    """Hold what was foretold against what came: of size, time and quality, where it is known.

    Args:
        outcomes: of runs of one kind.
    """
    found: dict[str, list[float]] = defaultdict(list)
    for one in outcomes:
        for name, error in error_of(one).items():
            found[name].append(abs(error))
    return {name: Error(len(all), median(all), max(all)) for name, all in found.items()}


def error_of(one: Outcome) -> dict[str, float]:
    """Give by how much of what came a run's size and time had been foretold too high, and its
    quality by how many dB.
    """
    told = one.foretold
    if told is None:
        return {}
    found = {"size": told.size / one.size - 1} if one.size else {}
    if one.encode is not None and one.measure is not None and one.encode + one.measure > 0:
        found["time"] = (told.encode + told.measure) / (one.encode + one.measure) - 1
    if one.quality is not None and told.quality is not None:
        found["quality"] = told.quality - one.quality
    return found
