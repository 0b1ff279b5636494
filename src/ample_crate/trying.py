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

from . import given
from .core import quality
from .core.facts.labels import ranges_named
from .core.planning import tries
from .core.planning.tries import Try
from .core.units.values import show_bit_rate, show_bytes
from .media import ops
from .terminal import Line
from .work import tried
from .work.tried import COLUMNS, WAYS, Row, Taken


def add_to(command: argparse.ArgumentParser) -> None:
    """Say what the command is given."""
    command.add_argument("file", type=Path, metavar="FILE", help="the master")
    command.add_argument(
        "--try",
        dest="tries",
        action="append",
        required=True,
        metavar="CODEC[:PROPERTY=VALUE]...",
        help='such as h264, "h264:bit_rate=8 Mb/s:passes=2" or "prores:profile=lt"',
    )
    command.add_argument(
        "--range",
        metavar="IN-OUT[,IN-OUT]...",
        help="first and last frame, by number or timecode, of each part; without it all is tried",
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
        span = None if args.range is None else ranges_named(args.range, facts)
        taken = Taken(master.path, master.name, facts, span)
        place = Path(held.enter_context(tempfile.TemporaryDirectory(prefix="ample-trial-")))
        rows = [_row(one, taken, place / str(n)) for n, one in enumerate(asked)]
    frames = int(facts.value("motion.frames") or 0)
    document = {
        "file": master.name,
        "first": 0 if span is None else span.first,
        "frames": frames if span is None else span.taken,
        "tries": rows,
    }
    if args.json:
        print(json.dumps(document, indent=2, ensure_ascii=False))
    elif args.csv:
        _comma_separated(rows)
    else:
        _say(document)
    return 1 if any("error" in row for row in rows) else 0


def _row(one: Try, taken: Taken, folder: Path) -> Row:
    line = Line()
    try:
        return tried.row_of(one, taken, folder, ops.Control(line))
    finally:
        line.done()


def _comma_separated(rows: list[Row]) -> None:
    writer = csv.DictWriter(sys.stdout, COLUMNS, restval="", lineterminator="\n")
    writer.writeheader()
    writer.writerows(map(tried.flat, rows))


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
