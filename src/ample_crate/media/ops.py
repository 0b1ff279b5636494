"""The face of the package: each operation runs in a child process with limits."""

from __future__ import annotations

import fcntl
import os
import shutil
import tempfile
from collections.abc import Callable, Iterable, Iterator, Sequence, Set
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

from ..core.errors import AmpleError, BadMedia, NoRoom, Refused
from ..core.facts import Facts
from ..core.facts.events import Event
from ..core.facts.properties import Depth, lookup
from ..core.planning.plan import Plan
from ..core.planning.request import Cut
from ..core.units.values import show_bytes
from . import confine, folders, guard, limits

Progress = guard.Progress
Cancelled = Callable[[], bool]


@dataclass(frozen=True)
class Measured:
    """A file measured by decoding it whole: its facts, how long that took, and what shows
    damage.
    """

    facts: Facts
    seconds: float
    notes: list[str]
    events: list[Event] = field(default_factory=list)
    traces: dict[str, Any] = field(default_factory=dict)


def present(path: Path) -> Path:
    """Give where a file lies, from the root on: a child knows no other folder to count from.

    Raises:
        BadMedia: there is no such file.
    """
    if not path.is_file():
        what = "is a folder" if path.is_dir() else "does not exist"
        raise BadMedia(f"'{path.name}' {what}.", "Give the path of a media file.")
    return path.absolute()


def read_facts(path: Path) -> Facts:
    """Read the facts that a file's headers declare.

    Raises:
        AmpleError: the file cannot be read, with the cause.
    """
    file = present(path)
    return Facts.from_json(
        guard.run("read", {"path": str(file)}, limits.READ, confine.reading(file))["facts"]
    )


def read_many(paths: Iterable[Path]) -> Iterator[tuple[Path, Facts | AmpleError]]:
    """Read many files in one child, which sees them all; after a crash the rest goes on in a new
    one.
    """
    left: list[tuple[Path, Path]] = []
    for path in paths:
        try:
            left.append((path, present(path)))
        except AmpleError as error:
            yield path, error
    while left:
        with guard.Child(limits.READ, confine.reading(*(file for _, file in left))) as child:
            asked = [{"path": str(file)} for _, file in left]
            for answer in child.request_all("read", asked):
                path, _ = left.pop(0)
                yield (
                    path,
                    answer if isinstance(answer, AmpleError) else Facts.from_json(answer["facts"]),
                )


def measure(
    path: Path,
    progress: Progress | None = None,
    cancelled: Cancelled | None = None,
    depth: Depth = "ledger",
) -> Measured:
    """Measure a file by decoding it whole, in one pass.

    Args:
        path: the file.
        progress, cancelled: called with each sign of life, and asked whether to stop.
        depth: "ledger" for what every ledger needs, "everything" for a master's page.
    """
    file = present(path)
    result = guard.run(
        "measure",
        {"path": str(file), "depth": depth},
        limits.MEASURE,
        confine.reading(file),
        progress,
        cancelled,
    )
    events = [Event.from_json(e) for e in result["events"]]
    return Measured(
        Facts.from_json(result["facts"]),
        result["seconds"],
        list(result["notes"]),
        events,
        result["traces"],
    )


def second_reading(path: Path) -> tuple[Facts, list[str]]:
    """Have a second reader look at a finished file: what it says, and what is to be said of it."""
    file = present(path)
    try:
        told = guard.run("second", {"path": str(file)}, limits.READ, confine.reading(file))
    except AmpleError as error:
        return Facts(), [f"A second reader could not look at the file: {error.what}"]
    return Facts.from_json(told["facts"]), []


def cut(path: Path, first: int, frames: int, rate: Fraction) -> Cut:
    """Find where a copy of a range of frames begins and ends.

    Raises:
        AmpleError: the file cannot be read, or no key frame stands before the range.
    """
    file = present(path)
    asked = {"path": str(file), "first": first, "frames": frames, "rate": str(rate)}
    found = guard.run("cut", asked, limits.READ, confine.reading(file))
    return Cut(found["first"], found["frames"])


@dataclass(frozen=True)
class Control:
    """What a long operation tells of its progress, and what it asks whether to go on."""

    progress: Progress | None = None
    cancelled: Callable[[], bool] | None = None


def depth_for(properties: Set[str]) -> Depth:
    """Give how deep a file is measured to prove some properties."""
    deep = any(lookup(key).depth == "everything" for key in properties)
    return "everything" if deep else "ledger"


def room_for(folder: Path, needed: int) -> None:
    """Make sure a disk has room.

    Raises:
        NoRoom: it has not, with both figures.
    """
    free = shutil.disk_usage(folder).free
    if free < needed:
        raise NoRoom(
            f"The disk of '{folder.name}' has {show_bytes(free)} free and {show_bytes(needed)} "
            f"are needed.",
            "Free some room, or choose another folder, and run again. Nothing was written.",
        )


class Rendered(NamedTuple):
    """What stands for what a plan makes, and what is to be said of how it was made."""

    path: Path
    notes: list[str]


class Making(NamedTuple):
    """What a child makes: the file, or the folder, that takes its name when it is whole, and the
    files by their place beside it.
    """

    out: Path
    names: list[str]


