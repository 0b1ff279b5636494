"""Items of a crate as a sheet: a line each, with what is chosen for it, as comma-separated values
(RFC 4180; semicolons and tabs are read too).
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from difflib import get_close_matches

from ..errors import BadValue
from ..specs.naming import FRAME
from ..specs.spec import BEGINS_WITH, EITHER, Spec
from . import reframing
from .beside import LAID
from .choices import by_hand, may_choose
from .programme import CHANNELS, TRACKS

MASTER, RANGE, SOUND = "master", "range", "sound of"
NAME = "name."
# What a written sheet tells besides, and nobody reads.
TOLD = ("item", "file", "verdict", "state", "bytes", "sha256")
MOST = 500  # lines; as many items as a crate may be made of at once
SEPARATORS = ",;\t"
# A spreadsheet takes what begins so for a formula.
FORMULA = ("=", "+", "-", "@")
GUARD = "'"


@dataclass(frozen=True)
class Line:
    """A line of a sheet.

    Attributes:
        number: of the line of text that it begins on, from 1.
        master: the master's name, checksum or number.
        range: a name or frames; empty for all of it.
        sound: another master whose sound goes along; empty for its own.
        choices: by key; empty where nothing is chosen.
    """

    number: int
    master: str
    range: str
    sound: str
    choices: Mapping[str, str]


@dataclass(frozen=True)
class Mistake:
    """What is wrong on a line, in which column; the column is empty where it is all of it."""

    line: int
    column: str
    what: str
    way_out: str


@dataclass(frozen=True)
class Sheet:
    """A sheet that was read: its lines, which of them have a column for sound, and mistakes."""

    lines: tuple[Line, ...]
    mistakes: tuple[Mistake, ...]
    with_sound: bool = False


def headings(spec: Spec) -> dict[str, str]:
    """Give what may head a column of choices under a spec, and the key that each stands for; a
    field of the name may stand alone.
    """
    keys = [k for k in dict.fromkeys(r.property for r in spec.requirements) if may_choose(spec, k)]
    keys += [*BEGINS_WITH, TRACKS, CHANNELS, LAID, reframing.REFRAMED]
    keys += [f"{EITHER}{one.name}" for one in spec.either]
    keys += ["house"] if spec.house_sets else []
    fields = by_hand(spec.delivery.pattern())
    # What is numbered has a number in its name, whether its pattern says so or not.
    named = [f"{NAME}{field}" for field in dict.fromkeys([*fields, FRAME])]
    alone = {field: f"{NAME}{field}" for field in fields if field not in (MASTER, RANGE, SOUND)}
    return alone | {key: key for key in [*keys, *named]}


def read(text: str, spec: Spec) -> Sheet:
    """Read a sheet.

    Args:
        text: with a head of column names; a byte order mark is passed over.
        spec: says which columns of choices there are.

    Raises:
        BadValue: it has no head that names the masters, no lines, or too many.
    """
    text = text.removeprefix("\ufeff")
    separator, text, skipped = _separator(text)
    records = _records(text, separator, skipped)
    head = next(records, None)
    if head is None:
        raise BadValue("The sheet is empty.", "Give it a head with a column 'master', and lines.")
    columns, mistakes = _columns(head, spec)
    lines: list[Line] = []
    for number, cells in records:
        line, wrong = _line(number, cells, columns)
        mistakes += wrong
        if line is not None:
            lines.append(line)
        if len(lines) > MOST:
            raise BadValue(f"The sheet has more than {MOST} lines.", "Part it into several.")
    if not lines and not mistakes:
        raise BadValue("The sheet has a head and no lines.", "Give it a line for each item.")
    return Sheet(tuple(lines), tuple(mistakes), SOUND in columns)


def _separator(text: str) -> tuple[str, str, int]:
    """Find what parts the cells; give what comes after a line that says so, and how many lines that
    is.
    """
    said = re.match(r"sep=([,;\t])\r?\n", text)
    if said:
        return said[1], text[said.end() :], 1
    head = text.lstrip("\r\n").partition("\n")[0]
    return max(SEPARATORS, key=head.count), text, 0


def _records(text: str, separator: str, skipped: int) -> Iterator[tuple[int, list[str]]]:
    """Give the records that are not blank, each with the number of the line it begins on."""
    # Both ends of a line that systems write, and those inside a quoted cell, are kept apart.
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    begins = 1
    while True:
        try:
            cells = next(rows)
        except StopIteration:
            return
        except csv.Error as error:
            raise BadValue(
                f"Line {begins + skipped} of the sheet cannot be read: {error}.",
                "Put cells with quotation marks or separators into quotation marks.",
            ) from None
        if any(cell.strip() for cell in cells):
            yield begins + skipped, [_unguarded(cell.strip()) for cell in cells]
        begins = rows.line_num + 1


def _columns(head: tuple[int, list[str]], spec: Spec) -> tuple[list[str], list[Mistake]]:
    """Give the key of each column, empty where it is not read."""
    known = headings(spec) | {name: name for name in (MASTER, RANGE, SOUND)}
    columns: list[str] = []
    mistakes: list[Mistake] = []
    for cell in head[1]:
        name = cell.casefold()
        key = known.get(name, "")
        if key and key in columns:
            mistakes.append(
                Mistake(head[0], cell, f"There are two columns '{cell}'.", "Take one of them out.")
            )
            key = ""
        elif not key and name and name not in TOLD:
            mistakes.append(_unknown(head[0], cell, [*known]))
        columns.append(key)
    if MASTER not in columns:
        raise BadValue(
            "The first line of the sheet names the columns, and none is 'master'.",
            "Give it a column 'master' with the masters' names.",
        )
    return columns, mistakes


def _unknown(line: int, cell: str, known: list[str]) -> Mistake:
    near = get_close_matches(cell.casefold(), known, 1)
    meant = f"Did you mean '{near[0]}'?" if near else f"There are: {', '.join(sorted(known))}."
    return Mistake(line, cell, f"This spec has no column '{cell}'.", meant)


def _line(
    number: int, cells: Sequence[str], columns: Sequence[str]
) -> tuple[Line | None, list[Mistake]]:
    more = [cell for cell in cells[len(columns) :] if cell]
    if more:
        what = f"The line has {len(cells)} cells, and the head {len(columns)}."
        way_out = "Put a cell that has the separator in it into quotation marks."
        return None, [Mistake(number, "", what, way_out)]
    given = dict(zip(columns, [*cells, *[""] * (len(columns) - len(cells))], strict=False))
    given.pop("", None)
    master = given.pop(MASTER)
    if not master:
        return None, [
            Mistake(number, MASTER, "The line names no master.", "Write its name, or delete it.")
        ]
    range, sound = given.pop(RANGE, ""), given.pop(SOUND, "")
    return Line(number, master, range, sound, given), []


def write(columns: Sequence[str], rows: Iterable[Mapping[str, object]]) -> str:
    """Write a sheet that `read` and a spreadsheet read; what is not given is left empty."""
    text = io.StringIO(newline="")
    out = csv.writer(text, lineterminator="\r\n")
    out.writerow(columns)
    for row in rows:
        out.writerow([_guarded(row.get(column)) for column in columns])
    return text.getvalue()


def _guarded(value: object) -> object:
    """Keep a spreadsheet from taking a text for a formula."""
    if value is None:
        return ""
    if isinstance(value, str) and value.startswith((*FORMULA, GUARD)) and not _is_number(value):
        return GUARD + value
    return value


def _unguarded(cell: str) -> str:
    rest = cell[1:]
    return rest if cell.startswith(GUARD) and rest.startswith((*FORMULA, GUARD)) else cell


def _is_number(text: str) -> bool:
    return re.fullmatch(r"[+-]?\d+([.,]\d+)?", text) is not None
