"""Running graphs of the codec library's filters: of a picture, and of sound from several tracks."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import isqrt

import av.filter
import numpy as np
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.errors import BadMedia
from ..core.planning.programme import TOGETHER as JOINED
from ..core.planning.sound_steps import Normalise, Resample
from ..core.planning.steps import PictureFormat
from ..core.planning.streams import MadeSound
from ..core.units import loudspeakers
from .encoders.setup import colour_names
from .graphs import Filtered, added, samples_of, sound_source
from .levels import Levels
from .lowering import (
    BesideAlpha,
    OverBackground,
    Samples16,
    ThroughTable,
)
from .sound_lowering import SoundTaken, encoder_takes, held, sound_chain

Filters = Sequence[tuple[str, str] | BesideAlpha | ThroughTable | OverBackground]


@dataclass(frozen=True)
class Fed:
    """A source of a graph that gets one frame and no more."""

    source: av.filter.FilterContext
    frame: VideoFrame


class SoundGraph:
    """Brings the frames of one or several tracks to the sound that a plan makes.

    Args:
        streams: the tracks taken, in the order of their channels.
        made: what is made of them.
        start: time of the first picture; sound before it is cut.
        begin: time where the file begins: where that is later, silence comes before it.
        takes: what the encoder takes.
        levels: what is done to its loudness.
    """

    def __init__(
        self,
        streams: list[AudioStream],
        made: MadeSound,
        start: Fraction,
        begin: Fraction,
        takes: SoundTaken,
        levels: Levels | None = None,
    ) -> None:
        each = tuple(s for s in made.steps if isinstance(s, Resample))
        rest = tuple(s for s in made.steps if not isinstance(s, Resample))
        self._streams = streams
        self._leveller: Leveller | None = None
        # Every track is brought to one clock before they are joined.
        self._track = [
            ("atrim", f"start={float(max(start, begin)):.9f}"),
            ("asetpts", f"PTS-({float(start):.9f})/TB"),
            *sound_chain(each),
        ]
        last = encoder_takes(made.format, takes)
        place = next((n for n, s in enumerate(rest) if isinstance(s, Normalise)), None)
        if place is None:
            self._end = [*sound_chain(rest), *last]
        else:
            self._end = [*sound_chain(rest[:place]), ("aformat", "sample_fmts=fltp")]
            after = [*sound_chain(rest[place + 1 :]), *last]
            self._leveller = Leveller(levels or Levels(), after)
        # A graph is built from each track's first frame: headers may name another sample format.
        self._waiting: dict[int, list[AudioFrame]] = {stream.index: [] for stream in streams}
        self._inputs: dict[int, av.filter.FilterContext] = {}
        self._graph: Filtered | None = None

    def push(self, index: int, frame: AudioFrame) -> list[AudioFrame]:
        """Push a frame of the track with a stream's index, and give what is ready."""
        if self._graph is None:
            self._waiting[index].append(frame)
            return self._begin() if all(self._waiting.values()) else []
        _into(self._inputs[index], frame)
        return self._ready()

    def finish(self) -> list[AudioFrame]:
        """Give the rest, at the end of all tracks; nothing where no track ever gave a frame."""
        made: list[AudioFrame] = []
        if self._graph is None:
            if not any(self._waiting.values()):
                return []
            made = self._begin()
        for source in self._inputs.values():
            _into(source, None)
        made += self._ready()
        return made if self._leveller is None else made + self._leveller.finish()

    def _begin(self) -> list[AudioFrame]:
        graph = av.filter.Graph()
        ends = [self._opened(graph, stream) for stream in self._streams]
        last = ends[0] if len(ends) == 1 else _joined(graph, ends)
        self._graph = linked(graph, last, self._end, "abuffersink")
        waiting = [(index, frame) for index, frames in self._waiting.items() for frame in frames]
        self._waiting = {}
        return [made for index, frame in waiting for made in self.push(index, frame)]

    def _opened(self, graph: av.filter.Graph, stream: AudioStream) -> av.filter.FilterContext:
        first = next(iter(self._waiting[stream.index]), None)
        if first is None:
            raise BadMedia(
                f"Sound track {stream.index} of the master holds no sound that can be decoded.",
                "Choose another track, or ask for the file again.",
            )
        source = sound_source(graph, first, stream.time_base)
        self._inputs[stream.index] = source
        return chained(graph, source, self._track)

    def _ready(self) -> list[AudioFrame]:
        assert self._graph is not None
        ready = [frame for frame in self._graph.ready() if isinstance(frame, AudioFrame)]
        if self._leveller is None:
            return ready
        return [level for frame in ready for level in self._leveller.push(frame)]