def render(
    inputs: Sequence[Path],
    folder: Path,
    plan: Plan,
    predicted: int,
    control: Control = Control(),
) -> Rendered:
    """Make what a plan says in a folder; it takes its name only when all of it is whole.

    Args:
        inputs: the plan's inputs: the master.
        folder: where what is made comes to lie.
        plan: what to do.
        predicted: predicted bytes, for the limits.
        control: told of progress, asked whether to stop.

    Raises:
        NoRoom, Cancelled, BadMedia, OverLimit: with the cause; no part of a file is left behind.
    """
    files = [present(path) for path in inputs]
    out = (folder / plan.outcome).absolute()
    _require_own(out, plan, files)
    names = [os.path.join(plan.folder, file.name) for file in plan.files]
    args = {"inputs": [str(file) for file in files], "plan": plan.model_dump(mode="json")}
    made = _make("render", args, files, Making(out, names), predicted, control)
    # Of a folder its description is what is known.
    return Rendered(folders.lay_out(out, plan) if plan.folder else out, made["notes"])


def _require_own(out: Path, plan: Plan, inputs: Sequence[Path]) -> None:
    """Make sure that nothing of anybody else's is written over.

    Raises:
        Refused: a master lies there, or a folder that was not made here.
    """
    if not out.exists():
        return
    seen = (of for path in inputs for of in folders.files_of(path)[:1])
    if any(out.samefile(path) or out.samefile(path.parent) for path in seen):
        raise Refused("The deliverable would overwrite its master.", "Choose another folder.")
    way_out = "Choose another folder, or another name."
    if plan.folder and not out.is_dir():
        raise Refused(f"There is a file '{out.name}' already where a folder is made.", way_out)
    if out.is_dir() and not (plan.folder and folders.holds_only(out, plan)):
        raise Refused(
            f"There is a folder '{out.name}' already, and other files lie in it.", way_out
        )


def _make(
    op: str,
    args: dict[str, Any],
    seen: Sequence[Path],
    made: Making,
    predicted: int,
    control: Control,
) -> dict[str, Any]:
    """Let a child make files in a folder of its own; what they make up takes its final name when
    all are whole.
    """
    out, folder = made.out, made.out.parent
    folder.mkdir(parents=True, exist_ok=True)
    room_for(folder, predicted * 11 // 10 + 16 * 2**20)
    _sweep(out)
    bench, held = _held_bench(out)
    try:
        view = confine.reading(*seen, writes=bench)
        request = args | {"outs": [str(bench / name) for name in made.names]}
        within = limits.encode(predicted)
        result = guard.run(op, request, within, view, control.progress, control.cancelled)
        _settle(bench / out.name, out, bench)
        return result
    finally:
        shutil.rmtree(bench, ignore_errors=True)
        os.close(held)


def _settle(part: Path, out: Path, bench: Path) -> None:
    """Give a whole file, or folder, its final name, once all of it is on the disk."""
    for one in (part, *part.rglob("*")):
        confine.take_back(one)
        held = os.open(one, os.O_RDONLY | os.O_NOFOLLOW)
        os.fsync(held)
        os.close(held)
    if out.is_dir():
        # A folder is not replaced by another in one step.
        os.replace(out, bench / f"{out.name}.before")
    os.replace(part, out)


def _held_bench(out: Path) -> tuple[Path, int]:
    """Make a folder to work in, held as long as its maker lives; the kernel lets go of it however
    that ends.

    It takes a name by which others know it only when it is held.
    """
    fresh = Path(tempfile.mkdtemp(prefix=".new-", dir=out.parent))
    held = os.open(fresh, os.O_RDONLY | os.O_DIRECTORY)
    fcntl.flock(held, fcntl.LOCK_EX)
    bench = out.with_name(f"{_bench(out)}{fresh.name.removeprefix('.new-')}")
    os.rename(fresh, bench)
    return bench, held


def _forsaken(bench: Path) -> bool:
    """Say whether nobody holds a bench any more."""
    try:
        held = os.open(bench, os.O_RDONLY | os.O_DIRECTORY)
    except OSError:
        return False
    try:
        fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    finally:
        os.close(held)
    return True


def _bench(out: Path) -> str:
    return f".{out.name}.made-"


def _sweep(out: Path) -> None:
    """Clear away what an earlier making of this file left when it was killed."""
    for left in out.parent.iterdir():
        if left.name.startswith(_bench(out)) and _forsaken(left):
            shutil.rmtree(left, ignore_errors=True)


def proxy(
    path: Path,
    out: Path,
    seconds: float,
    progress: Progress | None = None,
    cancelled: Cancelled | None = None,
) -> dict[str, Any]:
    """Make a proxy of a master.

    Args:
        path: the master.
        out: final name of the copy, an MP4.
        seconds: its length, from which its size is guessed (about 2 Mb/s).
        progress: called with each sign of life.
        cancelled: asked whether to stop.
    """
    file, size = present(path), int(seconds * 250_000)
    control = Control(progress, cancelled)
    return _make(
        "proxy", {"path": str(file)}, [file], Making(out.absolute(), [out.name]), size, control
    )
