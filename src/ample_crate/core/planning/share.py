"""What may go out in all, shared among the items of a crate so that all of them look alike."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import floor
from typing import cast

from ..specs.rules import limits
from ..specs.spec import Spec


@dataclass(frozen=True)
class Demand:
    """What one item takes when it is planned by itself.

    Attributes:
        size: its bytes.
        seconds: its length.
        firm: whether nothing can make it smaller, for its rate was chosen or asked.
    """

    size: int
    seconds: Fraction
    firm: bool = False


CAPS = {"file.size": "a file", "delivery.total": "a crate", "delivery.week": "a week"}


def cap_of(spec: Spec) -> tuple[int | None, str]:
    """Give a spec's cap in bytes and of what it is: a file, a crate, a week; (None, "") where there
    is none.
    """
    for key, of in CAPS.items():
        found = [r for r in spec.on(key) if r.rule.operator == "at_most"]
        if found:
            return cast(int, limits(found[0])[0]), of
    return None, ""


def cap_of_item(spec: Spec, given: int | None) -> tuple[int | None, str]:
    """Give what caps one item of a crate: the share that it was given, else the spec's cap."""
    return cap_of(spec) if given is None else (given, "as its share")


def bytes_left(spec: Spec, sent: int | None = None) -> int | None:
    """Give the bytes that a crate may have in all: the least of its cap and of what is left of the
    week; None without a limit.

    Args:
        spec: what the recipient asks.
        sent: bytes that go to the recipient in the same week by other crates; None where that is
        not known.
    """
    found = []
    for key, gone in (("delivery.total", 0), ("delivery.week", sent)):
        for requirement in spec.on(key):
            if (
                gone is not None
                and requirement.severity == "must"
                and requirement.rule.operator in {"at_most", "between", "is"}
            ):
                found.append(max(0, cast(int, limits(requirement)[-1]) - gone))
    return min(found, default=None)


def shares(total: int, demands: Sequence[Demand]) -> list[int | None]:
    """Share a crate's bytes among its items by one common rate: what needs less keeps what it
    needs.

    Args:
        total: bytes in all.
        demands: what each item takes by itself.

    Returns:
        the most bytes that each item may have; None for one that stays as it is. All None where
        everything fits as it is, and where the firm items alone leave no room: then no share
        would help.
    """
    left = total - sum(n.size for n in demands if n.firm)
    given: list[int | None] = [None] * len(demands)
    free = sorted(
        (i for i, n in enumerate(demands) if not n.firm and n.seconds > 0),
        key=lambda i: Fraction(demands[i].size) / demands[i].seconds,
    )
    if left <= 0 or sum(demands[i].size for i in free) <= left:
        return given
    seconds = sum((demands[i].seconds for i in free), Fraction(0))
    for i in free:
        fair = floor(left * demands[i].seconds / seconds)
        if demands[i].size > fair:
            given[i] = fair
        left -= min(demands[i].size, fair)
        seconds -= demands[i].seconds
    return given
