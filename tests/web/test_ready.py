"""When a crate is ready: with what stands before it in the queue, and as many workers as there
are.
"""

from __future__ import annotations

from typing import Any

import pytest

from ample_crate.core.planning.ready import Past
from ample_crate.core.planning.schedule import Task, queue
from ample_crate.work import crates

PAST = Past(encode={"h264": 10.0}, measure={"h264": 100.0})  # millions of samples a second


def item(deliverable: int, seconds: float) -> dict[str, Any]:
    """An item that takes so long to encode, and a tenth of that to measure."""
    samples = seconds * 10e6
    sized = ["", "", ""]
    work = {"effort": "h264", "samples": samples, "measured": samples, "copied": 0, "sized": sized}
    return {"deliverable": deliverable, "size": 10**6, "work": work}


def ready(items: list[dict[str, Any]], *tasks: Task, workers: int = 1, state: str = "open") -> Any:
    made, _ = crates.readiness(state, "8 Mb/s", items, {}, PAST, queue(tasks, range(workers)))
    return made


def test_what_is_not_ordered_comes_after_all_that_is() -> None:
    left = ready([item(1, 10)], Task(7, 100, lane=0), Task(8, 50))
    assert (left.wait, left.encode, left.measure) == pytest.approx((150, 10, 1))
    # Then it is sealed, and a million bytes take a second over the line.
    assert left.total == pytest.approx(161 + left.seal + 1)


def test_what_is_ordered_is_ready_when_its_turn_comes() -> None:
    left = ready([item(1, 10), item(2, 20)], Task(7, 100, lane=0), Task(1, 11), Task(2, 22))
    assert (left.wait, left.made) == pytest.approx((100, 133))


def test_several_workers_share_it() -> None:
    items = [item(n, 10) for n in range(4)]
    assert ready(items, workers=1).made == pytest.approx(44)
    assert ready(items, workers=2).made == pytest.approx(22)
    assert ready(items, workers=2).encode == pytest.approx(40)


def test_what_is_made_already_waits_for_nobody() -> None:
    made = {"deliverable": 1, "size": 10**6, "work": None}
    left = ready([made], Task(7, 100, lane=0), state="sealed")
    assert (left.wait, left.made, left.total) == pytest.approx((0, 0, 1))
