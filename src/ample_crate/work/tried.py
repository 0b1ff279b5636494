"""Codecs tried on the same pictures of a master: what each costs and gives. Needs no database."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..core import quality
from ..core.errors import AmpleError, Cancelled
from ..core.facts import Facts
from ..core.facts.span import Span
from ..core.planning import tries
from ..core.planning.plan import Plan
from ..core.planning.request import Item
from ..core.planning.tries import Try
from ..media import folders, looks, ops
from .deliver import plan_or_refuse

Row = dict[str, Any]
WAYS = ("forwards", "backwards", "random")
COLUMNS = (
    "try",
    "codec",
    "wrapper",
    "passes",
    "encode_seconds",
    "encode_fps",
    "bytes",
    "bit_rate",
    *(f"{key}_{figure}" for key in quality.HEADLINE for figure in ("mean", "p5", "worst")),
    *(f"decode_{way}" for way in WAYS),
    "error",
)
PLAIN = ("try", "codec", "wrapper", "passes", "bytes", "bit_rate")


@dataclass(frozen=True)
class Taken:
    """What codecs are tried on.

    Attributes:
        path, name: of the master.
        facts: of it.
        span: the part of it; None for all.
    """

    path: Path
    name: str
    facts: Facts
    span: Span | None


def row_of(one: Try, taken: Taken, folder: Path, control: ops.Control) -> Row:
    """Try a codec: {try, codec, settings} with what it took and gave, or with `error`, {what,
    way_out}, where it cannot be made.

    Args:
        one: what is tried.
        taken: on what.
        folder: a new one, where what is made comes to lie.
        control: told of progress, asked whether to stop.

    Raises:
        Cancelled: it was stopped.
    """
    head: Row = {"try": one.text, "codec": one.codec, "settings": one.settings}
    try:
        spec = tries.spec_of(one)
        route, plan = plan_or_refuse(
            taken.facts, spec, {"picture": "encoded"}, taken.name, Item(span=taken.span)
        )
        folder.mkdir()
        made = ops.render([taken.path], folder, plan, route.size, control)
        found = ops.quality(made.path, [taken.path], plan, control)
        return head | {
            **_size(plan, made),
            **quality.summary(found.of_programme),
            "decode": {way: round(n, 2) for way, n in looks.decoding(made.path).items()},
        }
    except Cancelled:
        raise
    except AmpleError as error:
        return head | {"error": {"what": error.what, "way_out": error.way_out}}


def _size(plan: Plan, made: ops.Rendered) -> Row:
    count = sum(file.stat().st_size for file in folders.files_of(made.path))
    return {
        "wrapper": plan.files[0].wrapper,
        "passes": plan.passes,
        "encode": {
            "seconds": round(made.seconds, 3),
            "fps": round(plan.frames / made.seconds, 2),
        },
        "bytes": count,
        "bit_rate": round(8 * count / plan.seconds),
    }


def flat(row: Row) -> Row:
    """Lay a row out in `COLUMNS`."""
    figures = {
        f"{key}_{name}": row[key][name]
        for key in quality.HEADLINE
        for name in ("mean", "p5", "worst")
        if key in row
    }
    encode, decode = row.get("encode", {}), row.get("decode", {})
    return {
        **{key: row[key] for key in PLAIN if key in row},
        **{f"encode_{key}": value for key, value in encode.items()},
        **{f"decode_{key}": value for key, value in decode.items()},
        **figures,
        "error": row["error"]["what"] if "error" in row else "",
    }
