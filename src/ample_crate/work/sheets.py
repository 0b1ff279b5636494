"""Items of a crate from a sheet, and to one: each line is laid into the crate as a person would,
and what it cannot take is told by its line.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from ..core.errors import AmpleError, BadValue, NotFound, Refused
from ..core.facts.labels import ranges_named
from ..core.facts.span import Span
from ..core.planning import sheets
from ..core.planning.choices import by_hand
from ..core.planning.sheets import Line, Mistake
from ..core.specs import naming
from ..store import masters
from ..store.models import Crate, Deliverable, Master
from ..store.queries import get
from . import choosing, house, running, status, undoing
from .status import ItemStatus

UNREAD = ("reading", "failed", "changed")


@dataclass(frozen=True)
class Laid:
    """A line that is laid into a crate: which item it is, and whether that is a new one."""

    line: Line
    item: Deliverable
    fresh: bool


@dataclass
class LaidOut:
    """What came of a sheet: the lines that are in the crate now, and what is wrong with others."""

    laid: list[Laid] = field(default_factory=list)
    mistakes: list[Mistake] = field(default_factory=list)


class _Wrong(Exception):
    """What is wrong with a line, in a column of it."""

    def __init__(self, column: str, error: AmpleError) -> None:
        self.column, self.error = column, error


@contextmanager
def _column(name: str) -> Iterator[None]:
    """Say which column of a line is to blame."""
    try:
        yield
    except AmpleError as error:
        raise _Wrong(name, error) from error


def lay_out(crate: Crate, text: str) -> LaidOut:
    """Lay a sheet into an open crate: a line whose master and range are there changes that item,
    any other adds one. A line with a mistake changes nothing.

    Args:
        crate: of a session, which changes it.
        text: of the sheet.

    Raises:
        BadValue: it is none.
    """
    session = _session(crate)
    sheet = sheets.read(text, status.spec_of(crate))
    made = LaidOut(mistakes=list(sheet.mistakes))
    book, taken = _Book(session), dict[str, int]()
    for line in sheet.lines:
        try:
            with session.begin_nested():
                one = _lay(crate, line, book, sheet.with_sound)
                _require_once(one.item, line, taken)
        except _Wrong as wrong:
            crate_again(crate)
            told = Mistake(line.number, wrong.column, wrong.error.what, wrong.error.way_out)
            made.mistakes.append(told)
        else:
            made.laid.append(one)
    made.mistakes.sort(key=lambda one: one.line)
    return made


def crate_again(crate: Crate) -> None:
    """Read a crate's items again, once what was done to one of them was taken back."""
    _session(crate).expire(crate, ["deliverables"])


def _session(crate: Crate) -> Session:
    session = object_session(crate)
    assert session is not None
    return session


def _require_once(item: Deliverable, line: Line, taken: dict[str, int]) -> None:
    mark = mark_of(item.master_id, item.span)
    if mark in taken:
        error = BadValue(
            f"Line {taken[mark]} has the same master and range.",
            "Name another range, or take one of the two lines out.",
        )
        raise _Wrong("", error)
    taken[mark] = line.number


def mark_of(master: int, span: Mapping[str, Any] | None) -> str:
    """Say which frames of which master an item takes, whatever a range of them is called."""
    taken = None if span is None else {k: v for k, v in span.items() if k != "name" and v}
    return json.dumps([master, taken], sort_keys=True)


def _lay(crate: Crate, line: Line, book: _Book, with_sound: bool) -> Laid:
    with _column(sheets.MASTER):
        master = book.master(line.master)
    with _column(sheets.RANGE):
        span = _span(master, line.range)
    with _column(sheets.SOUND):
        sound = book.master(line.sound) if line.sound else None
    mark = mark_of(master.id, span)
    item = next((d for d in crate.deliverables if mark_of(d.master_id, d.span) == mark), None)
    fresh = item is None
    if item is None:
        item = Deliverable(master=master, span=span, position=len(crate.deliverables))
        crate.deliverables.append(item)
        _session(crate).flush()
        house.begin(item)
    else:
        with _column(""):
            require_at_rest(item)
    before = undoing.state(item)
    if with_sound and (sound is not None or not fresh):
        with _column(sheets.SOUND):
            choosing.take_sound(item, sound)
    given = {key: value for key, value in line.choices.items() if value}
    if not (fresh and _all_at_once(item, given)):
        for key in choosing.in_order(line.choices):
            _choose(item, key, line.choices[key], fresh)
    undoing.remember(item, before)
    return Laid(line, item, fresh)


def require_at_rest(item: Deliverable) -> None:
    """Make sure that nothing runs of an item.

    Raises:
        Refused: a run of it goes on.
    """
    if any(run.state in status.UNFINISHED for run in item.runs):
        raise Refused("A run of it is going on.", "Stop it first.")


