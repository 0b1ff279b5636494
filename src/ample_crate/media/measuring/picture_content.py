"""What every frame is looked at for when everything is measured: black, stillness, levels, flashes,
alpha, detail, bars.
"""

from __future__ import annotations

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
from . import lines
from .grids import Grid, Samples, grid, plane
from .opening import colour_bars, opening

Numbers = npt.NDArray[Any]
# At 8-bit scale. A frame is black where all but one sample in 200 lie this little above black.
BLACK_ABOVE, BLACK_SHARE = 12, 0.995
# Two pictures are the same where they differ by less than this on average and hardly a sample by
# more than NOISE.
SAME_MEAN, NOISE, NOISE_SHARE = 0.5, 8, 0.0002
FROZEN_SECONDS, BLACK_FRAMES = Fraction(1, 2), 2
# EBU R 103: signals may go from -5 to 105 %, 5 to 246 of 8 bit; up to 1 % of a picture's area is
# let pass.
LOWEST, HIGHEST, AREA_LET_PASS = 5.0, 246.0, 0.01
BAR_ABOVE = 14  # samples brighter than this above black are picture, not bar
LUMA_WEIGHTS = {"BT.709": (0.2126, 0.0722), "BT.601": (0.299, 0.114), "BT.2020": (0.2627, 0.0593)}
CELLS = (15, 20)


