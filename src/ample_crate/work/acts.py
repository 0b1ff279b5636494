"""What is done with a whole crate: by a person on its page, or by an order."""

from __future__ import annotations

from sqlalchemy.orm import Session

from ..core.errors import Refused
from ..store.database import tell
from ..store.models import Crate, Run
from ..store.queries import get
from . import sealing, status
from .orders import order


def open_crate(session: Session, id: int) -> Crate:
    """Get a crate that may change.

    Raises:
        Refused: it is sealed, or on its way there.
    """
    crate = get(session, Crate, id, lock=True)
    if crate.removed_at is not None:
        raise Refused(f"Crate {crate.number} was removed.", "Put it back first.")
    if crate.state != "open":
        raise Refused(
            f"Crate {crate.number} is {crate.state} and cannot change.",
            "Open a new revision of it.",
        )
    return crate


def nothing_runs(runs: list[Run]) -> None:
    """Make sure that none of some runs goes on.

    Raises:
        Refused: one does.
    """
    if any(r.state in status.UNFINISHED for r in runs):
        raise Refused("A run is going on.", "Stop it first.")


def remove(session: Session, crate: Crate) -> None:
    """Remove an open crate, which can be put back for a while; raises as `nothing_runs`."""
    nothing_runs([r for d in crate.deliverables for r in d.runs])
    crate.removed_at = status.now()
    for one in crate.deliverables:
        one.wanted_at = None
    tell(session, "crate", crate.id)


def seal(session: Session, crate: Crate) -> None:
    """Have an open crate sealed in which every must is met or signed off.

    Raises:
        Refused: something stands in the way.
    """
    sealing.require_sealable(crate)
    crate.state, crate.error = "sealing", None
    order(session, "seal", crate.id)
    tell(session, "crate", crate.id)


def hand_over(session: Session, crate: Crate) -> None:
    """Have a sealed crate carried to its recipient.

    Raises:
        Refused: it is not sealed.
    """
    if crate.state not in {"sealed", "refused"}:
        raise Refused(
            f"Crate {crate.number} is {crate.state}.", "Only a sealed crate can be handed over."
        )
    crate.state, crate.error = "handing over", None
    order(session, "hand_over", crate.id)
    tell(session, "crate", crate.id)
