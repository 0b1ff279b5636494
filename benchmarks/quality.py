"""What it takes to hold a finished file against its master, as a ratio to decoding both and nothing
else; and milliseconds until a frame is shown before it is made.

Run `.venv/bin/python -m benchmarks.quality [SPEC...]`; ROUNDS=1 makes it shorter, LENGTH=8 too.
Masters are of 1080p, in ProRes and in H.264 with a key frame every two seconds.
"""

# mypy: disable-error-code="arg-type"
from __future__ import annotations

import os
import random
import sys
import tempfile
import time
from pathlib import Path

from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.route import plan_route
from ample_crate.media import ops
from ample_crate.media.viewer import Viewer
from ample_crate.store import library

from .deliver import bare_decode
from .masters import QUICK_PRORES, SECONDS, make, repeated
from .serving import percentile
from .watched import least, spent

ROUNDS = int(os.environ.get("ROUNDS", "3"))
LENGTH = int(os.environ.get("LENGTH", "40"))
SPECS = ("skerry-hd", "owlery-hd", "fellside-1080p")
LONG = {"preset": "ultrafast", "crf": "18", "g": "50"}
KINDS = {
    "ProRes": ("prores_ks", "yuv422p10le", QUICK_PRORES),
    "H.264": ("libx264", "yuv420p", LONG),
}
SHOWN = 60  # frames
LOOK = {"width": 800}


def planned(master: Path, spec: str) -> Plan:
    """Plan an encode, whatever the file is to be called."""
    asked = library.find(spec).under_any_name()
    facts = ops.measure(master).facts
    plan = plan_route(facts, asked, {"picture": "encoded"}, master.name).plan
    assert plan is not None
    return plan


def decode_both(master: Path, file: Path) -> None:
    """Decode both and do nothing with them."""
    for path in (master, file):
        bare_decode(path)


def compared(master: Path, spec: str, folder: Path) -> None:
    """Print what a comparison takes."""
    plan = planned(master, spec)
    file = ops.render([master], folder / spec, plan, 10**10).path
    rounds = [
        (
            spent(lambda: decode_both(master, file)),
            spent(lambda: ops.quality(file, [master], plan)),
        )
        for _ in range(ROUNDS)
    ]
    bare, whole = (least(column) for column in zip(*rounds, strict=True))
    print(
        f"{spec:16} to {file.suffix}: {whole.seconds / bare.seconds:.2f} of the time of decoding "
        f"both, {whole.processor / bare.processor:.2f} of the processor",
        flush=True,
    )


def shown(master: Path, kind: str, spec: str) -> None:
    """Print how soon frames are there, in any order, of a master whose reader is open."""
    plan, viewer = planned(master, spec), Viewer()
    rng, taken = random.Random(5), []
    try:
        viewer.planned([master], plan, 0, LOOK)
        for _ in range(SHOWN):
            began = time.perf_counter()
            viewer.planned([master], plan, rng.randrange(plan.frames), LOOK)
            taken.append(1000 * (time.perf_counter() - began))
    finally:
        viewer.close()
    print(f"{kind} by {spec}: a frame through the route, p95 {percentile(taken, 0.95):.0f} ms")


def main() -> None:
    """Make masters, and print what was asked."""
    specs = sys.argv[1:] or SPECS
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for kind, (codec, pixels, options) in KINDS.items():
            short = make(folder / f"{codec}.mov", codec, pixels, options, "pcm_s24le")
            master = repeated(short, max(1, LENGTH // SECONDS))
            if kind == "ProRes":
                for spec in specs:
                    compared(master, spec, folder)
            shown(master, kind, specs[0])


if __name__ == "__main__":
    main()
