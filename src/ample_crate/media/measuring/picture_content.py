"""What is found in the pictures of a file when everything is measured: black, stillness, levels,
flashes, alpha, detail, bars.
"""

from __future__ import annotations

import hashlib
from array import array
from fractions import Fraction
from typing import Any

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame

from ...core.facts import Facts, cadence, flashes
from ...core.facts.events import Event, stretches
from ...core.formats import picture_of
from ...core.units.geometry import BAR_SHARE
from ...core.units.values import Size, Value
from ..threads import InOrder
from . import lines
from .grids import Samples, grid
from .look import Fine, Look, Numbers, fine, look, taken
from .opening import opening

FROZEN_SECONDS, BLACK_FRAMES = Fraction(1, 2), 2
AREA_LET_PASS = 0.01  # of a picture outside EBU R 103
BAR_ABOVE = 14  # samples brighter than this above black are picture, not bar


class PictureContent:
    """Has every frame looked at, takes up what is seen in their order, and gives facts and events
    at the end.
    """

    def __init__(self, header: Facts, rate: Fraction | None) -> None:
        self._how = taken(header)
        self.every = max(2, round(rate or 25))
        self.count = self._given = 0
        self._looks = InOrder(self._note)
        self._before: Samples | None = None
        self.black: list[bool] = []
        self.upper_same: list[bool] = []
        self.lower_same: list[bool] = []
        self.barred: list[bool] = []  # colour bars; looked for where the picture changes
        self.outside = array("d")
        self.digest = hashlib.sha256()  # of the coded frames
        self.outline = bytearray()  # of every frame (`core.quality.alike`)
        self.levels_judged = False  # R'G'B' and grey pictures are not judged by EBU R 103 here
        self.brightness, self.redness = Changes(flashes.DARKER_BELOW), Changes(None)
        self.alpha: tuple[int, int] | None = None
        self.alpha_top = 255
        self._detail: Numbers | None = None
        self.spatial: list[float] = []
        self.temporal: list[float] = []
        self.bars = Bars(self._how.black + BAR_ABOVE)

    def take(self, frame: VideoFrame) -> None:
        """Have one frame looked at."""
        seen = grid(frame)
        self._looks.put(look, seen, self._before, self._fine(frame), self._how)
        self._before = seen.luma
        self._given += 1

    def finish(self) -> None:
        """Wait until all that was given is looked at."""
        self._looks.finish()

    def _fine(self, frame: VideoFrame) -> Fine | None:
        """Take the whole luma once a second: of one frame, and of the next beside it."""
        phase = self._given % self.every
        told = fine(frame) if phase <= 1 else None
        before, self._detail = self._detail, None
        if told is None:
            return None
        luma, bits = told
        if phase == 0:
            self._detail = luma
            return Fine(luma, None, bits)
        alike = before is not None and before.shape == luma.shape
        return Fine(luma, before, bits) if alike else None

    def _note(self, seen: Look) -> None:
        self.count += 1
        self.black.append(seen.black)
        for same, found in zip(seen.same, (self.upper_same, self.lower_same), strict=True):
            found.append(same)
        self.barred.append(self.barred[-1] if seen.barred is None else seen.barred)
        self.outside.append(seen.outside or 0.0)
        self.levels_judged |= seen.outside is not None
        self.brightness.take(seen.brightness)
        self.outline += seen.outline.tobytes()
        if seen.redness is not None:
            self.redness.take(seen.redness)
        if seen.alpha is not None:
            self.alpha = _around(self.alpha, seen.alpha)
        for figure, figures in ((seen.spatial, self.spatial), (seen.temporal, self.temporal)):
            if figure is not None:
                figures.append(figure)

    def facts(self, header: Facts, rate: Fraction | None) -> dict[str, Value | None]:
        """Give what was found over the whole."""
        rate = rate or Fraction(25)
        found = cadence.find(self.upper_same, self.lower_same)
        whole = [u and w for u, w in zip(self.upper_same, self.lower_same, strict=True)]
        black, frozen = self._black(), self._frozen(rate)
        before = opening(black, frozen, self.barred)
        worst = max(self.outside, default=0.0)
        active, aspect = self.bars.active, header.fraction("picture.pixel_aspect") or Fraction(1)
        values: dict[str, Value | None] = {
            "motion.cadence": found.told(rate) if found else None,
            "motion.repeats": sum(whole),
            "motion.black": Fraction(sum(b - a + 1 for a, b in black)) / rate,
            "motion.black_before": Fraction(black[0][1] + 1 if black and black[0][0] == 0 else 0)
            / rate,
            "motion.black_after": Fraction(
                black[-1][1] - black[-1][0] + 1 if black and black[-1][1] == self.count - 1 else 0
            )
            / rate,
            "motion.leader": Fraction(before.leader) / rate,
            "motion.bars_before": Fraction(before.bars) / rate,
            "motion.slate": Fraction(before.slate) / rate,
            "motion.frozen": Fraction(sum(b - a + 1 for a, b in frozen)) / rate,
            "picture.excursion": Fraction(round(worst * 10_000), 100)
            if self.levels_judged
            else None,
            "picture.flashes": flashes.count(self.brightness.at, rate).most,
            "picture.red_flashes": flashes.count(self.redness.at, rate).most,
            "picture.spatial": _hundredths(self.spatial),
            "picture.temporal": _hundredths(self.temporal),
            "picture.alpha_use": self._alpha_use(),
        }
        if active is not None:
            left, top, width, height = active
            size = header.value("picture.size")
            shown = picture_of(header.value("picture.codec"), size)
            values["picture.bars"] = (
                width < shown.width * BAR_SHARE or height < shown.height * BAR_SHARE
            )
            values["picture.active"] = f"{width} x {height} + {left} + {top}"
            values["picture.active_aspect"] = Fraction(width, height) * aspect
        return values

    def _alpha_use(self) -> str | None:
        if self.alpha is None:
            return None
        low, high = self.alpha
        if low == high:
            return (
                "wholly opaque"
                if low >= self.alpha_top - 1
                else "wholly clear"
                if low == 0
                else "constant"
            )
        return "wholly opaque" if low >= self.alpha_top - 1 else "used"

    def _black(self) -> list[tuple[int, int]]:
        return stretches(self.black, BLACK_FRAMES)

    def _frozen(self, rate: Fraction) -> list[tuple[int, int]]:
        """Give stretches in which the picture stands still: the first frame is the one that then
        stays.
        """
        still = [
            u and w and not b
            for u, w, b in zip(self.upper_same, self.lower_same, self.black, strict=True)
        ]
        return [(a - 1, b) for a, b in stretches(still, max(2, int(FROZEN_SECONDS * rate)))]

    def events(self, rate: Fraction | None) -> list[Event]:
        """Give what was found at places in time."""
        rate = rate or Fraction(25)

        def event(kind: Any, first: int, last: int, what: str) -> Event:
            return Event(kind, Fraction(first) / rate, Fraction(last + 1) / rate, what, first, last)

        made = [event("black", a, b, f"black for {b - a + 1} frames") for a, b in self._black()]
        made += [
            event(
                "frozen",
                a,
                b,
                f"{'colour bars' if self.barred[a] else 'stands still'} for {b - a + 1} frames",
            )
            for a, b in self._frozen(rate)
        ]
        over = [share > AREA_LET_PASS for share in self.outside]
        for a, b in stretches(over, 1):
            worst = max(self.outside[a : b + 1])
            made.append(
                event("levels", a, b, f"up to {100 * worst:.1f} % of the picture outside EBU R 103")
            )
        for changes, word in ((self.brightness, "flashes"), (self.redness, "red flashes")):
            told = flashes.count(changes.at, rate)
            made += [
                event(
                    "flash",
                    a,
                    b,
                    f"more than {flashes.MOST_A_SECOND} {word} in a second (ITU-R BT.1702; "
                    f"advisory)",
                )
                for a, b in told.stretches
            ]
        return made


