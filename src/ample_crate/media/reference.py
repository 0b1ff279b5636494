"""What a plan's picture is before it is coded: the frames of its master through its steps.

Runs inside the child process.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Generator, Iterator, Sequence
from contextlib import closing

from av.video.frame import VideoFrame

from ..core.planning.plan import Plan
from ..core.planning.streams import AnyPicture, MadePicture
from . import stills
from .feeds import DecodedFeed, PictureFeed, untold
from .leading import stands
from .read import open_media
from .sources import Source


class _Gathered:
    """Takes frames until they are asked for."""

    def __init__(self) -> None:
        self.frames = 0
        self.ready = deque[VideoFrame]()

    def write(self, frame: VideoFrame) -> None:
        self.frames += 1
        self.ready.append(frame)

    def given(self) -> Iterator[VideoFrame]:
        """Give those that are there."""
        while self.ready:
            yield self.ready.popleft()


def frames(
    picture: AnyPicture, plan: Plan, inputs: Sequence[str]
) -> Generator[VideoFrame, None, None]:
    """Give the frames that a plan's picture is coded of, in order; of a copied one those that its
    coded frames decode to.

    Args:
        picture: of the plan.
        plan: says what is taken of its inputs.
        inputs: their paths.
    """
    gathered = _Gathered()
    count = plan.alone.frames
    yield from stands(plan, range(plan.around.first))
    if isinstance(picture, MadePicture):
        under = stills.under(picture, inputs)
        feed: PictureFeed | DecodedFeed = PictureFeed(
            picture, plan.inputs[picture.input], gathered, under, count, untold
        )
    else:
        feed = DecodedFeed(gathered, count, picture.format.rate, untold)
    container = open_media(inputs[picture.input])
    with closing(container):
        source = Source(container, plan.inputs[picture.input], plan.programme)
        source.give_picture(feed)
        with closing(source.run()) as reading:
            for _ in reading:
                yield from gathered.given()
                if gathered.frames >= count:
                    break
        yield from gathered.given()
    yield from stands(plan, range(plan.frames - plan.around.after, plan.frames))
