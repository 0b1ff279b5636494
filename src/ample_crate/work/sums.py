"""Checksums of masters: of a file its SHA-256, of an image sequence that of the list of its images'
names and sums.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..handover import bag
from ..media import sequence
from ..store.masters import file_identity

Tell = Callable[[dict[str, Any]], None]


def identity(path: Path) -> str:
    """Say which bytes a master stands for, without reading them."""
    if path.name != sequence.DESCRIPTION:
        return file_identity(path)
    listed = "".join(f"{image.name}|{file_identity(image)}\n" for image in sequence.images_of(path))
    return hashlib.sha256(listed.encode()).hexdigest()


def of(path: Path, tell: Tell | None = None) -> str:
    """Give the SHA-256 of a master in hexadecimal, telling how far it has come.

    A sequence's is taken over lines of "<sha-256>  <file name>", as checksum tools print them.
    """
    files = sequence.made_of(path)
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
    if path.name != sequence.DESCRIPTION:
        return sums[0]
    return bag.of_list(zip(sums, (file.name for file in files), strict=True))
