"""What the command line is given: files, image sequences as a folder or a pattern, choices, and
what else goes into a deliverable.
"""

from __future__ import annotations

import argparse
import re
import sys
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from datetime import UTC, datetime
from fnmatch import fnmatch
from fractions import Fraction
from pathlib import Path

from .core.errors import BadValue
from .core.facts import Facts
from .core.facts.labels import ranges_named
from .core.facts.properties import Depth
from .core.facts.sequences import Sequence as Images
from .core.facts.sequences import gather, rate_of
from .core.planning.beside import Beside
from .core.planning.request import Item
from .core.planning.under import BACKGROUND
from .core.specs.delivery import STILL
from .media import ops
from .media.sequence import lay_out
from .terminal import Line

NUMBER = re.compile(r"%0?\d*d|\[\d+-\d+\]|#+")


@dataclass(frozen=True)
class Given:
    """Something to work on: the path by which it is opened, and its name."""

    path: Path
    name: str


def taken(arguments: Sequence[Path], rate: str | None, held: ExitStack) -> list[Given]:
    """Find what is meant by some arguments; image sequences are laid out until `held` is left.

    Args:
        arguments: files; folders of numbered images; patterns of their names, such as
            `roll_%07d.dpx`, `roll_#######.dpx`, `roll_[0001-0240].dpx` or `roll_*.dpx`.
        rate: frames a second of sequences, "24" or "30000/1001".
        held: gives up the lay-outs.

    Raises:
        BadValue: a folder or pattern holds no numbered images, or no rate is given for them.
    """
    return [one for argument in arguments for one in _meant(argument, rate, held)]


def one(argument: Path, rate: str | None, held: ExitStack) -> Given:
    """Find the one thing that is meant by an argument.

    Raises:
        BadValue: it is several, or as `taken` has it.
    """
    found = taken([argument], rate, held)
    if len(found) > 1:
        raise BadValue(
            f"'{argument}' holds {len(found)} image sequences: {', '.join(f.name for f in found)}.",
            "Name one of them by a pattern, such as roll_%07d.dpx.",
        )
    return found[0]


def _meant(argument: Path, rate: str | None, held: ExitStack) -> Iterator[Given]:
    if argument.is_dir():
        images = sorted(path.name for path in argument.iterdir() if path.is_file())
        yield from _sequences(argument, argument, images, rate, held)
    elif not argument.exists() and _is_pattern(argument.name) and argument.parent.is_dir():
        every = sorted(path.name for path in argument.parent.iterdir() if path.is_file())
        images = [name for name in every if fnmatch(name, _wild(argument.name))]
        yield from _sequences(argument, argument.parent, images, rate, held)
    else:
        yield Given(argument, argument.name)


def _is_pattern(name: str) -> bool:
    return NUMBER.search(name) is not None or any(c in name for c in "*?")


def _wild(name: str) -> str:
    return NUMBER.sub("*", name)


def _sequences(
    argument: Path, folder: Path, names: Sequence[str], rate: str | None, held: ExitStack
) -> Iterator[Given]:
    found, _ = gather(names)
    if not found:
        raise BadValue(
            f"'{argument}' holds no numbered images.",
            "Give a file, or a folder or pattern of images such as roll_0001.dpx.",
        )
    if rate is None:
        raise BadValue(
            f"'{argument}' is an image sequence, and nobody says at what rate.",
            "Give its frames a second with --rate, such as --rate 24.",
        )
    for one in found:
        yield Given(_laid(folder, one, rate_of(rate), held), one.name)


def _laid(folder: Path, images: Images, rate: Fraction, held: ExitStack) -> Path:
    place = Path(held.enter_context(tempfile.TemporaryDirectory(prefix="ample-sequence-")))
    place.chmod(0o755)  # a child without rights reads it
    files = [(folder / name).absolute() for name in images.names]
    return lay_out(place / "laid", files, images, rate)


def measured(one: Given, quiet: bool, depth: Depth = "ledger") -> ops.Measured:
    """Measure what is given, with progress on the terminal unless `quiet`, and say what is odd."""
    line = Line()
    try:
        found = ops.measure(one.path, None if quiet else line, depth=depth)
    finally:
        line.done()
    for note in found.notes:
        print(f"ample: {one.name}: {note}", file=sys.stderr)
    return found


def require_text(args: argparse.Namespace) -> None:
    """Make sure that what is given as text is text; files may have names of any bytes.

    Raises:
        BadValue: something is none.
    """
    for value in vars(args).values():
        for text in value if isinstance(value, list) else [value]:
            if isinstance(text, str) and not _is_text(text):
                said = text.encode(errors="replace").decode()
                raise BadValue(f"'{said}' is no text in UTF-8.", "Write it in letters and figures.")


def _is_text(text: str) -> bool:
    # Bytes that are none come in as lone surrogates.
    return not any("\ud800" <= letter <= "\udfff" for letter in text)


def choices(args: argparse.Namespace) -> dict[str, str]:
    """Give what was chosen, by property."""
    over = {} if args.over is None else {BACKGROUND: STILL}
    return dict(text.partition("=")[::2] for text in args.choose) | over


def item(args: argparse.Namespace, master: Facts) -> Item:
    """Give what of a master goes into a deliverable, and what else; other files are measured.

    Raises:
        BadValue: the ranges are none of the master's.
    """
    span = None if args.range is None else ranges_named(args.range, master)
    sound = None if args.sound is None else _other(args.sound, args.json)
    under = None if args.over is None else _other(args.over, args.json)
    return Item(span, given={"date": f"{datetime.now(UTC):%Y%m%d}"}, sound=sound, under=under)


def inputs(args: argparse.Namespace, one: Given) -> list[Path]:
    """List a plan's inputs: the master, and what else goes into a deliverable."""
    return [path for path in (one.path, args.sound, args.over) if path is not None]


def _other(path: Path, quiet: bool) -> Beside:
    return Beside(path.name, measured(Given(path, path.name), quiet).facts)
