"""Picture and sound in files of their own: links to them in one folder, and a description beside
it that says in which order they belong together.
"""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from pathlib import Path

from ..core.errors import BadMedia

DESCRIPTION, PARTS = "streams.json", "parts"


def lay_out(place: Path, files: Sequence[Path]) -> Path:
    """Lay out files that belong together by links, the picture's first; the description comes last.

    Args:
        place: where; made here.
        files: in their order.

    Returns:
        the description's path, which stands for all of them.
    """
    (place / PARTS).mkdir(parents=True)
    for file in files:
        (place / PARTS / file.name).symlink_to(file)
    path, part = place / DESCRIPTION, place / f".{DESCRIPTION}.part"
    part.write_text(json.dumps({"files": [file.name for file in files]}), "utf-8")
    os.replace(part, path)
    return path


def links_of(description: Path) -> list[Path]:
    """List the links to the files that a description names, in its order.

    Raises:
        BadMedia: it is no description.
    """
    try:
        names = json.loads(description.read_text("utf-8"))["files"]
        links = [description.parent / PARTS / str(name) for name in names]
        if not links or any(link.parent != description.parent / PARTS for link in links):
            raise ValueError
    except (ValueError, KeyError, TypeError, OSError):
        raise BadMedia(
            "This is no description of files that belong together.", "Hand in the files themselves."
        ) from None
    return links
