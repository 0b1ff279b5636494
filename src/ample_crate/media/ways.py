"""The filters of a picture whose ranges may be framed otherwise: a graph for each way that frames
go.
"""

from __future__ import annotations

from collections.abc import Mapping

from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.planning.places import frame_at
from ..core.planning.plan import Input
from ..core.planning.streams import MadePicture
from . import filters
from .graphs import Filtered
from .lowering import Samples16, picture_chain


class Ways:
    """Brings the frames of a master through the filters of a picture, in order.

    Every frame goes every way, and at each place that one is given which its master's frame is to
    go: filters that look at neighbours find the same on either side of a range's ends.

    Args:
        made: the picture; its steps are all of filters.
        taken: how its master is taken.
        stills: pictures that it is laid over (`stills.under`).
    """

    def __init__(self, made: MadePicture, taken: Input, stills: Mapping[int, Samples16]) -> None:
        self._made, self._taken, self._stills = made, taken, stills
        self._graphs: list[Filtered] = []
        self._given = 0

    def push(self, stream: VideoStream, frame: VideoFrame) -> list[VideoFrame]:
        """Take a frame, and give those that are ready."""
        if not self._graphs:
            source = self._made.source
            chains = [picture_chain(source, steps, self._stills) for steps in self._made.ways]
            self._graphs = [filters.picture_graph(stream, frame, source, chain) for chain in chains]
        return self._chosen([_pictures(graph, frame) for graph in self._graphs])

    def finish(self) -> list[VideoFrame]:
        """Give what was kept back."""
        return self._chosen([_pictures(graph, None) for graph in self._graphs])

    def _chosen(self, made: list[list[VideoFrame]]) -> list[VideoFrame]:
        chosen = []
        for frames in zip(*made, strict=True):
            way = way_at(self._made, self._taken, self._given)
            chosen.append(frames[way])
            self._given += 1
        return chosen


def way_at(made: MadePicture, taken: Input, place: int) -> int:
    """Say which way the frame goes that the filters give at a place."""
    return made.way(frame_at(made, taken, place)) if made.reframed else 0


def _pictures(graph: Filtered, frame: VideoFrame | None) -> list[VideoFrame]:
    return [one for one in graph.push(frame) if isinstance(one, VideoFrame)]