def _all_at_once(item: Deliverable, given: Mapping[str, str]) -> bool:
    """Choose all of a line together, where that can be; which of them is to blame where it cannot,
    is found one by one.
    """
    if not all(map(choosing.stands_alone, given)):
        return False
    with suppress(AmpleError):
        choosing.choose_together(item, given)
        return True
    return False


def _choose(item: Deliverable, key: str, value: str, fresh: bool) -> None:
    if value or (not fresh and key in item.choices):
        with _column(key):
            choosing.choose(item, key, value or None)


def _span(master: Master, said: str) -> dict[str, Any] | None:
    if not said:
        return None
    named = next((s for s in master.spans if s.name.casefold() == said.casefold()), None)
    if named is not None:
        return {"name": named.name, "first": named.first, "frames": named.frames}
    try:
        return ranges_named(said, masters.known(master)).as_json()
    except BadValue as error:
        names = ", ".join(s.name for s in master.spans)
        kept = f" Its named ranges are {names}." if names else ""
        raise BadValue(
            f"'{said}' is no range of '{master.name}': {error.what}",
            f"Write a named range, or its first and last frame, such as 250-324.{kept}",
        ) from None


class _Book:
    """Finds masters by what a sheet calls them."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._ids: dict[str, list[int]] = {}
        query = select(Master.id, Master.name, Master.sha256).order_by(Master.id)
        for id, name, sha256 in session.execute(query):
            words = {name.casefold(), naming.stem(name).casefold(), sha256 or ""}
            for word in words - {""}:
                self._ids.setdefault(word, []).append(id)

    def master(self, said: str) -> Master:
        """Find a master by its name, with or without ending, its checksum, or #number.

        Raises:
            NotFound: there is none.
            Refused: it is not read yet, or there are several.
        """
        if said.startswith("#") and said[1:].isdigit():
            row = get(self._session, Master, min(int(said[1:]), 2**31 - 1))
        else:
            row = self._named(said)
        if row.state in UNREAD:
            raise Refused(f"'{row.name}' has not been read.", "Wait until it has been.")
        return row

    def called(self, row: Master) -> str:
        """Give what a master is found by: its name, where that is enough."""
        try:
            found = self._named(row.name)
        except AmpleError:
            return f"#{row.id}"
        return row.name if found is row else f"#{row.id}"

    def _named(self, said: str) -> Master:
        bare = said.replace("\\", "/").rpartition("/")[2].casefold()
        ids = self._ids.get(bare, [])
        if not ids:
            near = get_close_matches(bare, self._ids, 1)
            meant = f" Did you mean '{self._name(near[0])}'?" if near else ""
            raise NotFound(
                f"There is no master '{said}'.", f"Hand it in, or write another name.{meant}"
            )
        rows = [get(self._session, Master, id) for id in ids]
        if len({row.sha256 or row.id for row in rows}) > 1:
            numbers = ", ".join(f"#{row.id}" for row in rows)
            raise Refused(
                f"{len(rows)} masters are called '{said}': {numbers}.",
                "Write the number of the one that is meant.",
            )
        return rows[-1]

    def _name(self, word: str) -> str:
        return get(self._session, Master, self._ids[word][-1]).name


def written(crate: Crate, made: Sequence[ItemStatus]) -> str:
    """Write the items of a crate as a sheet that can be laid into one again."""
    pattern = status.spec_of(crate).delivery.pattern()
    fields = [f"{sheets.NAME}{name}" for name in by_hand(pattern)]
    book = _Book(_session(crate))
    chosen = {key for one in made for key in one.deliverable.choices}
    with_range = [sheets.RANGE] if any(one.deliverable.span for one in made) else []
    with_sound = [sheets.SOUND] if any(one.deliverable.sound for one in made) else []
    keys = [*fields, *sorted(chosen - set(fields))]
    columns = [sheets.MASTER, *with_range, *with_sound, *keys, *sheets.TOLD]
    return sheets.write(columns, [_row(one, made, book) for one in made])


def _row(one: ItemStatus, made: Sequence[ItemStatus], book: _Book) -> dict[str, Any]:
    item = one.deliverable
    span = Span.model_validate(item.span) if item.span else None
    made_of = one.finished if one.finished is not None and not one.stale else None
    return dict(item.choices) | {
        sheets.MASTER: book.called(item.master),
        sheets.RANGE: "" if span is None else frames_of(span),
        sheets.SOUND: "" if item.sound is None else book.called(item.sound),
        "item": status.item_name(item),
        "file": str(one.route.facts.value("file.name")) if one.route is not None else "",
        "verdict": one.verdict,
        "state": running.doing(one, list(made)),
        "bytes": made_of.size if made_of is not None else None,
        "sha256": made_of.sha256 if made_of is not None else None,
    }


def frames_of(span: Span) -> str:
    """Say a range by its first and last frames, as `labels.ranges_named` reads it."""
    return ", ".join(f"{piece.first}-{piece.last}" for piece in span.pieces)