def _hundredths(values: list[float]) -> Fraction | None:
    return Fraction(round(max(values) * 100), 100) if values else None


def _around(one: tuple[int, int] | None, other: tuple[int, int]) -> tuple[int, int]:
    return other if one is None else (min(one[0], other[0]), max(one[1], other[1]))


class Changes:
    """Finds the frames at which more than a quarter of the picture turned brighter, or darker."""

    def __init__(self, darker_below: float | None) -> None:
        self.darker_below = darker_below
        self.at: list[int] = []
        self._count = 0
        self._last = 0  # 1 where the whole last turned brighter, -1 darker
        self._low: Numbers | None = None
        self._high: Numbers
        self._state: npt.NDArray[np.int8]
        self._recent = dict[int, npt.NDArray[np.bool_]]()

    def take(self, cells: Numbers) -> None:
        """Take the cells' values of the next frame."""
        number, self._count = self._count, self._count + 1
        if self._low is None or self._low.shape != cells.shape:
            self._low, self._high = cells.copy(), cells.copy()
            self._state = np.zeros(cells.shape, np.int8)
            self._recent = {}
            return
        self._low = np.minimum(self._low, cells)
        self._high = np.maximum(self._high, cells)
        dark_low = self._low < self.darker_below if self.darker_below is not None else True
        dark_now = cells < self.darker_below if self.darker_below is not None else True
        rise = (self._state != 1) & (cells - self._low >= flashes.LEAST_CHANGE) & dark_low
        fall = (self._state != -1) & (self._high - cells >= flashes.LEAST_CHANGE) & dark_now & ~rise
        self._state[rise], self._state[fall] = 1, -1
        # Where the direction has turned, the search for the opposite extreme begins anew.
        self._high = np.where(rise | (self._state == -1), cells, self._high)
        self._low = np.where(fall | (self._state == 1), cells, self._low)
        self._high = np.where(self._state == 1, np.maximum(self._high, cells), self._high)
        self._low = np.where(self._state == -1, np.minimum(self._low, cells), self._low)
        for way, turned in ((1, rise), (-1, fall)):
            # A change may take two frames to cover the picture.
            both = turned | self._recent.get(way, turned)
            self._recent[way] = turned
            if way != self._last and float(both.mean()) > flashes.LEAST_AREA:
                self.at.append(number)
                self._last = way


class Bars:
    """Finds the part of the picture that is ever brighter than black."""

    def __init__(self, above: int) -> None:
        self.above = above
        self._rows: npt.NDArray[np.int32] | None = None
        self._columns: npt.NDArray[np.int32]
        self._size = Size(0, 0)

    def take(self, frame: VideoFrame, luma: lines.Luma) -> None:
        """Look at a frame: `luma` has all its lines and some of its columns."""
        across = lines.columns(frame)
        rows = luma.max(axis=1)
        if self._rows is None or self._rows.shape != rows.shape:
            self._rows, self._columns, self._size = rows, across, Size(frame.width, frame.height)
        else:
            self._rows, self._columns = (
                np.maximum(self._rows, rows),
                np.maximum(self._columns, across),
            )

    @property
    def active(self) -> tuple[int, int, int, int] | None:
        """Give left, top, width and height, or None where all was black or nothing was looked
        at.
        """
        if self._rows is None:
            return None
        rows, columns = (
            np.flatnonzero(self._rows > self.above),
            np.flatnonzero(self._columns > self.above),
        )
        if not len(rows) or not len(columns):
            return None
        left, top = int(columns[0]), int(rows[0])
        return left, top, int(columns[-1]) - left + 1, int(rows[-1]) - top + 1
