"""Running filter graphs of the codec library, and the meter of loudness, which needs no plan."""

from __future__ import annotations

import contextlib
from fractions import Fraction
from typing import cast

import av.filter
import numpy as np
import numpy.typing as npt
from av.audio.frame import AudioFrame
from av.video.frame import VideoFrame


class Filtered:
    """A running filter graph that frames are pushed into and pulled from."""

    def __init__(self, graph: av.filter.Graph, head: av.filter.FilterContext) -> None:
        self._graph, self._head = graph, head

    def push(self, frame: VideoFrame | AudioFrame | None) -> list[VideoFrame | AudioFrame]:
        """Push a frame, or None at the end, and give every frame that is ready; a graph that has
        all that it wants takes no more.
        """
        with contextlib.suppress(av.error.EOFError):
            self._head.push(frame)
        return self.ready()

    def ready(self) -> list[VideoFrame | AudioFrame]:
        """Give every frame that is ready."""
        ready: list[VideoFrame | AudioFrame] = []
        while True:
            try:
                made = self._graph.pull()
            except (av.error.BlockingIOError, av.error.EOFError):
                return ready
            assert isinstance(made, VideoFrame | AudioFrame)
            ready.append(made)


def added(
    graph: av.filter.Graph, last: av.filter.FilterContext, name: str, args: str = ""
) -> av.filter.FilterContext:
    """Add a filter behind another."""
    made = graph.add(name, args) if args else graph.add(name)
    last.link_to(made)
    return made


def sound_source(
    graph: av.filter.Graph, frame: AudioFrame, clock: Fraction | None
) -> av.filter.FilterContext:
    """Add the source of one sound track, as its first decoded frame is: headers may name another
    sample format. `clock` is the unit of its times.
    """
    return graph.add_abuffer(
        sample_rate=frame.sample_rate,
        format=frame.format.name,
        layout=frame.layout.name,
        time_base=clock or Fraction(1, frame.sample_rate),
    )


def samples_of(frame: AudioFrame) -> npt.NDArray[np.float32]:
    """Give the samples of a planar frame in floating point, a row a channel.

    A filter that leaves channels out leaves their planes behind, and the library lists them too.
    """
    planes = cast("npt.NDArray[np.float32]", frame.to_ndarray())
    return planes[: frame.layout.nb_channels]


def loudness_meter(frame: AudioFrame, clock: Fraction | None = None) -> Filtered:
    """Build the library's meter of EBU R 128 and ITU-R BS.1770, from a first frame: values travel
    as metadata of the frames that come out.
    """
    graph = av.filter.Graph()
    source = sound_source(graph, frame, clock)
    even = added(graph, source, "aresample", "osr=48000")
    meter = added(graph, even, "ebur128", "metadata=1:peak=true:framelog=quiet")
    added(graph, meter, "abuffersink")
    graph.configure()
    return Filtered(graph, source)
