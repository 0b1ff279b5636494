"""One odd entry keeps nothing else out of a watched folder."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable
from pathlib import Path

from client import Client, soon
from PIL import Image

from support import Installation


def test_odd_entries_are_left_where_they_are_and_the_rest_comes_in(
    client: Client, installation: Installation, clip: Callable[..., Path], tmp_path: Path
) -> None:
    folder = installation.folders.intake[0]
    (tmp_path / "outside.mp4").write_bytes(clip("plain.mp4").read_bytes())
    odd = [
        folder / "leads out.mp4",
        folder / "roll_0001.png",
        folder / "roll_0002.png",
        folder / "loop.mp4",
        folder / "pipe.mp4",
    ]
    odd[0].symlink_to(tmp_path / "outside.mp4")
    odd[1].symlink_to(tmp_path / "nowhere 1.png")
    odd[2].symlink_to(tmp_path / "nowhere 2.png")
    odd[3].symlink_to(odd[3])
    os.mkfifo(odd[4])
    no_text = os.fsencode(str(folder)) + b"/no text \xff\xfe.mp4"
    shutil.copyfile(clip("plain.mp4"), no_text)
    far = [folder / "far_0000001.png", folder / "far_0200001.png"]
    for path in far:
        Image.new("RGB", (32, 18)).save(path)
    shutil.copyfile(clip("plain.mp4"), folder / "ordinary.mp4")
    try:
        assert client.call("GET", "/api/intake?folder=0")[0] == 200
        client.good("PUT", "/api/intake/watch", {"folder": 0, "on": True})
        names = lambda: {m["name"] for m in client.good("GET", "/api/masters?limit=500")["rows"]}  # noqa: E731
        assert soon(lambda: {"ordinary.mp4", "far_0000001.png", "far_0200001.png"} <= names()), (
            names()
        )
        assert not {"leads out.mp4", "loop.mp4", "pipe.mp4"} & names()
        assert not [
            f
            for f in installation.folders.masters.glob("sequence-*/frames")
            if len(list(f.iterdir())) > 1000
        ]
    finally:
        client.good("PUT", "/api/intake/watch", {"folder": 0, "on": False})
        for path in (*odd, *far, folder / "ordinary.mp4"):
            path.unlink()
        os.unlink(no_text)
