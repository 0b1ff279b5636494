"""`ample batch`: the lines of a sheet, delivered one after the other, some at a time; what is done
already is not done again.
"""

from __future__ import annotations

import argparse
import fcntl
import hashlib
import json
import os
import shutil
import subprocess
import sys
import threading
from collections.abc import Iterable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor, as_completed
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from .core.errors import AmpleError, BadValue
from .core.planning import sheets
from .core.planning.beside import LAID
from .core.planning.sheets import Line
from .core.specs.spec import Spec
from .handover import report
from .store import library

Row = dict[str, Any]
FAILED = 2
MOST_AT_ONCE = 32


def add_to(command: argparse.ArgumentParser) -> None:
    """Say what the command is given."""
    command.add_argument(
        "sheet",
        type=Path,
        metavar="SHEET.csv",
        help="a line a deliverable: a column 'master' with paths, and columns of choices",
    )
    command.add_argument("--spec", required=True, metavar="ID|PATH")
    command.add_argument("--out", required=True, type=Path, metavar="DIR")
    command.add_argument("--at-once", type=int, default=2, metavar="N", help="lines at a time (2)")
    command.add_argument("--rate", metavar="FPS", help="frames a second of numbered images")
    command.add_argument("--json", action="store_true", help="print one JSON document")
    command.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Deliver every line that is not delivered yet; give the worst of their exit codes."""
    if not 1 <= args.at_once <= MOST_AT_ONCE:
        raise BadValue(
            f"{args.at_once} lines cannot be at work at a time.", f"Say 1 to {MOST_AT_ONCE}."
        )
    spec = library.find(args.spec)
    lines = _lines(args.sheet, spec)
    try:
        args.out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise AmpleError(
            f"The folder {args.out} cannot be made: {error.strerror}.", "Name another with --out."
        ) from None
    batch = _Batch(args, spec)
    with _alone(batch.place):
        rows = batch.work_off(lines)
    document = batch.document(rows)
    if args.json:
        print(json.dumps(document, indent=2, ensure_ascii=False))
    else:
        _say(rows)
    return max(int(row["exit"]) for row in rows)


def _lines(path: Path, spec: Spec) -> Sequence[Line]:
    """Read the sheet.

    Raises:
        BadValue: it cannot be read, or a line has a mistake: nothing is made then.
    """
    try:
        text = path.read_text("utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise BadValue(
            f"The sheet {path} cannot be read: {error}.", "Give a CSV file in UTF-8."
        ) from None
    sheet = sheets.read(text, spec)
    if sheet.mistakes:
        said = [
            f"line {one.line}{f', {one.column}' if one.column else ''}: {one.what} {one.way_out}"
            for one in sheet.mistakes
        ]
        raise BadValue("The sheet has mistakes.\n  " + "\n  ".join(said), "Nothing was made.")
    return sheet.lines


@dataclass
class _Batch:
    """One going through a sheet.

    Attributes:
        args: of the command.
        spec: by which is delivered.
        done: rows of lines that are done, by their marks, of this time and of those before.
    """

    args: argparse.Namespace
    spec: Spec
    done: dict[str, Row] = field(default_factory=dict)
    _one_at_a_time: threading.Lock = field(default_factory=threading.Lock)
    _running: set[subprocess.Popen[str]] = field(default_factory=set)
    _stopped: bool = False

    def __post_init__(self) -> None:
        self.folder: Path = self.args.sheet.resolve().parent
        self.place: Path = self.args.out / f".{self.args.sheet.stem}.batch"
        self.record: Path = self.args.out / f"{self.args.sheet.stem}.batch.json"
        if self.record.exists():
            with_marks = json.loads(self.record.read_text("utf-8"))["lines"]
            self.done = {row["mark"]: row for row in with_marks if _still_there(row)}

    def work_off(self, lines: Sequence[Line]) -> list[Row]:
        """Deliver lines; give a row for each, in their order."""
        rows: dict[int, Row] = {}
        pool = ThreadPoolExecutor(self.args.at_once)
        try:
            going = {pool.submit(self._row, line): line for line in lines}
            for one in as_completed(going):
                rows[going[one].number] = one.result()
                self._keep(self.document([*rows.values(), *self._earlier(rows)]))
                if not self.args.json:
                    print(_sentence(rows[going[one].number]), file=sys.stderr, flush=True)
        except BaseException:
            self._stop()
            raise
        finally:
            pool.shutdown(cancel_futures=True)
        every = [rows[line.number] for line in lines]
        self._keep(self.document(every))
        return every

    def document(self, rows: Iterable[Row]) -> dict[str, Any]:
        """Give what came of it, which is also what the next time goes on from."""
        return {
            "sheet": self.args.sheet.name,
            "spec": self.spec.id,
            "version": self.spec.version,
            "lines": sorted(rows, key=lambda row: int(row["line"])),
        }

    def _earlier(self, rows: Mapping[int, Row]) -> list[Row]:
        """List what was done before, and is not looked at yet."""
        told = {row["mark"] for row in rows.values()}
        return [row for mark, row in self.done.items() if mark not in told]

    def _keep(self, document: dict[str, Any]) -> None:
        report.write_whole(self.record, json.dumps(document, indent=2, ensure_ascii=False))

    def _stop(self) -> None:
        with self._one_at_a_time:
            self._stopped = True
            for process in self._running:
                process.terminate()

    def _row(self, line: Line) -> Row:
        mark = self._mark(line)
        if mark in self.done:
            return self.done[mark] | {"line": line.number, "before": True}
        row: Row = {"line": line.number, "master": line.master, "mark": mark, "before": False}
        try:
            place = self.place / str(line.number)
            place.mkdir()
            return row | self._delivered(line, place)
        except AmpleError as error:
            return row | {"exit": FAILED, "error": error.as_json()}
        finally:
            shutil.rmtree(place)

    def _mark(self, line: Line) -> str:
        """Name a line by all that decides what is made of it."""
        files = [self.folder / name for name in (line.master, line.sound) if name]
        told = [(one.stat().st_size, one.stat().st_mtime_ns) for one in files if one.exists()]
        chosen = [line.master, line.range, line.sound, dict(line.choices)]
        said = json.dumps([chosen, told, self.spec.model_dump(mode="json")], sort_keys=True)
        return hashlib.sha256(said.encode()).hexdigest()

    def _delivered(self, line: Line, place: Path) -> Row:
        """Deliver a line in a place of its own, then put what came of it where it belongs.

        Raises:
            AmpleError: it cannot be made, or its names are taken.
        """
        code, document = self._asked(line, place)
        if "error" in document:
            return {"exit": code, "error": document["error"]}
        made = Path(document["deliverable"])
        with self._one_at_a_time:
            taken = [one.name for one in place.iterdir() if (self.args.out / one.name).exists()]
            if taken:
                raise AmpleError(
                    f"'{min(taken, key=len)}' is in the folder already.",
                    "Give the line another name, or take that file away.",
                )
            final = self.args.out / made.name
            document["deliverable"] = str(final)
            told = place / f"{made.name}.ledger.json"
            report.write_whole(told, json.dumps(document, indent=2))
            # What stands for all of it comes last.
            for one in sorted(place.iterdir(), key=lambda one: one.name == made.name):
                os.rename(one, self.args.out / one.name)
        return {
            "exit": code,
            "verdict": document["verdict"],
            "deliverable": str(final),
            "bytes": _bytes_of(final),
            "seconds": document["seconds"],
        }

    def _asked(self, line: Line, place: Path) -> tuple[int, dict[str, Any]]:
        command = [sys.executable, "-m", "ample_crate.cli", "deliver", line.master]
        command += ["--spec", self._spec_said(), "--out", str(place), "--json"]
        for key, value in line.choices.items():
            if key == LAID and value:
                command += ["--over", value]
            elif value:
                command += ["--choose", f"{key}={value}"]
        more = {"--range": line.range, "--sound": line.sound, "--rate": self.args.rate}
        command += [part for pair in more.items() if pair[1] for part in pair]
        with self._one_at_a_time:
            if self._stopped:
                raise AmpleError("The batch was stopped.", "Start it again; it goes on.")
            process = subprocess.Popen(
                command,
                cwd=self.folder,
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                text=True,
            )
            self._running.add(process)
        said, complained = process.communicate()
        with self._one_at_a_time:
            self._running.discard(process)
        try:
            return process.returncode, dict(json.loads(said))
        except ValueError:
            raise AmpleError(
                f"The line could not be delivered: {complained.strip()[-600:]}",
                "Deliver its master alone to see more.",
            ) from None

    def _spec_said(self) -> str:
        """Give the spec as it is found from the sheet's folder."""
        path = Path(self.args.spec)
        return str(path.resolve()) if path.exists() else str(self.args.spec)


