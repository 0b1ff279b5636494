"""Whether two films show the same: told by an outline of each, which is what every frame of it
looks like in a few large cells.
"""

from __future__ import annotations

import zlib
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..errors import BadMedia

CELLS = (4, 6)  # rows and columns of cells
COUNT = CELLS[0] * CELLS[1]
# Steps of 8 bit that a cell's mean may differ by where the picture is the same: coding, scaling and
# rounding leave less (observed here), a caption over a quarter of a cell leaves more.
TOLERANCE = 4.0
NEAR = 0.5  # share of the shorter film that has to look the same
TRIED = 6  # shifts that are looked at closely, in about so many frames:
SEEN = 2000
JOINED = 12  # frames of sameness between two parts that are told as one

Frames = npt.NDArray[np.uint8]


def packed(frames: Frames) -> bytes:
    """Pack an outline of n x `COUNT` means of 8 bit: as steps from frame to frame, which are
    small.
    """
    steps = np.diff(frames, axis=0, prepend=np.zeros((1, COUNT), np.uint8))
    return zlib.compress(steps.astype(np.uint8).tobytes(), 6)


def unpacked(data: bytes) -> Frames:
    """Give the outline that was packed.

    Raises:
        BadMedia: it is none.
    """
    try:
        steps = np.frombuffer(zlib.decompress(data), np.uint8)
        made: Frames = np.cumsum(steps.reshape(-1, COUNT), axis=0, dtype=np.uint8)
    except (zlib.error, ValueError):
        raise BadMedia("The outline cannot be read.", "Read the master again.") from None
    return made


def means(samples: npt.NDArray[np.floating]) -> Frames:
    """Give the means of the cells of a picture, rounded to 8 bit, row by row.

    Args:
        samples: lines x samples of 8 bit.
    """
    rows, columns = (
        np.linspace(0, size, count, endpoint=False).astype(int)
        for size, count in zip(samples.shape, CELLS, strict=True)
    )
    sums = np.add.reduceat(np.add.reduceat(samples, rows, axis=0), columns, axis=1)
    # Of pictures with fewer samples than cells, cells share some.
    high = np.maximum(1, np.diff(rows, append=samples.shape[0]))
    wide = np.maximum(1, np.diff(columns, append=samples.shape[1]))
    means = sums / (high[:, None] * wide[None, :])
    made: Frames = np.clip(np.rint(means), 0, 255).astype(np.uint8).ravel()
    return made


@dataclass(frozen=True)
class Alike:
    """How a film and another one go together.

    Attributes:
        shift: frames that the other one shows what is the same later; below 0 earlier.
        frames, others: frames of the film and of the other one.
        shared: frames that both have, laid so.
        parts: first and last frame, in the film, of what looks otherwise there.
        same: frames that look the same.
    """

    shift: int
    frames: int
    others: int
    shared: int
    parts: tuple[tuple[int, int], ...]
    same: int

    @property
    def near(self) -> bool:
        """Say whether they are nearly the same."""
        return self.same > 0 and self.same >= NEAR * min(self.frames, self.others)

    @property
    def before(self) -> int:
        """Give the frames that the other one has before what both have; below 0 that it lacks."""
        return self.shift

    @property
    def after(self) -> int:
        """Give the frames that the other one has after what both have; below 0 that it lacks."""
        return self.others - self.shift - self.frames


def compare(film: Frames, other: Frames) -> Alike:
    """Lay two films over each other where most looks the same, and say what does not.

    Where several places fit alike, as in a picture that stands still, the one nearest to none is
    taken.
    """
    shifts, step = _shifts(film, other), max(1, len(film) // SEEN)
    # Of a long film some frames tell where it belongs.
    same = {shift: int((~_odd(film, other, shift, step)).sum()) for shift in shifts}
    return _laid(film, other, max(shifts, key=lambda shift: (same[shift], -abs(shift))))


def _shifts(film: Frames, other: Frames) -> set[int]:
    """Give the shifts that are likeliest: none, ends together, and where their light goes
    together.
    """
    evenly = np.full(COUNT, 1 / COUNT, np.float32)
    one, two = (frames.astype(np.float32) @ evenly for frames in (film, other))
    length = len(one) + len(two)
    size = 1 << (length - 1).bit_length()
    # How light changes tells more than how light it is.
    ones, twos = (np.diff(curve, prepend=curve[:1]) for curve in (one, two))
    together = np.fft.irfft(np.conj(np.fft.rfft(ones, size)) * np.fft.rfft(twos, size), size)
    likeliest = np.argpartition(together, -min(TRIED, size))[-TRIED:]
    shifts = [int(n) if n < len(two) else int(n) - size for n in likeliest]
    return {0, len(other) - len(film), *(n for n in shifts if -len(one) < n < len(two))}


def _laid(film: Frames, other: Frames, shift: int) -> Alike:
    first, odd = max(0, -shift), _odd(film, other, shift)
    parts = tuple((first + a, first + b) for a, b in _parts(odd))
    return Alike(shift, len(film), len(other), len(odd), parts, len(odd) - int(odd.sum()))


def _odd(film: Frames, other: Frames, shift: int, step: int = 1) -> npt.NDArray[np.bool_]:
    """Say of the frames that both have, or of one in so many, which look otherwise."""
    first, begins = max(0, -shift), max(0, shift)
    shared = max(0, min(len(film) - first, len(other) - begins))
    one = film[first : first + shared : step].astype(np.int16)
    apart = one - other[begins : begins + shared : step]
    # Ranges and matrices that are told otherwise move all of a picture by a little.
    overall = float(np.median(apart)) if shared else 0.0
    odd: npt.NDArray[np.bool_] = (np.abs(apart - overall) > TOLERANCE).any(axis=1)
    return odd


def _parts(odd: npt.NDArray[np.bool_]) -> list[tuple[int, int]]:
    places = np.flatnonzero(odd)
    if not len(places):
        return []
    breaks = np.flatnonzero(np.diff(places) > JOINED)
    firsts = places[np.concatenate(([0], breaks + 1))]
    lasts = places[np.concatenate((breaks, [len(places) - 1]))]
    return [(int(a), int(b)) for a, b in zip(firsts, lasts, strict=True)]
