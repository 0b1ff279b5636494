"""What a whole plan still breaks: its cap, or rules that no file meets together."""

from __future__ import annotations

from fractions import Fraction
from math import ceil

from ..facts import Facts
from ..facts.properties import lookup
from ..finding import Finding
from ..formats.size import Amount
from ..ledger import ledger
from ..specs.spec import Spec
from ..units.values import show_bit_rate, show_bytes
from . import programme
from .budget import Budget
from .encoding import RatedPicture
from .notes import NOTHING, Notes, caution, in_all
from .plan import Plan
from .rate_control import out_of_reach
from .resolve import Resolver
from .streams import CopiedPicture


def over_cap(plan: Plan, values: Resolver, budget: Budget, size: Amount) -> Notes:
    """Say that a file is predicted over its cap, or may come to be; where nothing that the spec
    allows brings it under, the route is blocked.
    """
    cap = budget.cap
    if cap is None or size.most <= cap:
        return NOTHING
    if plan.rated is not None:
        if size.expected <= cap:
            return NOTHING
        return _rate_over_cap(plan.rated, values, budget, size.expected)
    figures = f"{show_bytes(size.least)} to {show_bytes(size.most)} against {show_bytes(cap)}"
    way_out = (
        "Have the picture encoded, mark a shorter range, or ask the recipient for a larger cap."
        if isinstance(plan.picture, CopiedPicture)
        else "Take a lighter profile or another codec if the spec allows one, mark a shorter "
        "range, or ask the recipient for a larger cap."
    )
    if size.least > cap:
        return _fixed_over_cap(
            f"The file is predicted over {budget.whose}.", figures, way_out, blocks=True
        )
    return _fixed_over_cap(f"The file may land over {budget.whose}.", figures, way_out)


def _fixed_over_cap(what: str, figures: str, way_out: str, blocks: bool = False) -> Notes:
    return caution(
        "file.size",
        what,
        "Its size follows from the pictures, and no rate can be set; what is over a cap is "
        "refused and can never be sealed.",
        figures,
        way_out,
        blocks=blocks,
    )


def _rate_over_cap(encoding: RatedPicture, values: Resolver, budget: Budget, size: int) -> Notes:
    least = values.floor("picture.bit_rate") or Fraction(0)
    fits = budget.most_rate()
    reachable = fits > 0 and fits >= least
    way_out = f"Choose a picture bit rate of at most {show_bit_rate(fits)}."
    if not reachable:
        way_out = out_of_reach(budget.whose, max(ceil(least), encoding.bit_rate), budget)
    return caution(
        "file.size",
        f"The file is predicted over {budget.whose}.",
        "What is over a cap is refused and can never be sealed.",
        f"{show_bytes(size)} against {show_bytes(budget.cap or 0)}",
        way_out,
        blocks=encoding.constant or not reachable,
    )


def frames_kept(spec: Spec, predicted: Facts, master: Facts, copied: bool) -> Notes:
    """Say that a spec wants the master's frames one by one, and they do not stay so: on another
    clock some are repeated or dropped, and a copy begins and ends where it can.
    """
    key = "motion.frames"
    wanted = any(r.rule.same_as == "master" and r.severity == "must" for r in spec.on(key))
    made, have = predicted.value(key), master.value(key)
    if not wanted or made is None or have is None or made == have:
        return NOTHING
    return caution(
        key,
        f"Of the master's {have} frames {made} are made."
        if have > 1
        else f"The master is one frame, and {made} are made.",
        "The spec wants each of them once, and no other.",
        f"{have} to {made}",
        "Have the picture encoded instead of copied." if copied else _for_each_frame(master),
        blocks=True,
    )


def _for_each_frame(master: Facts) -> str:
    if programme.still(master):
        return "Hand in the sequence that the image belongs to."
    if master.value("motion.steady") is False:
        return (
            "Ask for a master of constant rate, or correct its rate: then every frame is taken "
            "once."
        )
    return (
        "Ask for a master of the rate that the spec wants, or have the recipient say which of the "
        "two counts."
    )


def at_odds(spec: Spec, predicted: Facts, master: Facts) -> Notes:
    """Say where a spec asks several things of one property that this master cannot meet
    together.
    """
    asked = {t.key for t in spec.tests if t.requirement.severity == "must"}
    by_key: dict[str, list[Finding]] = {key: [] for key in sorted(asked)}
    for finding in ledger(predicted, spec, master):
        if finding.severity == "must" and finding.applies and finding.property in by_key:
            by_key[finding.property].append(finding)
    return in_all(*(_odds(key, mine) for key, mine in by_key.items()))


def _odds(key: str, mine: list[Finding]) -> Notes:
    broken = [f.verdict == "breaks" for f in mine]
    if len(mine) < 2 or not any(broken) or all(broken):
        return NOTHING
    return caution(
        key,
        f"The spec asks {len(mine)} things of the {lookup(key).label} that this master cannot "
        f"meet together.",
        "Whatever is made breaks one of them.",
        "; ".join(f.asked for f in mine),
        "Ask the recipient which one counts, and sign the other off after the run.",
    )
