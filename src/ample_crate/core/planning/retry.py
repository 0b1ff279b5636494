"""Whether a finished file calls for another run by itself, and how that run differs."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import ceil

from ..facts import Facts
from ..units.values import show_bit_rate, show_bytes
from .encoding import RatedPicture
from .plan import Plan
from .rates import corrected_rate

MOST_FULLER = Fraction(5, 4)  # of the rate; who misses by more does not fill up at all
LEAST_RATE = 10_000  # b/s; under this no picture is worth making


@dataclass(frozen=True)
class Retry:
    """What to do after a file was measured.

    Attributes:
        plan: of the next run; None where another run would not help.
        what: what is wrong with the file, for the technician, without a full stop.
        then: what the next run does about it, or why none would.
    """

    plan: Plan | None
    what: str
    then: str


def retry(plan: Plan, facts: Facts, reruns: int = 0) -> Retry | None:
    """Look at a measured file: over its cap, or the most rate asked, it is made at a lower rate;
    under the least rate asked, it is filled up.

    Args:
        plan: the one the file was made by.
        facts: of the file, measured.
        reruns: how many runs with corrected plans lie behind it.

    Returns:
        None where the file is good as it is, as far as a rate can tell.
    """
    size, cap = int(facts.value("file.size")), plan.limits.size
    encoding = plan.rated
    if cap is not None and size > cap:
        what = f"The file landed at {show_bytes(size)}, over {show_bytes(cap)}"
        if encoding is None:
            return Retry(None, what, "its size follows from what it holds, and no rate is set")
        return _smaller(plan, encoding, facts, cap, what, reruns)
    found, least = facts.value("picture.bit_rate"), plan.limits.least_rate
    if found is None or encoding is None:
        return None
    most = plan.limits.most_rate
    if most is not None and found > most:
        return _lower(plan, encoding, found, most)
    if least is None or found >= least:
        return None
    if not encoding.model.fills:
        return _finer(plan, encoding, found, least)
    fill = _fuller if encoding.constant else _filled
    return fill(plan, encoding, found, least)


def _lower(plan: Plan, encoding: RatedPicture, found: Fraction, most: Fraction) -> Retry:
    """Ask less of an encoder that went over the most that is asked, by as much and a little."""
    what = (
        f"The picture came to {show_bit_rate(int(found))}, and at most "
        f"{show_bit_rate(int(most))} is asked"
    )
    rate = int(encoding.bit_rate * most / Fraction(found) * Fraction(99, 100) / 1000) * 1000
    if rate < LEAST_RATE:
        return Retry(None, what, "no rate brings it under")
    then = f"run again at {show_bit_rate(rate)}"
    return Retry(plan.encoded_as(slower(encoding, rate)), what, then)


def _short(found: Fraction, least: Fraction) -> str:
    return (
        f"The picture needed only {show_bit_rate(int(found))}, and at least "
        f"{show_bit_rate(ceil(least))} is asked"
    )


def _finer(plan: Plan, encoding: RatedPicture, found: Fraction, least: Fraction) -> Retry:
    """Have what an encoder does not fill up coded finer than it would."""
    growths = dict(encoding.model.finer)
    reached = growths.get(encoding.coarsest or 0, Fraction(1))
    wanted = reached * least / max(Fraction(found), Fraction(1)) * Fraction(21, 20)
    taken = next((quantiser for quantiser, growth in growths.items() if growth >= wanted), None)
    if taken is None and encoding.coarsest is not None:
        # What was known of other pictures was too much said of this one.
        taken = next((q for q in reversed(growths) if q < encoding.coarsest), None)
    if taken is None:
        return Retry(None, _short(found, least), f"{encoding.row.label} is not filled up")
    finer = encoding.model_copy(update={"coarsest": taken})
    then = f"run again with no frame coarser than quantiser {taken}"
    return Retry(plan.encoded_as(finer), _short(found, least), then)


def _filled(plan: Plan, encoding: RatedPicture, found: Fraction, least: Fraction) -> Retry:
    """Fill up what needed less than the least that is asked."""
    filled = stuffed(encoding, least)
    return Retry(
        plan.encoded_as(filled),
        _short(found, least),
        f"run again at a constant {show_bit_rate(filled.bit_rate)}, filled up with stuffing",
    )


def _smaller(
    plan: Plan, encoding: RatedPicture, facts: Facts, cap: int, what: str, reruns: int
) -> Retry:
    """Ask for a lower rate of what landed over its cap."""
    picture = int(facts.value("picture.bit_rate") * facts.value("file.duration") / 8)
    size = int(facts.value("file.size"))
    rate = corrected_rate(encoding.bit_rate, cap, size, picture, reruns)
    if rate < LEAST_RATE:
        return Retry(None, what, "no rate brings it under")
    then = f"run again at {show_bit_rate(rate)}"
    return Retry(plan.encoded_as(slower(encoding, rate)), what, then)


def _fuller(plan: Plan, encoding: RatedPicture, found: Fraction, least: Fraction) -> Retry:
    """Ask more of an encoder that filled a constant rate up and missed the least by a little."""
    what = (
        f"The picture came to {show_bit_rate(int(found))}, and at least "
        f"{show_bit_rate(ceil(least))} is asked"
    )
    missed = least / max(Fraction(found), Fraction(1))
    if missed > MOST_FULLER:
        return Retry(None, what, "the encoder does not fill it up")
    rate = ceil(encoding.bit_rate * missed * Fraction(201, 200) / 1000) * 1000
    if plan.limits.most_rate is not None:
        rate = min(rate, int(plan.limits.most_rate))
    if rate <= encoding.bit_rate:
        return Retry(None, what, "a higher rate is not allowed")
    fuller = encoding.model_copy(
        update={"bit_rate": rate, "max_rate": rate, "buffer": min(encoding.buffer, rate)}
    )
    then = f"run again at a constant {show_bit_rate(rate)}"
    return Retry(plan.encoded_as(fuller), what, then)


def slower(encoding: RatedPicture, rate: int) -> RatedPicture:
    """Give the same picture at a lower bit rate; ceiling and buffer go down with it, and never
    up.
    """
    most = rate if encoding.constant else min(encoding.max_rate, 2 * rate)
    return encoding.model_copy(
        update={"bit_rate": rate, "max_rate": most, "buffer": min(encoding.buffer, rate)}
    )


def stuffed(encoding: RatedPicture, least: Fraction) -> RatedPicture:
    """Give the same picture at a constant rate just above the least that is asked (2 %), or at its
    own if that is lower; in one pass.
    """
    rate = min(ceil(least * Fraction(51, 50) / 1000) * 1000, encoding.bit_rate)
    return encoding.model_copy(
        update={
            "bit_rate": rate,
            "max_rate": rate,
            "buffer": min(encoding.buffer, rate),
            "constant": True,
            "passes": 1,
        }
    )
