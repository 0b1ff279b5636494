"""Properties of a whole crate."""

from __future__ import annotations

from .model import row

PROPERTIES = (
    row(
        "delivery.items",
        "files in the crate",
        "count",
        "measured",
        "deliverables of one crate",
        phrase="The files in a crate {verb} number {asked}",
    ),
    row(
        "delivery.total",
        "bytes of the crate",
        "bytes",
        "measured",
        "all deliverables of one crate together",
        plausible=(1000, 1000000000000000),
        phrase="All files of a crate together {verb} be {asked}",
    ),
    row(
        "delivery.week",
        "bytes in the week",
        "bytes",
        "measured",
        "all that goes to the recipient from Monday to Sunday, over all crates",
        plausible=(1000, 1000000000000000),
        phrase="All files sent in one week, over all crates, {verb} be {asked}",
    ),
    row(
        "delivery.length",
        "length of the crate",
        "seconds",
        "measured",
        "all programmes of one crate together",
        phrase="All programmes of a crate together {verb} last {asked}",
    ),
)
