"""How near a finished file stays to what its route gives of the master: PSNR, SSIM and XPSNR of
every frame, by the codec library's filters.

Runs inside the child process.
"""

from __future__ import annotations

import contextlib
import itertools
import math
import time
from collections.abc import Callable, Generator, Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

import av
import numpy as np
import numpy.typing as npt
from av.codec.context import ThreadType
from av.container import InputContainer
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.errors import BadMedia, Refused
from ..core.planning.plan import Plan
from ..core.planning.streams import AnyPicture
from ..core.quality import Likeness, in_step
from ..core.quality.in_step import Looks
from ..core.units.values import Size
from . import reference
from .measuring.likeness import LikenessMeter
from .read import decoder, open_media, packets, picture_stream
from .threads import Beside

Progress = Callable[[dict[str, Any]], None]

COARSE = Size(32, 18)  # samples of a frame by which it is known again
LOOKED_AT = (24, 600)  # frames at the start: a few, and more where they do not tell
STRANGE = 4.0  # steps of 8 bit: what differs more looks like another picture
SEAMS_EVERY = 10  # frames, of which one is looked at for what coding left
MOST_WAITING = 4  # pairs of frames, each of tens of megabytes
# A rate that is written as a rounded number is the same.
SAME_RATE = Fraction(1, 500)


def handle(
    progress: Progress, path: str, inputs: Sequence[str], plan: dict[str, Any]
) -> dict[str, Any]:
    """Hold a file against what a plan makes of its inputs before it is coded, frame by frame.

    Args:
        progress: told of each sign of life.
        path: the file.
        inputs: paths of the plan's inputs.
        plan: as JSON.

    Returns:
        a `Likeness` as JSON.

    Raises:
        BadMedia: there is no picture.
        Refused: the file's picture cannot be the plan's: its size or its rate is another.
    """
    known = Plan.model_validate(plan)
    picture = known.picture
    if picture is None:
        raise BadMedia("The route makes no picture.", "Compare a deliverable that has one.")
    tell = Teller(progress, known.frames, picture.format.rate)
    pair = Pair(path, inputs, known, picture)
    shift, apart = pair.shift(tell)
    meter = LikenessMeter(picture.format.rate, SEAMS_EVERY)
    beside = Beside(MOST_WAITING)
    with pair.both(shift) as both:
        for number, (wanted, made) in enumerate(both):
            beside.put(meter.take, wanted, made)
            tell("compare", number)
        rest = 0
        for _ in pair.left:
            rest += 1
            tell("count", known.frames)
        beside.finish()
    if not meter.count:
        raise BadMedia("No frame could be compared.", "Look whether the file has any picture.")
    there = meter.count + rest + max(0, shift)
    notes = _notes(there, meter.count, shift, apart, known.frames)
    found = Likeness(meter.curves(), meter.identical, shift, tuple(notes), tell.elapsed)
    programme = _programme(known, max(0, -shift))
    if programme is not None:
        around = "The figures are of the programme, without what stands before and after it."
        found = replace(found, programme=programme, notes=(*found.notes, around))
    return found.as_json()


def _programme(plan: Plan, begin: int) -> tuple[int, int] | None:
    """Say which of the frames that were compared are the programme's, where the first of them is
    so far into what the plan makes.
    """
    around = plan.around
    if not around.frames:
        return None
    return max(0, around.first - begin), max(0, plan.frames - around.after - begin)


