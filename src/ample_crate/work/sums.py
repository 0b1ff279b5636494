"""Checksums of what was handed in or made: of a file its SHA-256, of a folder of images or streams
that of the list of their names and sums.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..handover import bag
from ..media import folders
from ..store.masters import file_identity

Tell = Callable[[dict[str, Any]], None]


def identity(path: Path) -> str:
    """Say which bytes a path stands for, without reading them."""
    if path.name not in folders.DESCRIPTIONS:
        return file_identity(path)
    listed = "".join(f"{file.name}|{file_identity(file)}\n" for file in folders.files_of(path))
    return hashlib.sha256(listed.encode()).hexdigest()


def of(path: Path, tell: Tell | None = None) -> str:
    """Give the SHA-256 of what a path stands for in hexadecimal, telling how far it has come.

    A folder's is taken over lines of "<sha-256>  <file name>", as checksum tools print them.
    """
    files = folders.files_of(path)
    total = sum(f.stat().st_size for f in files) or 1
    began, before = time.monotonic(), 0

    def progress(done: int) -> None:
        if tell is None:
            return
        elapsed, share = time.monotonic() - began, (before + done) / total
        tell(
            {
                "stage": "checksum",
                "frame": 0,
                "speed": 0.0,
                "elapsed": elapsed,
                "share": share,
                "remaining": elapsed / share - elapsed if share > 0.02 else None,
            }
        )

    sums = []
    for file in files:
        sums.append(bag.sha256(file, progress))
        before += file.stat().st_size
    if path.name not in folders.DESCRIPTIONS:
        return sums[0]
    return bag.of_list(zip(sums, (file.name for file in files), strict=True))