class Leveller:
    """Turns sound up or down, holds its peaks, and brings it through the filters that follow."""

    def __init__(self, levels: Levels, chain: Filters) -> None:
        self._levels, self._chain = levels, chain
        self._count = 0
        self._graph: Filtered | None = None

    def push(self, frame: AudioFrame) -> list[AudioFrame]:
        """Take a frame of planar floating-point samples, and give what is ready."""
        factors = self._levels.factors(self._count, frame.samples, frame.sample_rate)
        turned = samples_of(frame) * factors
        made = AudioFrame.from_ndarray(turned, format="fltp", layout=frame.layout.name)
        made.sample_rate, made.pts = frame.sample_rate, self._count
        made.time_base = Fraction(1, frame.sample_rate)
        self._count += frame.samples
        if self._graph is None:
            self._graph = sound_graph(made, made.time_base, self._after(made))
        return _heard(self._graph.push(made))

    def _after(self, frame: AudioFrame) -> Filters:
        ceiling = self._levels.ceiling
        held_back = () if ceiling is None else held(ceiling, frame.sample_rate)
        return [*held_back, *self._chain]

    def finish(self) -> list[AudioFrame]:
        """Give the rest."""
        return [] if self._graph is None else _heard(self._graph.push(None))


def _heard(frames: Sequence[VideoFrame | AudioFrame]) -> list[AudioFrame]:
    return [frame for frame in frames if isinstance(frame, AudioFrame)]


def _into(source: av.filter.FilterContext, frame: AudioFrame | None) -> None:
    """Push a frame; a graph that has all that it wants takes no more."""
    with contextlib.suppress(av.error.EOFError):
        source.push(frame)


def _joined(graph: av.filter.Graph, ends: list[av.filter.FilterContext]) -> av.filter.FilterContext:
    """Make mono tracks the channels of one, in their order."""
    layout = JOINED.get(len(ends))
    if layout is None:
        # They belong to no layout: what follows takes them by their numbers.
        joined = graph.add("amerge", f"inputs={len(ends)}")
    else:
        speakers = loudspeakers.LAYOUTS[layout]
        order = "|".join(f"{n}.0-{speaker}" for n, speaker in enumerate(speakers))
        joined = graph.add("join", f"inputs={len(ends)}:channel_layout={layout}:map={order}")
    for number, end in enumerate(ends):
        # Many a file does not say what its one channel is.
        chained(graph, end, [("pan", "mono|c0=c0")]).link_to(joined, 0, number)
    return joined


def chained(
    graph: av.filter.Graph,
    first: av.filter.FilterContext,
    chain: Filters,
    fed: list[Fed] | None = None,
) -> av.filter.FilterContext:
    """Link a chain of filters behind a first one, and give the last; `fed` takes up what is to be
    pushed into further sources when the graph runs.
    """
    last = first
    for one in chain:
        if isinstance(one, BesideAlpha):
            last = _beside_alpha(graph, last, one)
            continue
        if isinstance(one, ThroughTable):
            assert fed is not None
            last = _through_table(graph, last, one, fed)
            continue
        if isinstance(one, OverBackground):
            assert fed is not None
            last = _over_background(graph, last, one, fed)
            continue
        name, args = one
        last = added(graph, last, name, args)
    return last


def _beside_alpha(
    graph: av.filter.Graph, first: av.filter.FilterContext, one: BesideAlpha
) -> av.filter.FilterContext:
    two = graph.add("split", "2")
    first.link_to(two)
    head = graph.add("null")
    two.link_to(head, 0, 0)
    # Transparency comes out in full range. What it is merged with is called so too meanwhile, or
    # one of them would be scaled to the other's.
    colour = chained(graph, head, [*one.chain, ("setparams", "range=full")])
    planes = ":".join(f"map{n}s=0:map{n}p={n}" for n in range(3))
    merged = graph.add("mergeplanes", f"{planes}:map3s=1:map3p=0:format={one.pixels}")
    clear = graph.add("alphaextract")
    two.link_to(clear, 1, 0)
    colour.link_to(merged, 0, 0)
    clear.link_to(merged, 0, 1)
    return chained(graph, merged, [("setparams", "range=limited")])