class Pair:
    """A file, and what it was made of.

    Attributes:
        left: after both were gone through, the frames of the file that nothing is held against.
    """

    def __init__(self, path: str, inputs: Sequence[str], plan: Plan, picture: AnyPicture) -> None:
        self._path, self._inputs, self._plan, self._picture = path, inputs, plan, picture
        self.left: Iterator[VideoFrame] = iter(())

    def shift(self, tell: Teller) -> tuple[int, float]:
        """Find how many frames later the file begins, and how much differs then."""
        found = 0, math.inf
        for count in LOOKED_AT:
            with self._file() as film:
                made = _looks(film, count, tell)
            with contextlib.closing(self._reference()) as every:
                wanted = _looks(every, count, tell)
            found = in_step.shift(wanted, made, count // 2)
            if found[1] < STRANGE and not in_step.stands_still(wanted):
                break
        return found

    @contextlib.contextmanager
    def both(self, shift: int) -> Iterator[Iterator[tuple[VideoFrame, VideoFrame]]]:
        """Go through both in step: pairs of what the route gives and what the file has."""
        with self._file() as film, contextlib.closing(self._reference()) as every:
            wanted = itertools.islice(every, max(0, -shift), None)
            self.left = itertools.islice(film, max(0, shift), None)
            # Of the file no frame is taken that nothing stands beside.
            yield zip(wanted, self.left, strict=False)

    def _reference(self) -> Generator[VideoFrame, None, None]:
        return reference.frames(self._picture, self._plan, self._inputs)

    @contextlib.contextmanager
    def _file(self) -> Iterator[Iterator[VideoFrame]]:
        with open_media(self._path) as container:
            stream = picture_stream(container)
            if stream is None:
                raise BadMedia("The file has no picture.", "Compare a file that has one.")
            stream.thread_type = ThreadType.AUTO
            _require_like(stream, self._picture)
            # Its decoder is let go of before another file is opened (see `pictures.Reader.close`).
            with contextlib.closing(_decoded(container, stream)) as frames:
                yield frames


def _decoded(container: InputContainer, stream: VideoStream) -> Generator[VideoFrame, None, None]:
    decode = decoder(stream)
    for packet in packets(container, stream):
        with contextlib.suppress(av.FFmpegError):
            if packet is not None:
                yield from decode(packet)


def _require_like(stream: VideoStream, picture: AnyPicture) -> None:
    f = picture.format
    context = stream.codec_context
    size = Size(context.width, context.height)
    # Wrappers tell an average, what they were told, or a guess; repeated fields mislead some.
    told = (stream.average_rate, stream.guessed_rate, stream.base_rate)
    rates = [Fraction(rate) for rate in told if rate]
    way_out = "Compare it under the spec and the choices that it was made with."
    if size != f.size:
        raise Refused(f"The file's picture is {size}; the route gives {f.size}.", way_out)
    if rates and all(abs(rate / f.rate - 1) > SAME_RATE for rate in rates):
        raise Refused(
            f"The file has {float(rates[0]):g} frames a second; the route gives {float(f.rate):g}.",
            way_out,
        )


def _looks(frames: Iterator[VideoFrame], most: int, tell: Teller) -> Looks:
    """See frames coarsely: as many rows as there are, each of a frame's samples."""
    seen = []
    for frame in itertools.islice(frames, most):
        seen.append(_coarse(frame))
        tell("align", 0)
    if not seen:
        raise BadMedia("Not one picture could be decoded.", "Ask for the file again.")
    return np.stack(seen).reshape(len(seen), -1).astype(np.float32)


def _coarse(frame: VideoFrame) -> npt.NDArray[Any]:
    """See a frame's code values as they are: not all files say which range they use."""
    seen = frame.reformat(
        width=COARSE.width,
        height=COARSE.height,
        format="gray",
        interpolation="AREA",
        src_color_range="JPEG",
        dst_color_range="JPEG",
    )
    return seen.to_ndarray()


def _notes(there: int, compared: int, shift: int, apart: float, wanted: int) -> Iterator[str]:
    if shift:
        when = "later" if shift > 0 else "earlier"
        count = abs(shift)
        yield (
            f"The file begins {count} frame{'s' if count != 1 else ''} {when} than the route "
            f"does, judging by its pictures; the frames were compared with that offset."
        )
    if there != wanted:
        yield f"The file has {there} frames; the route gives {wanted}. {compared} were compared."
    if apart >= STRANGE:
        yield "The first pictures hardly look alike: this may be another film, or another framing."


class Teller:
    """Tells of progress.

    Args:
        progress: is told.
        frames: that there are to compare.
        rate: of them a second.
    """

    def __init__(self, progress: Progress, frames: int, rate: Fraction) -> None:
        self._progress, self._frames, self._rate = progress, frames, rate
        self._began = time.monotonic()

    @property
    def elapsed(self) -> float:
        """Give the seconds so far."""
        return time.monotonic() - self._began

    def __call__(self, stage: str, at: int) -> None:
        elapsed, share = self.elapsed, min(1.0, at / max(1, self._frames))
        self._progress(
            {
                "stage": stage,
                "frame": at,
                "frames": self._frames,
                "elapsed": elapsed,
                "share": share,
                "speed": float(at / self._rate) / elapsed if elapsed else 0.0,
                "remaining": elapsed / share - elapsed if share > 0.02 else None,
            }
        )
