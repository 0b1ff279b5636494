"""What a piece of work takes, its media processes included."""

from __future__ import annotations

import contextlib
import os
import threading
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import NamedTuple


class Watched:
    """Notes the peak memory and the processor time of media processes while they live: they are
    ended, and nobody is told what they took.
    """

    def __init__(self) -> None:
        self.peak = 0
        self._used: dict[str, float] = {}
        self._over = threading.Event()
        self._looker = threading.Thread(target=self._look, daemon=True)

    def __enter__(self) -> Watched:
        self._looker.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over.set()
        self._looker.join()

    @property
    def used(self) -> float:
        """Give their seconds of processor, but for what each did after it was last seen."""
        return sum(self._used.values())

    def _look(self) -> None:
        while not self._over.wait(0.1):
            for place in Path("/proc").glob("[0-9]*"):
                with contextlib.suppress(OSError, StopIteration, ValueError):
                    if b"-m\0ample_crate.media.child" not in (place / "cmdline").read_bytes():
                        continue
                    if started_here(int(place.name)):
                        self._note(place)

    def _note(self, place: Path) -> None:
        said = (place / "status").read_text().splitlines()
        line = next(one for one in said if one.startswith("VmHWM"))
        self.peak = max(self.peak, 1024 * int(line.split()[1]))
        ticks = sum(map(int, figures_of(int(place.name))[11:13]))  # user and system time
        self._used[place.name] = ticks / os.sysconf("SC_CLK_TCK")


def figures_of(process: int) -> list[str]:
    """Give what the system tells of a process after its name, which may hold blanks: its state,
    its parent and so on.
    """
    return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()


def started_here(process: int) -> bool:
    """Say whether a process descends from this one."""
    while process > 1 and process != os.getpid():
        process = int(figures_of(process)[1])
    return process == os.getpid()


class Spent(NamedTuple):
    """Seconds, and seconds of processor of this process and its media processes."""

    seconds: float
    processor: float


def spent(work: Callable[[], object]) -> Spent:
    """Do a piece of work, and say what it took."""
    began, used = time.monotonic(), time.process_time()
    with Watched() as watched:
        work()
    return Spent(time.monotonic() - began, time.process_time() - used + watched.used)


def least(rounds: Iterable[Spent]) -> Spent:
    """Give the least of each over rounds of the same work."""
    return Spent(*map(min, zip(*rounds, strict=True)))
