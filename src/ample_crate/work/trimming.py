"""What of its master a deliverable takes."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from ..core.errors import Refused
from ..core.facts import span
from ..core.facts.span import Span
from ..core.planning import trimming
from ..core.planning.trimming import Length, Proposal, Taken
from ..store import masters
from ..store.models import Deliverable
from . import status


@dataclass(frozen=True)
class Range:
    """What is taken of a master.

    Attributes:
        whole: frames of the master.
        taken: of them.
        rate: by which they are taken, as a fraction of a second.
        seconds: of what comes of it, with what stands around it.
        asked: lengths that the spec takes.
        fitted: what would bring it to one of them; None where it is, or picture would have to go.
    """

    whole: int
    taken: Taken
    rate: Fraction
    seconds: Fraction
    asked: list[Length]
    fitted: Proposal | None

    @property
    def holds(self) -> bool:
        """Say whether its length is as asked."""
        return not self.asked or any(one.holds(self.seconds) for one in self.asked)


def of(deliverable: Deliverable) -> Range:
    """Say what of its master a deliverable takes.

    Raises:
        Refused: the master has no moving picture.
    """
    master = masters.known(deliverable.master)
    rate = master.fraction("motion.rate")
    if rate is None:
        raise Refused("The master has no moving picture.", "Look at its framing instead.")
    part = Span.model_validate(deliverable.span) if deliverable.span else None
    taken = trimming.taken_of(master, part)
    plan, around = status.shown(deliverable), Fraction(0)
    if plan is not None and plan.picture is not None:
        around = plan.seconds - plan.programme
        rate = plan.inputs[plan.picture.input].rate or rate
    lengths = trimming.asked(status.asked_of(status.item_of(deliverable)))
    return Range(
        whole=int(master.value("motion.frames") or 0),
        taken=taken,
        rate=rate,
        seconds=trimming.length_of(taken, rate, around),
        asked=lengths,
        fitted=trimming.fitted(taken, lengths, rate, around),
    )


def take(deliverable: Deliverable, wanted: Span) -> None:
    """Take a range of the master, which keeps its name; all of it is no range.

    Raises:
        BadValue: it does not lie within the master.
    """
    check(deliverable, wanted)
    part = wanted.model_copy(update={"name": _name(deliverable)})
    all_of_it = part.taken == whole(deliverable).frames
    put(deliverable, None if all_of_it and not part.name else part.as_json())


def whole(deliverable: Deliverable) -> Span:
    """Give the range that is all of a deliverable's master.

    Raises:
        Refused: its frames are not counted.
    """
    frames = int(masters.known(deliverable.master).value("motion.frames") or 0)
    if not frames:
        raise Refused("The master's frames are not counted yet.", "Wait until it is measured.")
    return Span(first=0, frames=frames)


def check(deliverable: Deliverable, part: Span) -> None:
    """Make sure that a range lies within a deliverable's master.

    Raises:
        BadValue: it does not.
    """
    span.check(part, masters.known(deliverable.master))


def put(deliverable: Deliverable, part: dict[str, Any] | None) -> None:
    """Put a range in place of the one that there was; where a copy of it begins is found anew."""
    if part != deliverable.span:
        deliverable.span, deliverable.cut = part, None


def _name(deliverable: Deliverable) -> str:
    return str(deliverable.span["name"]) if deliverable.span else ""
