"""Whether memory grows with the length of a master: measuring and encoding 3 and 30 minutes of it.

Run `.venv/bin/python -m benchmarks.memory [MINUTES MINUTES]`. The peak is that of the largest media
process, seen while it lives.
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from functools import partial
from pathlib import Path

from ample_crate.media import ops
from ample_crate.store.library import find
from ample_crate.work.deliver import plan_or_refuse

from .masters import SECONDS, make, repeated
from .watched import Watched

BAR = 1.2
# Small pictures: what grows with length is what is kept of each frame, whatever its size.
WIDTH = 640
SHORT = {"b": "1500000", "g": "50", "bf": "2", "preset": "veryfast"}


def peak_of(work: Callable[[], object]) -> int:
    """Give the peak bytes of the media processes that a piece of work starts."""
    with Watched() as watched:
        work()
    return watched.peak


def encode(folder: Path, master: Path) -> None:
    """Encode a master for a disc of 625 lines, from its read facts."""
    facts = ops.read_facts(master)
    route, plan = plan_or_refuse(facts, find("ostler-dvd-625"), {}, master.name)
    ops.render([master], folder / master.stem, plan, route.size)


def main(minutes: list[int]) -> None:
    """Measure and encode both lengths, and print the peaks and their ratio."""
    with tempfile.TemporaryDirectory() as place:
        made = make(Path(place) / "film.mp4", "libx264", "yuv420p", SHORT, "aac", width=WIDTH)
        masters = [repeated(made, one * 60 // SECONDS) for one in minutes]
        works: dict[str, Callable[[Path], object]] = {
            "everything": partial(ops.measure, depth="everything"),
            "encode": partial(encode, Path(place)),
        }
        for name, work in works.items():
            peaks = [peak_of(partial(work, one)) for one in masters]
            told = ", ".join(
                f"{m} min {p / 10**6:.0f} MB" for m, p in zip(minutes, peaks, strict=True)
            )
            print(f"{name:10} {told}: {peaks[-1] / peaks[0]:.2f} (at most {BAR})", flush=True)


if __name__ == "__main__":
    main([int(one) for one in sys.argv[1:]] or [3, 30])
