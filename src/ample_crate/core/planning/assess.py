"""Who would take a master as it is: accepts, rewrap only, needs an encode, cannot; and why, in one
line.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from .. import formats
from ..facts import Facts
from ..facts.properties import lookup
from ..ledger import ledger, overall
from ..specs.rules import limits
from ..specs.spec import Spec
from . import programme
from .notes import Caution
from .request import Item
from .route import plan_route

Answer = Literal["accepts", "rewrap only", "needs an encode", "cannot", "not known yet"]


@dataclass(frozen=True)
class Assessment:
    """A spec's answer to a master, and the reason."""

    answer: Answer
    why: str


# What every crate gives its names; which it is does not matter here.
GIVEN = {"date": "20000101", "crate": "1", "revision": "1"}


def assess(
    master: Facts, spec: Spec, name: str, known: bool = True, production: str = ""
) -> Assessment:
    """Say how a spec would take a master.

    Args:
        master: its facts.
        spec: the spec.
        name: file name of the master.
        known: whether it has been read at all.
        production: that it belongs to.
    """
    if not known:
        return Assessment("not known yet", "The master has not been read.")
    spec, master = programme.asked_of(spec, master), programme.of(master)
    # A deliverable takes the name the spec wants when it is made: the master's own is not held
    # against it.
    findings = [f for f in ledger(master, spec, master) if f.property != "file.name"]
    if overall(findings) in {"meets", "advice"}:
        return Assessment("accepts", "Every must is met as it is.")
    broken = [f for f in findings if f.severity == "must" and f.verdict == "breaks"]
    more = f" And {len(broken) - 1} more." if len(broken) > 1 else ""
    if broken and all(lookup(f.property).rewrap for f in broken) and _fits_wrapper(master, spec):
        open_ones = any(f.severity == "must" and f.verdict == "unproven" for f in findings)
        return Assessment("not known yet" if open_ones else "rewrap only", broken[0].why + more)
    route = plan_route(master, spec, None, name, Item(given=GIVEN | {"production": production}))
    if route.plan is None:
        return _stopped([c for c in route.cautions if c.blocks])
    if not broken:
        return Assessment("not known yet", "Not everything asked is proven yet.")
    return Assessment("needs an encode", broken[0].why + more)


def _stopped(stoppers: Sequence[Caution]) -> Assessment:
    """Say what keeps a master from being delivered; what a choice would settle does not."""
    for one in stoppers:
        if not one.choice:
            return Assessment("cannot", f"{one.what} {one.figures}".strip())
    return Assessment("needs an encode", f"Once something is chosen: {stoppers[0].what}")


def _fits_wrapper(master: Facts, spec: Spec) -> bool:
    """Say whether the coded picture and sound can go into the wrapper asked for."""
    asked = spec.requirement("file.wrapper")
    picture, sound = master.value("picture.codec"), master.value("sound.codec")
    if asked is None:
        return True
    wanted = {str(v) for v in limits(asked)}
    coded = formats.SOUND.get(sound)
    places = [
        formats.carried_in(row) if row is not None else None
        for row in (formats.PICTURE.get(picture), coded)
    ]
    if picture is not None and places[0] is None:
        return False
    if coded is not None and coded.plain:
        # It has a place there by its standard, and hardly a player takes it (common practice).
        wanted -= {w.key for w in formats.WRAPPERS.values() if w.browsers}
    return bool(wanted) and all(place is None or wanted & place for place in places)
