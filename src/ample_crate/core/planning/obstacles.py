"""What stands in the way of copying a stream, and what comes of it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from .. import formats
from ..facts import Facts
from ..facts.properties import lookup, split_track
from ..ledger import ledger
from .notes import NOTHING, Notes, caution, in_all, question, step
from .request import Request
from .resolve import Way


@dataclass(frozen=True)
class Obstacle:
    """Why a stream is not copied.

    Attributes:
        row: the property that it is about.
        what: in a sentence.
        bars: whether it cannot be copied at all; else a person may have it copied all the same.
        judged: whether the ledger says it too.
    """

    row: str
    what: str
    bars: bool = False
    judged: bool = False


def decide(name: str, chosen: Way | None, obstacles: Sequence[Obstacle]) -> tuple[Way, Notes]:
    """Copy what nothing stands in the way of, and what a person wants copied all the same."""
    bars = [o for o in obstacles if o.bars]
    if chosen == "copied":
        return ("encoded" if bars else "copied"), in_all(*(insisted(name, o) for o in obstacles))
    if chosen == "encoded" or not obstacles:
        return chosen or "copied", NOTHING
    if any(o.judged for o in obstacles):
        return "encoded", NOTHING
    first = obstacles[0]
    return "encoded", step(f"{name} encoded anew", first.what, first.row)


def why_copied(obstacles: Sequence[Obstacle]) -> str:
    """Give the reason of a copy: it meets, or somebody chose it all the same."""
    why = "As chosen" if obstacles else "It meets what is asked of it"
    return f"{why}: what is coded goes over as it is, without loss."


def insisted(name: str, obstacle: Obstacle) -> Notes:
    """Tell of an obstacle where a person wants a copy."""
    if obstacle.bars:
        return question(
            name.lower(),
            obstacle.row,
            f"The {name.lower()} cannot be copied as it is.",
            obstacle.what,
            "",
            f"Have the {name.lower()} encoded.",
        )
    return caution(
        obstacle.row,
        f"The {name.lower()} is copied as it is, as chosen.",
        obstacle.what,
        "",
        f"Have the {name.lower()} encoded, if the recipient insists.",
    )


def corrected(master: Facts, groups: tuple[str, ...]) -> Iterator[Obstacle]:
    """List what a person corrected: coded frames would go on saying what they say."""
    for key, fact in master.items():
        stated = fact.measured if fact.measured is not None else fact.declared
        if key.startswith(groups) and fact.assumed is not None and fact.assumed != stated:
            label = lookup(key).label
            yield Obstacle(key, f"Its {label} was corrected; a copy would not say so.", True)


def otherwise(request: Request, groups: tuple[str, ...]) -> Iterator[Obstacle]:
    """List what is chosen, or preferred by the house, and is otherwise in the master.

    The rate that a house prefers says how something is encoded, not that it is.
    """
    values, master = request.values, request.master
    house = {key.removesuffix("@1"): value for key, value in values.house.items()}
    preferred = {k: v for k, v in house.items() if lookup(k).kind.name != "bit_rate"}
    for wanted, bars in ((values.chosen, True), (preferred, False)):
        for key, value in wanted.items():
            mine = key.removesuffix("@1")
            if mine.startswith(groups) and mine != "sound.tracks" and master.value(mine) != value:
                prop = lookup(mine)
                what = (
                    f"The {prop.label} is to be {prop.kind.show(value)}, and the master's is "
                    f"another."
                )
                yield Obstacle(mine, what, bars)


def unjudged(request: Request, groups: tuple[str, ...], facts: Facts) -> Iterator[Obstacle]:
    """List what the master breaks, or is not known to meet, of what must be."""
    for finding in ledger(facts, request.spec, facts):
        base = split_track(finding.key)[0]
        if not (finding.severity == "must" and finding.applies and base.startswith(groups)):
            continue
        if finding.verdict == "breaks":
            yield Obstacle(base, finding.why, judged=True)
        elif finding.verdict == "unproven" and lookup(base).chosen:
            yield Obstacle(base, f"Its {lookup(base).label} is not known yet.")


def unasked(request: Request, key: str, codec: str, *usual: str) -> Iterator[Obstacle]:
    """Tell of a codec that nobody asks for, and that is none of the usual ones."""
    if not request.spec.on(key) and codec not in usual:
        label = formats.label(codec)
        yield Obstacle(key, f"Nobody asks for {label}, and it is not what all can play.")
