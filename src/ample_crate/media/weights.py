"""How many coded bytes each frame of a picture has, as its file's index tells. Runs inside the
child process.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from .read import open_media, picture_stream


def handle(progress: Callable[[dict[str, Any]], None], path: str) -> dict[str, list[int]]:
    """Look up a picture's coded bytes: {weights}, of its frames as they are stored; none where the
    file has no index of all of them.
    """
    with open_media(path) as container:
        picture = picture_stream(container)
        if picture is None:
            return {"weights": []}
        return {"weights": [entry.size for entry in picture.index_entries]}