def _through_table(
    graph: av.filter.Graph, first: av.filter.FilterContext, one: ThroughTable, fed: list[Fed]
) -> av.filter.FilterContext:
    # Laid out as a picture, entry by entry, which is how the filter reads it.
    side = isqrt(len(one.colours))
    samples = np.round(one.colours * 65535).astype(np.uint16).reshape(side, side, 3)
    looked_up = graph.add("haldclut", "clut=first:interp=tetrahedral")
    first.link_to(looked_up, 0, 0)
    _picture_fed(graph, samples, fed).link_to(looked_up, 0, 1)
    return looked_up


def _picture_fed(
    graph: av.filter.Graph, samples: Samples16, fed: list[Fed]
) -> av.filter.FilterContext:
    """Add a source of one picture in R'G'B' of 16 bit."""
    frame = VideoFrame.from_ndarray(samples, format="rgb48le")
    # It is there before any frame: what comes earlier would be left out, or go by untouched.
    frame.pts, frame.time_base = LONG_BEFORE, Fraction(1, 25)
    size = f"{frame.width}x{frame.height}"
    source = graph.add(
        "buffer",
        f"video_size={size}:pix_fmt={frame.format.name}:time_base=1/25:colorspace=gbr:range=pc",
    )
    fed.append(Fed(source, frame))
    return source


LONG_BEFORE = -(2**32)
PLANAR = ("format", "gbrp16le")


def _over_background(
    graph: av.filter.Graph, first: av.filter.FilterContext, one: OverBackground, fed: list[Fed]
) -> av.filter.FilterContext:
    two = graph.add("split", "2")
    chained(graph, first, [("format", "gbrap16le")]).link_to(two)
    colour, clear = graph.add(*PLANAR), graph.add("alphaextract")
    two.link_to(colour, 0, 0)
    two.link_to(clear, 1, 0)
    alike = ":".join(f"map{n}s=0:map{n}p=0" for n in range(3))
    mask = chained(graph, clear, [("mergeplanes", f"{alike}:format=gbrp16le")])
    under = chained(graph, _picture_fed(graph, one.background, fed), [PLANAR])
    merged = graph.add("maskedmerge")
    for place, end in enumerate((under, colour, mask)):
        end.link_to(merged, 0, place)
    return merged


def linked(
    graph: av.filter.Graph, first: av.filter.FilterContext, chain: Filters, sink: str
) -> Filtered:
    """Link a chain of filters behind a first one, close it with a sink, and make it run."""
    fed: list[Fed] = []
    last = chained(graph, first, chain, fed)
    end = graph.add(sink)
    last.link_to(end)
    graph.configure()
    for one in fed:
        one.source.push(one.frame)
        one.source.push(None)
    return Filtered(graph, first)


def picture_graph(
    stream: VideoStream,
    frame: VideoFrame,
    source: PictureFormat,
    chain: Filters,
    clock: Fraction | None = None,
) -> Filtered:
    """Build the graph for pictures, from the first decoded frame and what the plan takes the master
    to be.

    `clock` is the unit of the frames' times where it is not the stream's.
    """
    graph = av.filter.Graph()
    base = clock or stream.time_base or Fraction(1, 90000)
    rate, aspect = source.rate, source.pixel_aspect
    fields = {
        "video_size": f"{frame.width}x{frame.height}",
        "pix_fmt": frame.format.name,
        "time_base": f"{base.numerator}/{base.denominator}",
        "frame_rate": f"{rate.numerator}/{rate.denominator}",
        "pixel_aspect": f"{aspect.numerator}/{aspect.denominator}",
        "colorspace": "gbr" if frame.format.is_rgb else colour_names(source)[0],
        "range": "pc" if source.full_range else "tv",
    }
    head = graph.add("buffer", ":".join(f"{name}={value}" for name, value in fields.items()))
    return linked(graph, head, chain, "buffersink")


def sound_graph(frame: AudioFrame, clock: Fraction | None, chain: Filters) -> Filtered:
    """Build the graph for one sound track, from its first decoded frame."""
    graph = av.filter.Graph()
    source = sound_source(graph, frame, clock)
    return linked(graph, source, chain, "abuffersink")
