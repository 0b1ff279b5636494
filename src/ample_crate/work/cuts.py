"""Where a copy of a deliverable's range begins and ends, found in its master's coded frames."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

from ..core.facts.span import Span
from ..core.planning.request import Cut
from ..media import ops
from ..store import masters
from ..store.models import Deliverable


def of(deliverable: Deliverable) -> Cut | None:
    """Give the cut that was found, as long as the master's bytes are the same."""
    found = deliverable.cut
    if not found or found["of"] != deliverable.master.sha256:
        return None
    return Cut(found["first"], found["frames"])


def wanted(deliverable: Deliverable, key: str, value: object) -> bool:
    """Say whether a choice needs a cut that was not found yet."""
    asked = key == "picture" and value == "copied"
    part = deliverable.span or {}
    return asked and bool(part) and not part.get("left_out") and of(deliverable) is None


def find(path: Path, sha256: str | None, span: Span, rate: Fraction) -> dict[str, Any]:
    """Look for the cut of a range.

    Raises:
        AmpleError: the file cannot be read, or no key frame stands before the range.
    """
    cut = ops.cut(path, span.first, span.frames, rate)
    return {"of": sha256, "first": cut.first, "frames": cut.frames}


def rate_of(deliverable: Deliverable) -> Fraction | None:
    """Give the frames a second by which a master's frames are counted."""
    rate: Fraction | None = masters.known(deliverable.master).fraction("motion.rate")
    return rate
