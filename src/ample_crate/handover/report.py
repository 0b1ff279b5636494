"""The ledger as a page that anyone can read without this product."""

from __future__ import annotations

import os
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined

from ..core.facts import Facts
from ..core.facts.properties import GROUPS
from ..core.finding import Finding
from ..core.ledger import overall
from ..core.planning import table
from ..core.planning.plan import Route
from ..core.quality import MEASURES, lows
from ..core.specs.spec import Spec

POINTS = 500  # of a curve

_pages = Environment(
    loader=PackageLoader("ample_crate.handover"), autoescape=True, undefined=StrictUndefined
)


@dataclass(frozen=True)
class Judged:
    """A finished deliverable as the report tells of it.

    Attributes:
        name: of its file.
        spec: what was asked.
        master: facts of what was delivered of the master.
        facts: of the finished file.
        siblings: of the other files of the crate.
        exceptions: that were signed for it.
        checksum: SHA-256 of the file.
    """

    name: str
    spec: Spec
    master: Facts
    facts: Facts
    route: Route
    findings: list[Finding]
    siblings: Sequence[Facts] = ()
    exceptions: Sequence[dict[str, Any]] = ()
    checksum: str = ""


def entry(one: Judged) -> dict[str, Any]:
    """Gather one deliverable for the report; the same dictionary is the ledger as JSON."""
    spec, route = one.spec, one.route
    return {
        "file": one.name,
        "sha256": one.checksum,
        "bytes": one.facts.value("file.size"),
        "spec": {
            "id": spec.id,
            "version": spec.version,
            "title": spec.title,
            "source": spec.source,
        },
        "verdict": overall(one.findings),
        "rows": table.rows(spec, one.master, route.facts, one.facts, one.siblings),
        "steps": [s.model_dump() for s in route.steps],
        "cautions": [c.model_dump() for c in route.cautions],
        "exceptions": list(one.exceptions),
        "facts": one.facts.as_json(),
    }


def page(
    title: str,
    entries: Sequence[dict[str, Any]],
    head: dict[str, str] | None = None,
    whole: Sequence[dict[str, Any]] = (),
) -> str:
    """Render the report as one HTML page without outside parts, which prints well; `whole` has the
    findings on the crate as a whole. An entry may have its `quality`: its summary, `curve`,
    `moments` with `pictures` (addresses by name), and `notes`.
    """
    return _pages.get_template("ledger.html").render(
        title=title,
        entries=entries,
        head=head or {},
        groups=GROUPS,
        whole=whole,
        measures=MEASURES,
        line=line,
    )


def line(curve: Sequence[float], best: float) -> str:
    """Draw a curve as the points of a line in a box of 1000 by 100, its best value at the top."""
    drawn = lows(curve, POINTS)
    least = min(drawn)
    span = max(best - least, 1e-9)
    across = 1000 / max(1, len(drawn) - 1)
    return " ".join(
        f"{n * across:.1f},{100 * (best - value) / span:.1f}" for n, value in enumerate(drawn)
    )


def write_whole(path: Path, text: str) -> None:
    """Write a text file so that it appears under its name only when whole, whoever else writes it
    at the same time.
    """
    part = path.with_name(f".{path.name}.{secrets.token_hex(4)}.part")
    try:
        with open(part, "w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        os.replace(part, path)
    finally:
        part.unlink(missing_ok=True)
