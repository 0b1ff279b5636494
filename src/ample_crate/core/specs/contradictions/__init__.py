"""What in a spec contradicts itself: found when it is written, each with its clauses and a proposed
repair.
"""

from __future__ import annotations

import copy
from collections.abc import Mapping
from typing import Any

from ...errors import BadSpec
from ..spec import Spec
from . import buffer, figures, file, lengths, motion, picture, reason, samples, shape, sound
from .view import Contradiction, Repair, View, beyond, never_asked, useless_choices, views

__all__ = ["Contradiction", "Repair", "View", "contradictions", "repaired"]
CHECKS = (
    *reason.CHECKS,
    *figures.CHECKS,
    *lengths.CHECKS,
    *picture.CHECKS,
    *samples.CHECKS,
    *motion.CHECKS,
    *shape.CHECKS,
    *buffer.CHECKS,
    *sound.CHECKS,
    *file.CHECKS,
)


def contradictions(spec: Spec) -> list[Contradiction]:
    """List what in a spec no file can meet, and what can hardly be meant; the graver first."""
    found: dict[tuple[Any, ...], Contradiction] = {}
    for view in views(spec):
        for check in CHECKS:
            for one in check(view):
                found.setdefault((one.kind, one.what, one.properties), one)
    for one in (*never_asked(spec), *useless_choices(spec), *beyond(spec)):
        found.setdefault((one.kind, one.what, one.properties), one)
    return sorted(found.values(), key=lambda c: c.grade != "contradiction")


def repaired(
    document: Mapping[str, Any], repair: Repair | Mapping[str, Mapping[str, Any] | None]
) -> dict[str, Any]:
    """Give a spec's document with a repair made.

    A changed rule takes the place of every rule on its property, in alternatives too; one on a
    property not yet asked about is added.

    Raises:
        BadSpec: the repair would leave nothing.
    """
    changes = repair.changes if isinstance(repair, Repair) else repair
    made: dict[str, Any] = copy.deepcopy(dict(document))
    for key, rule in changes.items():
        rows = [r for r in made["requirements"] if r["property"] == key]
        kept = [r for r in made["requirements"] if r["property"] != key]
        inside = [a for e in made.get("either", []) for a in e["any"] if key in a["rules"]]
        if rule is None:
            made["requirements"] = kept
            for alternative in inside:
                del alternative["rules"][key]
            continue
        if rows:
            at = made["requirements"].index(rows[0])
            kept.insert(min(at, len(kept)), {**rows[0], "rule": dict(rule)})
            made["requirements"] = kept
        for alternative in inside:
            alternative["rules"][key] = dict(rule)
        if not rows and not inside:
            made["requirements"] = [
                *made["requirements"],
                {"property": key, "rule": dict(rule), "source": "repair"},
            ]
    for either in made.get("either", []):
        either["any"] = [a for a in either["any"] if a["rules"]]
    made["either"] = [e for e in made.get("either", []) if len(e["any"]) > 1]
    if not made["requirements"]:
        raise BadSpec(
            "The repair would leave a spec without requirements.", "Change the rule by hand."
        )
    return made