@contextmanager
def _alone(place: Path) -> Iterator[None]:
    """Make a place for what is half made, for one batch at a time; what another that was killed
    left there goes.

    Raises:
        AmpleError: one is at work there.
    """
    place.mkdir(exist_ok=True)
    held = os.open(place, os.O_RDONLY)
    try:
        fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        for one in place.iterdir():
            shutil.rmtree(one)
        yield
        place.rmdir()
    except BlockingIOError:
        raise AmpleError(
            "A batch of this sheet is at work in this folder.", "Wait for it, or stop it."
        ) from None
    finally:
        os.close(held)


def _still_there(row: Row) -> bool:
    """Say whether what a line made lies where it was put, at its size."""
    made = row.get("deliverable")
    if made is None or not Path(made).exists():
        return False
    return bool(_bytes_of(Path(made)) == row["bytes"])


def _bytes_of(path: Path) -> int:
    files = [path] if path.is_file() else [one for one in path.rglob("*") if one.is_file()]
    return sum(one.stat().st_size for one in files)


def _sentence(row: Row) -> str:
    head = f"line {row['line']}: {row['master']}"
    if "error" in row:
        error = row["error"]
        return f"{head}: {error['what']} {error['way_out']}"
    made = f"{head} -> {Path(row['deliverable']).name}: {row['verdict']}"
    return f"{made}, done before" if row["before"] else f"{made}, {row['seconds']} s"


def _say(rows: Sequence[Row]) -> None:
    met = sum(row["exit"] == 0 for row in rows)
    before = sum(bool(row["before"]) for row in rows)
    failed = sum("error" in row for row in rows)
    print(f"{len(rows)} lines: {met} meet, {failed} could not be made, {before} were done before")
