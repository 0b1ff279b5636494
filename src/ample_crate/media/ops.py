"""The face of the package: each operation runs in a child process with limits."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Iterator, Sequence, Set
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

from ..core.errors import AmpleError, BadMedia, Cancelled, Refused
from ..core.facts import Facts
from ..core.facts.events import Event
from ..core.facts.properties import Depth, lookup
from ..core.planning.plan import Plan
from ..core.planning.request import Cut
from ..core.quality import Likeness
from . import benches, confine, folders, guard, limits

Progress = guard.Progress
Stopped = Callable[[], bool]


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
    outline: dict[str, str] | None = None


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
    cancelled: Stopped | None = None,
    depth: Depth = "ledger",
    twice: bool = False,
) -> Measured:
    """Measure a file by decoding it whole, in one pass.

    Args:
        path: the file.
        progress, cancelled: called with each sign of life, and asked whether to stop.
        depth: "ledger" for what every ledger needs, "everything" for a master's page.
        twice: whether a second reader looks at it too; what that says stands beside (`second`).
    """
    file = present(path)
    # One process for both: to start one costs as much as to measure a short film.
    with guard.Child(limits.MEASURE, confine.reading(file)) as child:
        asked = {"path": str(file), "depth": depth}
        result = child.request("measure", asked, progress, cancelled)
        measured = Measured(
            Facts.from_json(result["facts"]),
            result["seconds"],
            list(result["notes"]),
            [Event.from_json(e) for e in result["events"]],
            result["traces"],
            result.get("outline"),
        )
        return _read_again(child, file, measured) if twice else measured


def _read_again(child: guard.Child, file: Path, measured: Measured) -> Measured:
    try:
        told = child.request("second", {"path": str(file)})
    except AmpleError as error:
        note = f"A second reader could not look at the file: {error.what}"
        return replace(measured, notes=[*measured.notes, note])
    said = {key: fact.second for key, fact in Facts.from_json(told["facts"]).items()}
    return replace(measured, facts=measured.facts.with_values("second", said))


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
    cancelled: Stopped | None = None


def depth_for(properties: Set[str]) -> Depth:
    """Give how deep a file is measured to prove some properties."""
    deep = any(lookup(key).depth == "everything" for key in properties)
    return "everything" if deep else "ledger"


class Rendered(NamedTuple):
    """What stands for what a plan makes, what is to be said of how it was made, and the seconds
    that all of the same reading took, without the start of a process.
    """

    path: Path
    notes: list[str]
    seconds: float


@dataclass(frozen=True)
class Order:
    """Something to make of inputs.

    Attributes:
        plan: what to do.
        folder: where what is made comes to lie.
        predicted: predicted bytes, for the limits.
        control: told of progress, asked whether to stop.
        segments: files that the picture is made in, in order (`core.planning.segments`), each of
            which is waited for; none where it is made as one.
    """

    plan: Plan
    folder: Path
    predicted: int
    control: Control = Control()
    segments: tuple[Path, ...] = ()

    @property
    def out(self) -> Path:
        """Give the final path of what is made: a file, or the folder of all."""
        return (self.folder / self.plan.outcome).absolute()


def render(
    inputs: Sequence[Path],
    folder: Path,
    plan: Plan,
    predicted: int,
    control: Control = Control(),
) -> Rendered:
    """Make what a plan says in a folder; it takes its name only when all of it is whole.

    Args:
        inputs: the plan's inputs: the master, and another whose sound goes along.
        folder, plan, predicted, control: as an order has them.

    Raises:
        NoRoom, Cancelled, BadMedia, OverLimit: with the cause; no part of a file is left behind.
    """
    made = render_together(inputs, [Order(plan, folder, predicted, control)])[0]
    if isinstance(made, AmpleError):
        raise made
    return made


def render_together(inputs: Sequence[Path], orders: Sequence[Order]) -> list[Rendered | AmpleError]:
    """Make what several plans say of the same inputs, which are read once: each takes its name only
    when all of it is whole, and each is stopped, or fails, by itself.

    Raises:
        NoRoom, Cancelled, BadMedia, OverLimit: nothing could be made of them together.
    """
    files = [present(path) for path in inputs]
    parts = {path.parent.absolute() for order in orders for path in order.segments}
    for order in orders:
        _require_own(order.out, order.plan, files)
    predicted = sum(order.predicted for order in orders)
    with benches.workshop(orders[0].out, predicted) as bench:
        works = [_Work(order, bench / str(number)) for number, order in enumerate(orders)]
        answer = guard.run(
            "render",
            {
                "inputs": [str(file) for file in files],
                "bench": str(bench),
                "orders": [work.request() for work in works],
            },
            limits.encode(max(order.predicted for order in orders)),
            replace(confine.reading(*files, *parts, writes=bench), devices=_by_hardware(orders)),
            lambda body: works[body["of"]].show(body | {"together": len(works)}),
            # Each is asked, so that each that is stopped is let go of at once.
            lambda: all([work.unwanted() for work in works]),
        )
        pairs = zip(works, answer["made"], strict=True)
        return [work.settled(made, answer["seconds"]) for work, made in pairs]


def _by_hardware(orders: Sequence[Order]) -> bool:
    rated = [order.plan.rated for order in orders]
    return any(one is not None and one.pace == "hardware" for one in rated)


ASKED_EVERY = 0.5  # seconds; each of several tells of its progress, and all are asked each time


@dataclass
class _Work:
    """An order that is worked on in a folder of its own."""

    order: Order
    bench: Path
    stopped: bool = False
    asked: float = 0.0

    def request(self) -> dict[str, Any]:
        """Give it as it is asked of the child."""
        plan = self.order.plan
        outs = [str(self.bench / plan.folder / file.name) for file in plan.files]
        return {
            "plan": plan.model_dump(mode="json"),
            "outs": outs,
            "captions": [str(self.bench / file.name) for file in plan.captions],
            "segments": [str(path.absolute()) for path in self.order.segments],
            "dropped": str(self._dropped),
        }

    @property
    def _dropped(self) -> Path:
        return self.bench.with_name(f"{self.bench.name}.dropped")

    def show(self, body: dict[str, Any]) -> None:
        """Tell of its progress."""
        if self.order.control.progress is not None:
            self.order.control.progress(body)

    def unwanted(self) -> bool:
        """Say whether it was stopped, and have the child let go of it."""
        cancelled, now = self.order.control.cancelled, time.monotonic()
        if self.stopped or cancelled is None or now - self.asked < ASKED_EVERY:
            return self.stopped
        self.asked = now
        if cancelled():
            self.stopped = True
            self._dropped.touch()
        return self.stopped

    def settled(self, made: dict[str, Any], seconds: float) -> Rendered | AmpleError:
        """Give what was made its final name."""
        if self.stopped:
            return Cancelled("The work was stopped.", "Run it again when you like.")
        if "error" in made:
            return guard.as_error(made["error"])
        out, plan = self.order.out, self.order.plan
        out.parent.mkdir(parents=True, exist_ok=True)
        for file in plan.captions:
            benches.settle(self.bench / file.name, out.with_name(file.name), self.bench)
        benches.settle(self.bench / out.name, out, self.bench)
        # Of a folder its description is what is known.
        path = folders.lay_out(out, plan) if plan.folder else out
        return Rendered(path, made["notes"], seconds)


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


def quality(
    path: Path, inputs: Sequence[Path], plan: Plan, control: Control = Control()
) -> Likeness:
    """Hold a file against what a plan makes of its inputs before it is coded, frame by frame.

    Args:
        path: the file.
        inputs: the plan's inputs.
        plan: that it was made by, or might have been.
        control: told of progress, asked whether to stop.

    Raises:
        BadMedia, Refused, Cancelled: with the cause.
    """
    files = [present(one) for one in (path, *inputs)]
    asked = {
        "path": str(files[0]),
        "inputs": [str(file) for file in files[1:]],
        "plan": plan.model_dump(mode="json"),
    }
    view = confine.reading(*files)
    found = guard.run("quality", asked, limits.COMPARE, view, control.progress, control.cancelled)
    return Likeness.from_json(found)


def trial(codec: str, progress: Progress | None = None) -> dict[str, Any]:
    """Try the paces of a codec on this machine.

    Returns:
        as `trial.handle`.
    """
    view = confine.View(devices=True)
    return guard.run("trial", {"codec": codec}, limits.encode(0), view, progress)


def proxy(
    path: Path,
    out: Path,
    seconds: float,
    progress: Progress | None = None,
    cancelled: Stopped | None = None,
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
    out = out.absolute()
    with benches.workshop(out, size) as bench:
        made = guard.run(
            "proxy",
            {"path": str(file), "outs": [str(bench / out.name)]},
            limits.encode(size),
            confine.reading(file, writes=bench),
            progress,
            cancelled,
        )
        benches.settle(bench / out.name, out, bench)
    return made
