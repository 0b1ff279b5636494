"""What is learned of media files besides facts: how hard a picture is, what it costs to show. Each
runs in a confined child process.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from ..core.planning.plan import Plan
from . import benches, confine, guard, limits
from .ops import Control, present

LISTENING = 32_000  # bytes a second of what can be listened to
VIEWING = 600_000  # of two pictures that can be played together


def weights(path: Path) -> list[int]:
    """Look up the coded bytes of each frame of a file's picture, as `weights.handle` has them."""
    file = present(path)
    found = guard.run("weights", {"path": str(file)}, limits.COMPARE, confine.reading(file))
    return list(found["weights"])


def decoding(path: Path) -> dict[str, float]:
    """Time the decoding of a file's pictures: frames a second, as `decoding.handle` has them."""
    file = present(path)
    return guard.run("decoding", {"path": str(file)}, limits.COMPARE, confine.reading(file))


def stretches(
    inputs: Sequence[Path],
    parts: Sequence[Sequence[Plan]],
    control: Control = Control(),  # noqa: B008 (frozen)
) -> list[list[dict[str, Any]]]:
    """Code stretches of what a plan makes by several quantisers, and see how good they are.

    Args:
        inputs: the plans' inputs.
        parts: of each stretch its plans (`planning.sampled`).
        control: told of progress, asked whether to stop.

    Returns:
        as `stretches.handle` has its points.
    """
    files = [present(path) for path in inputs]
    asked = {
        "inputs": [str(file) for file in files],
        "stretches": [[plan.model_dump(mode="json") for plan in plans] for plans in parts],
    }
    view = confine.reading(*files)
    found = guard.run("stretches", asked, limits.COMPARE, view, control.progress, control.cancelled)
    return list(found["points"])


def viewing(
    path: Path,
    inputs: Sequence[Path],
    plan: Plan,
    out: Path,
    control: Control = Control(),  # noqa: B008 (frozen)
) -> dict[str, Any]:
    """Make a copy of a file and of what went into its encoder, to be played together.

    Args:
        path: the file.
        inputs: the plan's inputs.
        plan: that it was made by.
        out: final name of the copy.
        control: told of progress, asked whether to stop.

    Returns:
        as `viewing.handle`.
    """
    files = [present(one) for one in (path, *inputs)]
    size = int(plan.seconds * VIEWING)
    with benches.workshop(out, size) as bench:
        asked = {
            "path": str(files[0]),
            "inputs": [str(file) for file in files[1:]],
            "plan": plan.model_dump(mode="json"),
            "outs": [str(bench / out.name)],
        }
        view = confine.reading(*files, writes=bench)
        bounds = limits.encode(size)
        found = guard.run("viewing", asked, bounds, view, control.progress, control.cancelled)
        benches.settle(bench / out.name, out, bench)
    return found


def hearing(
    inputs: Sequence[Path],
    plan: Plan,
    outs: Sequence[Path],
    control: Control = Control(),  # noqa: B008 (frozen)
) -> dict[str, Any]:
    """Hear what a plan makes of sound before it is coded.

    Args:
        inputs: the plan's inputs.
        plan: of the programme alone.
        outs: final names of what can be listened to, in one folder: one for each track that is made
            of a master's.
        control: told of progress, asked whether to stop.

    Returns:
        as `hearing.handle`.
    """
    files = [present(path) for path in inputs]
    size = int(plan.seconds * LISTENING) * len(outs)
    with benches.workshop(outs[0], size) as bench:
        asked = {
            "inputs": [str(file) for file in files],
            "plan": plan.model_dump(mode="json"),
            "outs": [str(bench / out.name) for out in outs],
        }
        view = confine.reading(*files, writes=bench)
        bounds = limits.encode(size)
        found = guard.run("hearing", asked, bounds, view, control.progress, control.cancelled)
        for out in outs:
            benches.settle(bench / out.name, out, bench)
    return found


def rehearsal(path: Path, control: Control = Control()) -> dict[str, Any]:  # noqa: B008 (frozen)
    """Play a file as a player would: as `rehearsing.handle` has it."""
    file = present(path)
    view, asked = confine.reading(file), {"path": str(file)}
    bounds = limits.COMPARE
    return guard.run("rehearse", asked, bounds, view, control.progress, control.cancelled)
