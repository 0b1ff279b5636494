"""What the tests of measuring ask of clips whose content is known."""

from collections.abc import Callable
from pathlib import Path

import numpy as np

from ample_crate.core.facts.events import Event
from ample_crate.media import ops
from clips import moving_bar, plain

Make = Callable[..., Path]
SMALL = (320, 192)


def everything(path: Path) -> ops.Measured:
    return ops.measure(path, depth="everything")


def found(events: list[Event], kind: str) -> list[tuple[int | None, int | None]]:
    return [(e.first, e.last) for e in events if e.kind == kind]


def scene(black: tuple[int, int], frozen: tuple[int, int]) -> Callable[[float], np.ndarray]:
    moving, dark = moving_bar(SMALL, 120), plain((0, 0, 0), SMALL)

    def draw(time: float) -> np.ndarray:
        number = round(time * 25)
        if black[0] <= number <= black[1]:
            return dark(time)
        return moving(frozen[0] / 25 if frozen[0] <= number <= frozen[1] else time)

    return draw
