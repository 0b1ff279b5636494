"""Measuring looks at several frames at once, and hears the sound beside them: what it says is what
one frame after the other gives, to the last digit.
"""

from __future__ import annotations

import random
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ample_crate.media.measuring import picture, picture_content, whole
from ample_crate.media.measuring.look import Fine, _detail
from ample_crate.media.threads import Beside, InOrder
from clips import Clip, moving_bar
from wrappers import all_of_them

TIMED = "motion.cost"


class AtOnce:
    """Does each piece of work where it is put in."""

    def __init__(self, take: Callable[[Any], None] | None = None) -> None:
        self._take = take

    def put(self, work: Callable[..., Any], *args: object) -> None:
        made = work(*args)
        if self._take is not None:
            self._take(made)

    def finish(self) -> None:
        pass


@pytest.fixture(scope="module")
def masters(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    folder = tmp_path_factory.mktemp("kinds")
    fields = Clip(
        draw=moving_bar((720, 576), 200),
        fields="lower first",
        flagged="upper first",
        frames=75,
        codec="mpeg2video",
        options={"b": "8000000"},
    )
    flashes = Clip(
        frames=75,
        draw=lambda time: np.full((180, 320, 3), 220 if int(time * 12) % 2 else 20, np.uint8),
    )
    return [
        *all_of_them(folder, 30),
        fields.write(folder / "fields.mov"),
        flashes.write(folder / "flashes.mp4"),
    ]


def everything(path: Path) -> Any:
    told = whole.handle(lambda _: None, str(path), "everything")
    facts = {key: fact for key, fact in told["facts"].items() if not key.startswith(TIMED)}
    return facts, told["events"], told["notes"], told["traces"]


def test_it_says_the_same_side_by_side(
    masters: list[Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    found = [everything(path) for path in masters]
    for module, name in ((picture, "InOrder"), (picture_content, "InOrder"), (whole, "Beside")):
        monkeypatch.setattr(module, name, AtOnce)
    assert [everything(path) for path in masters] == found


def test_results_come_in_their_order() -> None:
    taken: list[int] = []
    looks = InOrder(taken.append)
    rng = random.Random(3)

    def late(number: int, seconds: float) -> int:
        time.sleep(seconds)
        return number

    for number in range(60):
        looks.put(late, number, rng.random() / 200)
    looks.finish()
    assert taken == list(range(60))


def test_no_more_waits_than_memory_allows() -> None:
    gate, begun = threading.Event(), []

    def stand(number: int) -> int:
        begun.append(number)
        gate.wait(60)
        return number

    looks = InOrder(lambda _: None)
    filled = threading.Thread(target=lambda: [looks.put(stand, n) for n in range(1000)])
    filled.start()
    time.sleep(0.2)
    assert filled.is_alive()
    gate.set()
    filled.join(60)
    looks.finish()
    assert sorted(begun) == list(range(1000))


def test_what_goes_wrong_is_told() -> None:
    def wrong() -> None:
        raise ValueError("odd")

    for made in (InOrder(lambda _: None), Beside()):
        with pytest.raises(ValueError, match="odd"):
            made.put(wrong)
            made.finish()


def test_detail_is_itu_t_p910_over_the_whole() -> None:
    """ITU-T P.910, 7.7.1: the standard deviation over the Sobel-filtered luma, and over the
    difference of two frames; here against the formula over the whole picture at once.
    """
    rng = np.random.default_rng(4)
    one, other = (rng.integers(64, 940, (217, 130), np.int16) for _ in range(2))
    plain = one.astype(np.float64)
    rows = np.array([[-1, 0, 1], [-2, 0, 2], [-1, 0, 1]])
    turned = [
        sum(table[y, x] * plain[y : y + 215, x : x + 128] for y in range(3) for x in range(3))
        for table in (rows, rows.T)
    ]
    edges = np.hypot(*turned)
    spatial, _ = _detail(Fine(one, None, 10))
    _, temporal = _detail(Fine(one, other, 10))
    assert spatial == pytest.approx(edges.std() / 4, rel=1e-5)
    assert temporal == pytest.approx((plain - other).std() / 4, rel=1e-5)
