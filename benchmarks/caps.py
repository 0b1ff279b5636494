"""Deliveries to a size cap: how many are over it, and how well they fill it.

Run `PYTHONPATH=tests .venv/bin/python -m benchmarks.caps`. Three masters of the demo's scenes go
into five codecs, each under a tight and a loose cap.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import NamedTuple

import numpy as np
from PIL import Image

from ample_crate.core.planning import programme
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.demo.scenes import Picture, Stage
from ample_crate.media import ops
from ample_crate.work.deliver import run_route
from clips import Clip

SIZE, RATE = (640, 360), Fraction(25)
SCENES = (("downpour", 8), ("meadow", 6), ("lantern", 12))  # and their seconds
# Codec, wrapper and sound, and the bits a sample that a tight and a loose cap leave: about what a
# clean picture takes, and thrice that.
TIGHT, LOOSE = Fraction(4, 100), Fraction(12, 100)
CODINGS = (
    (("h264", "mp4", "aac"), (TIGHT, LOOSE)),
    (("hevc", "mp4", "aac"), (TIGHT, LOOSE)),
    (("mpeg2", "mpegts", "mp2"), (4 * TIGHT, 4 * LOOSE)),
    (("vp9", "webm", "opus"), (TIGHT, LOOSE)),
    (("av1", "mp4", "aac"), (TIGHT, LOOSE)),
)


class Filled(NamedTuple):
    """A delivery: its cap and its bytes, how often it was made, and what was said of it."""

    cap: int
    bytes: int
    tries: int
    notes: list[str]

    @property
    def share(self) -> float:
        """Give how full the cap is."""
        return self.bytes / self.cap


def scene(stage: Stage, name: str) -> Callable[[float], Picture]:
    """Draw a scene at the master's size."""
    draw: Callable[[float], Picture] = getattr(stage, name)
    return lambda at: np.asarray(Image.fromarray(draw(at)).resize(SIZE))


def spec_for(codec: str, wrapper: str, sound: str, cap: int) -> Spec:
    """Ask for a codec under a cap."""
    asked = {"picture.codec": codec, "file.wrapper": wrapper, "sound.codec": sound}
    rows = [{"property": key, "rule": {"is": value}, "source": key} for key, value in asked.items()]
    rows.append({"property": "file.size", "rule": {"at_most": f"{cap} B"}, "source": "cap"})
    head = {"id": "capped", "version": 1, "title": "Under a cap", "recipient": "Test Hall"}
    return Spec.model_validate(head | {"requirements": rows})


def delivered(master: Path, spec: Spec, cap: int, folder: Path) -> Filled:
    """Deliver a master under a cap."""
    facts = ops.measure(master).facts
    route = plan_route(facts, spec, {"picture": "encoded"}, master.name)
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    done = run_route([master], programme.of(facts), spec, route, folder)
    return Filled(cap, int(done.facts.value("file.size")), len(done.tries), done.notes)


def main() -> None:
    """Make all, and print how they fill their caps."""
    stage, found = Stage(), list[Filled]()
    with tempfile.TemporaryDirectory() as place:
        for name, seconds in SCENES:
            clip = Clip(draw=scene(stage, name), frames=int(seconds * RATE))
            master = clip.write(Path(place) / f"{name}.mp4")
            for coding, caps in CODINGS:
                for left in caps:
                    bits = left * SIZE[0] * SIZE[1] * RATE + 200_000
                    cap = int(bits * seconds / 8)
                    began = time.monotonic()
                    out = Path(place) / f"{name}-{coding[0]}-{left.numerator}"
                    one = delivered(master, spec_for(*coding, cap), cap, out)
                    found.append(one)
                    print(
                        f"{name:9} {coding[0]:6} cap {cap:8} B  {100 * one.share:6.2f} %  "
                        f"{one.tries} run(s), {time.monotonic() - began:5.1f} s  "
                        f"{'; '.join(one.notes)}",
                        flush=True,
                    )
    over = [one for one in found if one.bytes > one.cap]
    median = statistics.median(one.share for one in found)
    print(f"{len(found)} capped deliveries: {len(over)} over (none may be), ", end="")
    print(f"median {100 * median:.1f} % full (at least 95)")


if __name__ == "__main__":
    main()
