"""`ample trial`: the same pictures in several codecs, as a table of what each costs and gives."""

from __future__ import annotations

import argparse
import csv
import json
import sys
import tempfile
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path
from typing import Any

from . import given
from .core import quality
from .core.errors import AmpleError
from .core.facts import Facts
from .core.facts.labels import range_named
from .core.facts.span import Span
from .core.planning import tries
from .core.planning.plan import Plan
from .core.planning.request import Item
from .core.planning.tries import Try
from .core.units.values import show_bit_rate, show_bytes
from .given import Given
from .media import folders, looks, ops
from .terminal import Line
from .work.deliver import plan_or_refuse

WAYS = ("forwards", "backwards", "random")
COLUMNS = (
    "try",
    "codec",
    "wrapper",
    "encode_seconds",
    "encode_fps",
    "bytes",
    "bit_rate",
    *(f"{key}_{figure}" for key in quality.HEADLINE for figure in ("mean", "p5", "worst")),
    *(f"decode_{way}" for way in WAYS),
    "error",
)
Row = dict[str, Any]


def add_to(command: argparse.ArgumentParser) -> None:
    """Say what the command is given."""
    command.add_argument("file", type=Path, metavar="FILE", help="the master")
    command.add_argument(
        "--try",
        dest="tries",
        action="append",
        required=True,
        metavar="CODEC[:PROPERTY=VALUE]...",
        help='such as h264, "h264:bit_rate=8 Mb/s" or "prores:profile=lt"',
    )
    command.add_argument(
        "--range",
        metavar="IN-OUT",
        help="first and last frame, by number or timecode; without it all is tried",
    )
    command.add_argument("--csv", action="store_true", help="print comma-separated values")
    command.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Try each, and tell; what cannot be made says why, and keeps no other back."""
    asked = [tries.read(text) for text in args.tries]
    quiet = args.json or args.csv
    with ExitStack() as held:
        master = given.one(args.file, args.rate, held)
        facts = given.measured(master, quiet).facts
        span = None if args.range is None else range_named(args.range, facts, "trial")
        place = Path(held.enter_context(tempfile.TemporaryDirectory(prefix="ample-trial-")))
        rows = [_tried(one, master, facts, span, place / str(n)) for n, one in enumerate(asked)]
    frames = int(facts.value("motion.frames") or 0)
    document = {
        "file": master.name,
        "first": 0 if span is None else span.first,
        "frames": frames if span is None else span.frames,
        "tries": rows,
    }
    if args.json:
        print(json.dumps(document, indent=2, ensure_ascii=False))
    elif args.csv:
        _comma_separated(rows)
    else:
        _say(document)
    return 1 if any("error" in row for row in rows) else 0


def _tried(one: Try, master: Given, facts: Facts, span: Span | None, folder: Path) -> Row:
    head: Row = {"try": one.text, "codec": one.codec, "settings": one.settings}
    line = Line()
    try:
        spec = tries.spec_of(one)
        route, plan = plan_or_refuse(
            facts, spec, {"picture": "encoded"}, master.name, Item(span=span)
        )
        folder.mkdir()
        control = ops.Control(line)
        made = ops.render([master.path], folder, plan, route.size, control)
        found = ops.quality(made.path, [master.path], plan, control)
        return head | {
            **_size(plan, made),
            **quality.summary(found.of_programme),
            "decode": {way: round(n, 2) for way, n in looks.decoding(made.path).items()},
        }
    except AmpleError as error:
        return head | {"error": {"what": error.what, "way_out": error.way_out}}
    finally:
        line.done()


def _size(plan: Plan, made: ops.Rendered) -> Row:
    count = sum(file.stat().st_size for file in folders.files_of(made.path))
    return {
        "wrapper": plan.files[0].wrapper,
        "encode": {
            "seconds": round(made.seconds, 3),
            "fps": round(plan.frames / made.seconds, 2),
        },
        "bytes": count,
        "bit_rate": round(8 * count / plan.seconds),
    }


def _flat(row: Row) -> Row:
    """Lay a row out in columns."""
    figures = {
        f"{key}_{name}": row[key][name]
        for key in quality.HEADLINE
        for name in ("mean", "p5", "worst")
        if key in row
    }
    encode, decode = row.get("encode", {}), row.get("decode", {})
    return {
        **{key: row[key] for key in ("try", "codec", "wrapper", "bytes", "bit_rate") if key in row},
        **{f"encode_{key}": value for key, value in encode.items()},
        **{f"decode_{key}": value for key, value in decode.items()},
        **figures,
        "error": row["error"]["what"] if "error" in row else "",
    }


def _comma_separated(rows: list[Row]) -> None:
    writer = csv.DictWriter(sys.stdout, COLUMNS, restval="", lineterminator="\n")
    writer.writeheader()
    writer.writerows(map(_flat, rows))


def _say(document: Row) -> None:
    print(f"{document['file']}, {document['frames']} frames from {document['first']} on:\n")
    print(f"{'':28} {'encode':>9} {'size':>11} {'rate':>12}", end="")
    print("".join(f"{quality.MEASURES[key].label:>9}" for key in quality.HEADLINE), end="")
    print("".join(f"{way:>11}" for way in WAYS))
    for row in document["tries"]:
        print("".join(_cells(row)))
    print("\nencode and decode in frames a second; quality is the mean over all frames.")


def _cells(row: Row) -> Iterator[str]:
    yield f"{row['try'][:28]:28}"
    if "error" in row:
        yield f"  {row['error']['what']} {row['error']['way_out']}"
        return
    rate = show_bit_rate(row["bit_rate"])
    yield f"{row['encode']['fps']:>10.1f} {show_bytes(row['bytes']):>11} {rate:>12}"
    for key in quality.HEADLINE:
        measure = quality.MEASURES[key]
        yield f"{row[key]['mean']:>9.{measure.digits}f}"
    yield from (f"{row['decode'][way]:>11.1f}" for way in WAYS)