class PictureContent:
    """Looks at every frame in turn, and gives facts and events at the end."""

    def __init__(self, header: Facts, rate: Fraction | None) -> None:
        self.full = header.value("picture.range") == "full"
        self.black_level = 0 if self.full else 16
        size = header.value("picture.size")
        usual = "BT.709" if size is not None and size.height > 576 else "BT.601"
        self.weights = LUMA_WEIGHTS.get(
            str(header.value("picture.matrix") or usual), LUMA_WEIGHTS[usual]
        )
        self.every = max(2, round(rate or 25))
        self.count = 0
        self._before: Samples | None = None
        self.black: list[bool] = []
        self.upper_same: list[bool] = []
        self.lower_same: list[bool] = []
        self.barred: list[bool] = []  # colour bars; looked for where the picture changes
        self.outside: list[float] = []
        self.levels_judged = False  # R'G'B' and grey pictures are not judged by EBU R 103 here
        self.brightness, self.redness = Changes(flashes.DARKER_BELOW), Changes(None)
        self.alpha: tuple[int, int] | None = None
        self.alpha_top = 255
        self._detail: Numbers | None = None
        self.spatial: list[float] = []
        self.temporal: list[float] = []
        self.bars = Bars(self.black_level + BAR_ABOVE)

    def take(self, frame: VideoFrame) -> None:
        """Look at one frame."""
        seen = grid(frame)
        self._blackness(seen.luma)
        self._stillness(seen.luma)
        self._barred(seen)
        self._levels(seen)
        self._alpha(seen.alpha)
        self._fine(frame)
        self.count += 1

    def _blackness(self, luma: Samples) -> None:
        dark = np.count_nonzero(luma <= self.black_level + BLACK_ABOVE)
        self.black.append(bool(dark >= BLACK_SHARE * luma.size))

    def _stillness(self, luma: Samples) -> None:
        before, self._before = self._before, luma
        if before is None or before.shape != luma.shape:
            self.upper_same.append(False)
            self.lower_same.append(False)
            return
        apart = np.abs(luma - before)
        for parity, found in ((0, self.upper_same), (1, self.lower_same)):
            field = apart[:, parity]
            same = (
                float(field.mean()) < SAME_MEAN
                and np.count_nonzero(field > NOISE) <= NOISE_SHARE * field.size
            )
            found.append(same)

    def _barred(self, seen: Grid) -> None:
        still = self.upper_same[-1] and self.lower_same[-1]
        # What stands still is what it was.
        self.barred.append(self.barred[-1] if still else colour_bars(seen))

    def _levels(self, seen: Grid) -> None:
        luma = seen.luma[:, 0, ::2]
        if seen.cb is None or seen.cr is None:
            self._shine(luma.astype(np.float32), None)
            self.outside.append(0.0)
            return
        y = luma.astype(np.float32)
        cb, cr = seen.cb.astype(np.float32) - 128, seen.cr.astype(np.float32) - 128
        width = min(y.shape[1], cb.shape[1])
        y, cb, cr = y[:, :width], cb[:, :width], cr[:, :width]
        if self.full or seen.rgb:
            y = 16 + y * np.float32(219 / 255)
            cb, cr = cb * np.float32(224 / 255), cr * np.float32(224 / 255)
        red_share, blue_share = self.weights
        # ITU-R BT.709 and BT.601, from quantised levels: the colour difference spans 224 codes,
        # luma 219.
        scale = 219 / 224
        r = y + cr * np.float32(2 * (1 - red_share) * scale)
        b = y + cb * np.float32(2 * (1 - blue_share) * scale)
        g = (y - np.float32(red_share) * r - np.float32(blue_share) * b) * np.float32(
            1 / (1 - red_share - blue_share)
        )
        if seen.rgb:
            self.outside.append(0.0)
        else:
            self.levels_judged = True
            low, high = (
                np.minimum(np.minimum(r, g), np.minimum(b, y)),
                np.maximum(np.maximum(r, g), np.maximum(b, y)),
            )
            # Half a code of rounding in each part moves R'G'B' by up to two codes.
            self.outside.append(
                float(np.count_nonzero((low < LOWEST - 2) | (high > HIGHEST + 2)) / low.size)
            )
        self._shine(y, (r, g, b))

    def _shine(self, y: Numbers, rgb: tuple[Numbers, Numbers, Numbers] | None) -> None:
        """Follow luminance and redness in cells over the picture."""
        cells = _cells(y)
        # Luminance of a display at 200 cd/m2 from 8-bit luma: the curve that goes with ITU-R
        # BT.1702 (from memory).
        self.brightness.take(413.435 * np.clip(0.002745 * cells + 0.0189623, 0, None) ** 2.2)
        if rgb is None:
            return
        r, g, b = (np.clip((_cells(c) - 16) / 219, 0, 1) ** 2.2 for c in rgb)
        total = r + g + b
        # A saturated red: R/(R+G+B) of 0.8 or more; a change of (R-G-B) x 320 by more than 20
        # counts (ITU-R BT.1702, from memory).
        self.redness.take(np.where(r >= 0.8 * total, np.clip((r - g - b) * 320, 0, None), 0))

    def _alpha(self, alpha: Samples | None) -> None:
        if alpha is None:
            return
        low, high = int(alpha.min()), int(alpha.max())
        self.alpha = (
            (low, high)
            if self.alpha is None
            else (min(low, self.alpha[0]), max(high, self.alpha[1]))
        )

    def _fine(self, frame: VideoFrame) -> None:
        """Take spatial and temporal information (ITU-T P.910) from the whole luma, once a
        second.
        """
        phase = self.count % self.every
        if phase > 1 or frame.height < 16:
            return
        name = frame.format.name
        if not name.startswith(("yuv", "gray")) or name.endswith("be"):
            return
        bits = frame.format.components[0].bits
        luma = plane(frame, 0)[:, : frame.width].astype(np.int16 if bits < 15 else np.int32)
        if phase == 0:
            self.spatial.append(_sobel_deviation(luma) / 2 ** (bits - 8))
            self._detail = luma
        elif self._detail is not None and self._detail.shape == luma.shape:
            apart: Numbers = luma - self._detail
            self.temporal.append(float(np.std(apart, dtype=np.float32)) / 2 ** (bits - 8))
            self._detail = None

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


def _cells(samples: Numbers) -> Numbers:
    """Give the means of CELLS cells over the picture."""
    rows, columns = max(1, samples.shape[0] // CELLS[0]), max(1, samples.shape[1] // CELLS[1])
    high, wide = samples.shape[0] // rows, samples.shape[1] // columns
    cut = samples[: high * rows, : wide * columns]
    made: Numbers = cut.reshape(high, rows, wide, columns).mean(axis=(1, 3))
    return made


def _sobel_deviation(luma: npt.NDArray[Any]) -> float:
    smooth = luma[:-2] + 2 * luma[1:-1] + luma[2:]
    across = smooth[:, 2:] - smooth[:, :-2]
    step = luma[2:] - luma[:-2]
    down = step[:, :-2] + 2 * step[:, 1:-1] + step[:, 2:]
    edge = np.hypot(across.astype(np.float32), down.astype(np.float32))
    return float(edge.std())


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
