"""A frame of a deliverable before it is coded: the master's real frames through the route's real
chain of filters, and what a finished file differs from it.

Runs inside the child process.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import ceil, floor
from typing import Any

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame
from PIL import Image, ImageChops

from ..core.errors import BadMedia
from ..core.planning.plan import Input, Plan
from ..core.planning.steps import Deinterlace, Interlace, PictureFormat, Retime, UndoPulldown
from ..core.planning.streams import CopiedPicture, MadePicture
from . import filters, screen, stills
from .finishing import Finishing
from .graphs import Filtered
from .lowering import Samples16, picture_chain
from .pictures import Reader, reader_of
from .standing import drawn
from .ways import way_at

# Frames before and after the wanted one, for steps that look at neighbours; and of those that drop
# one in five, two fives.
AROUND, OF_FIVES = 3, 12
FIVE = 5
LOOK_AROUND = (Deinterlace, Interlace, Retime)
HALF = Fraction(1, 2)


def handle(
    progress: Callable[[dict[str, Any]], None],
    inputs: Sequence[str],
    plan: dict[str, Any],
    place: int,
    look: dict[str, Any],
) -> dict[str, Any]:
    """Give a deliverable's frame as the plan will make it of its inputs, at its display aspect:
    {jpeg (base64), width, height}.

    Args:
        inputs: paths of the plan's inputs.
        plan: as JSON.
        place: of the frame in the deliverable, counted from 0.
        look: `width` of the picture, in screen samples; `ground` that is shown through what is
            clear, `matte` for the transparency alone; `field`, woven, upper or lower; `mark`, which
            bytes the master has, where its own size and times do not tell.
    """
    known = Plan.model_validate(plan)
    frame = frame_of(inputs, known, place, look.get("mark", ""))
    f = format_of(known)
    shown = screen.shown(frame, f.pixel_aspect, f.matrix, look["width"], look.get("field"))
    return screen.coded(screen.over(shown, look.get("ground", screen.CHECKER)))


def answer_difference(
    progress: Callable[[dict[str, Any]], None],
    path: str,
    inputs: Sequence[str],
    plan: dict[str, Any],
    place: int,
    look: dict[str, int],
) -> dict[str, Any]:
    """Give what a frame of a finished file differs from what its plan makes of its inputs: what the
    route changes is no difference. `look` has the `width` of the picture, in screen samples, and by
    how much it is amplified (`gain`).
    """
    known = Plan.model_validate(plan)
    frames = (frame_of(inputs, known, place), reader_of(path, True, "").frame(place))
    f = format_of(known)
    wanted, made = (screen.shown(one, f.pixel_aspect, f.matrix, look["width"]) for one in frames)
    # Of two pictures that differ where they are clear, one ground or the other shows it.
    gap = np.maximum(_gap(wanted, made, "black"), _gap(wanted, made, "white")).astype(np.int32)
    return screen.coded(Image.fromarray(np.clip(gap * look["gain"], 0, 255).astype(np.uint8)))


def format_of(plan: Plan) -> PictureFormat:
    """Give the format of what a plan makes.

    Raises:
        BadMedia: it makes no picture.
    """
    if plan.picture is None:
        raise BadMedia("The route makes no picture.", "Look at a route that does.")
    return plan.picture.format


def _gap(wanted: Image.Image, made: Image.Image, ground: str) -> npt.NDArray[np.uint8]:
    pair = screen.over(wanted, ground), screen.over(made, ground)
    return np.asarray(ImageChops.difference(*pair))


def frame_of(inputs: Sequence[str], plan: Plan, place: int, mark: str = "") -> VideoFrame:
    """Give the frame of a plan's picture at a place, before it is coded: to the last sample the one
    that the encoder gets (`reference.frames`).

    Raises:
        BadMedia: the route makes no picture, or none at this place.
    """
    picture = plan.picture
    if picture is None:
        raise BadMedia("The route makes no picture.", "Look at a route that does.")
    standing = plan.around.standing(place, plan.frames)
    if standing is not None:
        return drawn(standing, picture.format, plan.around.lines)
    place -= plan.around.first
    path, taken = inputs[picture.input], plan.inputs[picture.input]
    reader = reader_of(path, taken.clock not in {"uneven", "given"}, mark)
    if isinstance(picture, CopiedPicture):
        return reader.frame(taken.frame(place))
    last = ceil(plan.programme * picture.source.rate) + 1
    finishing = Finishing(picture)
    filtered, under = finishing.filtered, stills.under(picture, inputs)
    return finishing.at(place, _Chain(reader, filtered, taken, under, last).frame)


@dataclass(frozen=True)
class _Chain:
    """The steps of a picture, run over the frames about a place. Frames of the master are counted
    from the first that is taken, without those that are left out.

    Attributes:
        reader: of the master.
        made: the picture.
        taken: how the master is taken.
        under: stills that it is laid over.
        last: frame beyond which none is read.
    """

    reader: Reader
    made: MadePicture
    taken: Input
    under: Mapping[int, Samples16]
    last: int

    def frame(self, place: int) -> VideoFrame:
        """Give what comes out at a place."""
        middle = self._read_at(place)
        shown = self._about(middle, place)
        if shown is None:
            # What is shown on and on, beyond the last frame that there is.
            shown = self._about(min(middle, self.taken.place(self.reader.place)), place)
        if shown is None:
            raise BadMedia("The route gives no picture at this place.", "Look at another frame.")
        return shown

    def _about(self, middle: int, place: int) -> VideoFrame | None:
        begin = self._begin(middle)
        graph: Filtered | None = None
        shown: list[VideoFrame] = []
        steps = self.made.ways[way_at(self.made, self.taken, place)]
        chain = picture_chain(self.made.source, steps, self.under)
        for frame in self._read(begin, min(self.last, middle + self._around)):
            if graph is None:
                graph = filters.picture_graph(self.reader.stream, frame, self.made.source, chain)
            shown += [f for f in graph.push(frame) if isinstance(f, VideoFrame)]
        if graph is not None:
            shown += [f for f in graph.push(None) if isinstance(f, VideoFrame)]
        # Counted, as the writer counts: filters that weave fields shift the times by half a frame.
        return shown[min(len(shown) - 1, place - self._out(begin))] if shown else None

    def _read(self, begin: int, end: int) -> Iterator[VideoFrame]:
        for at in range(begin, end + 1):
            wanted = self.taken.frame(at)
            frame = self.reader.frame(wanted)
            if self.reader.place != wanted:
                return  # beyond the last
            # What is kept for the next picture stays as it is.
            own = frame.reformat(format=frame.format.name)
            if self._retimed or frame.pts is None:
                own.pts = round(self._time(at) / self.reader.base)
            else:
                own.pts = frame.pts
            own.time_base = self.reader.base
            yield own

    def _read_at(self, place: int) -> int:
        """Give the frame that is shown at a place."""
        after = place / self.made.format.rate
        if self.taken.clock == "uneven":
            return self.taken.place(self.reader.shown_at(self._time(0) + after))
        return floor(after * self.made.source.rate)

    def _begin(self, middle: int) -> int:
        """Give the frame to begin with: near, and such that the steps meet what follows at the same
        of their turns as from the first on. Fields are woven of two frames, one of five is dropped,
        repeats come by time.
        """
        for at in range(max(0, middle - self._around), 0, -1):
            fresh = not self._pulled or at % FIVE == 0
            if fresh and (not self._woven or self._index(at) % 2 == 0):
                return at
        return 0

    def _out(self, at: int) -> int:
        """Give the place of what first comes out where the steps begin with a frame."""
        return self._index(at) // (2 if self._woven else 1)

    @property
    def _around(self) -> int:
        looks = any(isinstance(step, LOOK_AROUND) for step in self.made.steps)
        return OF_FIVES if self._pulled else AROUND if looks else 0

    @property
    def _pulled(self) -> bool:
        return any(isinstance(step, UndoPulldown) for step in self.made.steps)

    @property
    def _woven(self) -> bool:
        return any(isinstance(step, Interlace) for step in self.made.steps)

    def _index(self, at: int) -> int:
        """Count the frames before fields are woven, up to the first that a frame gives."""
        rate = self.made.format.rate * (2 if self._woven else 1)
        if not any(isinstance(step, Retime) for step in self.made.steps):
            return floor(at * rate / self.made.source.rate)
        times = (self._time(n) * rate for n in (at, 0))
        # As the filter rounds them, counted from the file's own zero.
        now, first = (floor(time + HALF) for time in times)
        return now - first

    @property
    def _retimed(self) -> bool:
        return self.taken.clock == "given" or bool(self.taken.gaps)

    def _time(self, at: int) -> Fraction:
        if self.taken.clock == "given":
            return self.reader.time(0) + self.taken.start + at / self.made.source.rate
        frame = self.taken.frame(at)
        gone = (frame - at - self.taken.first) / self.made.source.rate
        return self.reader.time(frame) - gone
