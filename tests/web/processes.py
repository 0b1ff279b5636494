"""Finds a process's descendants by /proc, so that tests need no further package."""

from __future__ import annotations

import contextlib
from pathlib import Path


def descendants(pid: int) -> list[int]:
    parents: dict[int, int] = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            with contextlib.suppress(OSError, IndexError, ValueError):
                parents[int(entry.name)] = int(
                    (entry / "stat").read_text().rsplit(")", 1)[1].split()[1]
                )
    found, edge = [], [pid]
    while edge:
        edge = [child for child, parent in parents.items() if parent in edge]
        found += edge
    return found


def alive(pid: int) -> bool:
    """Say whether a process runs; one that has ended and is not yet reaped does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False
