"""Where two films are in step: told by how their frames look, each seen as a few coarse samples."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Looks = npt.NDArray[np.float32]

TELLING = 0.5  # steps of 8 bit: a shift is believed that leaves this share of the difference
SMALL = 0.75  # steps of 8 bit that coding alone leaves in coarse samples


def shift(reference: Looks, film: Looks, most: int) -> tuple[int, float]:
    """Find how many frames later a film begins than a reference, below 0 earlier, and how much
    differs then, in steps of 8 bit.

    Where several fit alike, as in a picture that stands still, the one nearest to none is taken.

    Args:
        reference, film: frames x samples, of 8 bit.
        most: frames looked at in either direction.
    """
    every = range(-most, most + 1)
    costs = {n: _apart(reference, film, n) for n in every if _shared(reference, film, n)}
    if not costs:
        return 0, float("inf")
    here = costs.get(0, float("inf"))
    best = min(costs, key=lambda n: (costs[n], abs(n)))
    return (best, costs[best]) if costs[best] < TELLING * here else (0, here)


def stands_still(looks: Looks) -> bool:
    """Say whether frames look too much alike to tell one from another."""
    return len(looks) < 2 or float(np.abs(np.diff(looks, axis=0)).mean(axis=1).max()) < SMALL


def _shared(reference: Looks, film: Looks, by: int) -> int:
    """Count the frames that both have where they lie so; too few tell nothing."""
    shared = min(len(reference), len(film) - by) if by >= 0 else min(len(reference) + by, len(film))
    return shared if 2 * shared >= min(len(reference), len(film)) else 0


def _apart(reference: Looks, film: Looks, by: int) -> float:
    count = _shared(reference, film, by)
    one, other = reference[max(0, -by) :][:count], film[max(0, by) :][:count]
    return float(np.abs(one - other).mean())
