"""Benches: folders in which files are made, that take their final names when they are whole."""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

from ..core.errors import NoRoom
from ..core.units.values import show_bytes
from . import confine


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


@contextlib.contextmanager
def workshop(out: Path, predicted: int) -> Iterator[Path]:
    """Lend a child a folder to work in, beside what it makes there; nothing of it stays."""
    out.parent.mkdir(parents=True, exist_ok=True)
    room_for(out.parent, predicted * 11 // 10 + 16 * 2**20)
    _sweep(out)
    bench, held = _held_bench(out)
    try:
        yield bench
    finally:
        shutil.rmtree(bench, ignore_errors=True)
        os.close(held)


def settle(part: Path, out: Path, bench: Path) -> None:
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
