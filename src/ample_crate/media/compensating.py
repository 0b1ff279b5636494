"""Makes frames between two others along what moves, so that another rate looks as if it had been
shot so; in the very samples that the encoder gets.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import av.filter
from av.video.frame import VideoFrame

from ..core.planning.places import about
from ..core.planning.steps import PictureFormat
from . import shots
from .burning import copied
from .graphs import Filtered, added

# Frames that the filter looks at before and after the two that it works between: where the picture
# changes at once it asks whether it changed as much the time before.
BEFORE, AFTER = 3, 2
BLOCK = 16  # samples: beside a part of a block the filter finds what nobody put there (measured)
# Motion is followed both ways, block by block, by a search that remembers nothing of the frames
# before: whichever frame it begins with, it finds the same.
SEARCH = "mi_mode=mci:mc_mode=aobmc:me_mode=bilat:me=umh"


class Compensator:
    """Gives frames of one rate for frames of another, in order.

    Args:
        have: frames a second that come in.
        f: of what comes out.
        first: the place of the first frame that comes in.
    """

    def __init__(self, have: Fraction, f: PictureFormat, first: int = 0) -> None:
        self._have, self._f = have, f
        self._next = first
        self._begins = first / have * f.rate
        self._graph: Filtered | None = None
        self._last: VideoFrame | None = None
        self._seen = _Seen()

    def push(self, frame: VideoFrame) -> list[VideoFrame]:
        """Take the next frame, and give those that are ready."""
        made = []
        if self._graph is None:
            self._graph = self._opened(frame)
            # It looks back from the first frame on.
            made += self._put(frame, self._next - 1)
        made += self._put(frame, self._next)
        self._next, self._last = self._next + 1, frame
        return made

    def finish(self) -> list[VideoFrame]:
        """Give the rest: after the last frame that is shown on."""
        if self._graph is None or self._last is None:
            return []
        made = [f for n in range(AFTER + 1) for f in self._put(self._last, self._next + n)]
        end = self._next / self._have * self._f.rate
        return [frame for frame in made if (frame.pts or 0) < end]

    def _put(self, frame: VideoFrame, place: int) -> list[VideoFrame]:
        assert self._graph is not None
        own = copied(frame)
        own.pts, own.time_base = place, 1 / self._have
        self._seen.add(place, own)
        shown = [f for f in self._graph.push(own) if isinstance(f, VideoFrame)]
        due = [(f, f.pts) for f in shown if f.pts is not None and f.pts >= self._begins]
        return [self._kept(f, at) for f, at in due]

    def _kept(self, frame: VideoFrame, place: int) -> VideoFrame:
        """Give a frame as it was made, or at a cut the nearer of the two that it lies between."""
        first, share = about(place, self._have, self._f.rate)
        if not share or not self._seen.cut_after(first):
            return frame
        nearer = copied(self._seen.frames[first + round(share)])
        nearer.pts, nearer.time_base = frame.pts, frame.time_base
        return nearer

    def _opened(self, frame: VideoFrame) -> Filtered:
        graph, rate = av.filter.Graph(), self._f.rate
        head = graph.add_buffer(
            width=frame.width,
            height=frame.height,
            format=frame.format,
            time_base=1 / self._have,
        )
        right, bottom = -frame.width % BLOCK, -frame.height % BLOCK
        last = added(graph, head, "pad", f"{frame.width + right}:{frame.height + bottom}:0:0")
        if right or bottom:
            edges = f"right={right}:bottom={bottom}:mode=smear"
            last = added(graph, last, "fillborders", edges)
        to = f"fps={rate.numerator}/{rate.denominator}"
        last = added(graph, last, "minterpolate", f"{to}:{SEARCH}")
        last = added(graph, last, "crop", f"{frame.width}:{frame.height}:0:0:exact=1")
        added(graph, last, "buffersink")
        graph.configure()
        return Filtered(graph, head)


class _Seen:
    """The last frames that came, and what remains between them."""

    def __init__(self) -> None:
        self.frames: dict[int, VideoFrame] = {}
        self._small: dict[int, shots.Grey] = {}
        self._pairs: dict[int, shots.Pair] = {}

    def add(self, place: int, frame: VideoFrame) -> None:
        """Take the next frame."""
        self.frames[place], self._small[place] = frame, shots.small(frame)
        before = self._small.get(place - 1)
        if before is not None:
            self._pairs[place - 1] = shots.pair(before, self._small[place])
        for kept in (self.frames, self._small, self._pairs):
            kept.pop(place - BEFORE - AFTER - 2, None)

    def cut_after(self, place: int) -> bool:
        """Tell whether the frame after a place is of another shot."""
        beside = [self._pairs.get(place + n, shots.Pair()) for n in (-1, 1)]
        return shots.is_cut(self._pairs[place], *beside)


def between(
    place: int, have: Fraction, f: PictureFormat, taken: Callable[[int], VideoFrame]
) -> VideoFrame:
    """Give the frame at a place, as `Compensator` gives it.

    Args:
        place: of it.
        have: frames a second that there are.
        f: of what comes out.
        taken: gives the frame at a place that there is; after the last it gives that.
    """
    middle = about(place, have, f.rate)[0]
    first = max(0, middle - BEFORE)
    one = Compensator(have, f, first)
    made = [shown for n in range(first, middle + AFTER + 2) for shown in one.push(taken(n))]
    return next(frame for frame in made + one.finish() if frame.pts == place)
