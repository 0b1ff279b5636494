"""Whether a finished file calls for another run by itself, and how that run differs."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import ceil

from ..facts import Facts
from ..units.values import show_bit_rate, show_bytes
from .plan import PictureTarget, Plan
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
    """Look at a measured file: over its cap, it is made at a lower rate; under the least rate
    asked, it is filled up.

    Args:
        plan: the one the file was made by.
        facts: of the file, measured.
        reruns: how many runs with corrected plans lie behind it.

    Returns:
        None where the file is good as it is, as far as a rate can tell.
    """
    size = int(facts.value("file.size"))
    if plan.size_cap is not None and size > plan.size_cap:
        picture = int(facts.value("picture.bit_rate") * facts.value("file.duration") / 8)
        rate = corrected_rate(plan.picture.bit_rate, plan.size_cap, size, picture, reruns)
        what = f"The file landed at {show_bytes(size)}, over {show_bytes(plan.size_cap)}"
        if rate < LEAST_RATE:
            return Retry(None, what, "no rate brings it under")
        return Retry(
            _with(plan, slower(plan.picture, rate)), what, f"run again at {show_bit_rate(rate)}"
        )
    found = facts.value("picture.bit_rate")
    if plan.least_rate is None or found is None or found >= plan.least_rate:
        return None
    if plan.picture.constant:
        return _fuller(plan, found, plan.least_rate)
    filled = stuffed(plan.picture, plan.least_rate)
    what = (
        f"The picture needed only {show_bit_rate(int(found))}, and at least "
        f"{show_bit_rate(ceil(plan.least_rate))} is asked"
    )
    return Retry(
        _with(plan, filled),
        what,
        f"run again at a constant {show_bit_rate(filled.bit_rate)}, filled up with stuffing",
    )


def _fuller(plan: Plan, found: Fraction, least: Fraction) -> Retry:
    """Ask more of an encoder that filled a constant rate up and missed the least by a little."""
    what = (
        f"The picture came to {show_bit_rate(int(found))}, and at least "
        f"{show_bit_rate(ceil(least))} is asked"
    )
    missed = least / max(Fraction(found), Fraction(1))
    if missed > MOST_FULLER:
        return Retry(None, what, "the encoder does not fill it up")
    rate = ceil(plan.picture.bit_rate * missed * Fraction(201, 200) / 1000) * 1000
    if plan.most_rate is not None:
        rate = min(rate, int(plan.most_rate))
    if rate <= plan.picture.bit_rate:
        return Retry(None, what, "a higher rate is not allowed")
    fuller = plan.picture.model_copy(
        update={"bit_rate": rate, "max_rate": rate, "buffer": min(plan.picture.buffer, rate)}
    )
    return Retry(_with(plan, fuller), what, f"run again at a constant {show_bit_rate(rate)}")


def _with(plan: Plan, picture: PictureTarget) -> Plan:
    return plan.model_copy(update={"picture": picture})


def slower(picture: PictureTarget, rate: int) -> PictureTarget:
    """Give the same picture at a lower bit rate; ceiling and buffer go down with it, and never
    up.
    """
    most = rate if picture.constant else min(picture.max_rate, 2 * rate)
    return picture.model_copy(
        update={"bit_rate": rate, "max_rate": most, "buffer": min(picture.buffer, rate)}
    )


def stuffed(picture: PictureTarget, least: Fraction) -> PictureTarget:
    """Give the same picture at a constant rate just above the least that is asked (2 %), or at its
    own if that is lower; in one pass.
    """
    rate = min(ceil(least * Fraction(51, 50) / 1000) * 1000, picture.bit_rate)
    return picture.model_copy(
        update={
            "bit_rate": rate,
            "max_rate": rate,
            "buffer": min(picture.buffer, rate),
            "constant": True,
            "passes": 1,
        }
    )
