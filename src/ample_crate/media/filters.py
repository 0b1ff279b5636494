"""A plan's operations as filter chains of the codec library."""

from __future__ import annotations

from fractions import Fraction

import av.filter
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.errors import BadMedia
from ..core.planning.plan import Operation, Plan, SoundTarget
from ..core.planning.programme import TOGETHER as JOINED
from ..core.units import loudspeakers
from .encoders.setup import COLOUR, PIXELS, colour_set

Chain = list[tuple[str, str]]
# By degrees anticlockwise.
TURNS: dict[int, Chain] = {
    0: [],
    90: [("transpose", "cclock")],
    180: [("hflip", ""), ("vflip", "")],
    270: [("transpose", "clock")],
}
LOOKS = {
    "BT.709": "bt709",
    "BT.601/625": "bt601-6-625",
    "BT.601/525": "bt601-6-525",
    "BT.2020": "bt2020",
}


def picture_chain(plan: Plan, source_height: int) -> Chain:
    """Give the filters that bring the master's frames to the target's, in order."""
    target = plan.picture
    pixels = PIXELS[(target.chroma, target.bit_depth)]
    chain: Chain = []
    if plan.source.full_range:
        chain.append(("scale", "in_range=full:out_range=limited"))
    for operation in plan.operations:
        chain += _operation(operation, plan, source_height, pixels)
    matrix, primaries, transfer = COLOUR[colour_set(target.matrix, target.height)]
    chain.append(("format", pixels))
    field_mode = (
        "prog" if not target.interlaced else ("tff" if target.order == "upper first" else "bff")
    )
    chain.append(
        (
            "setparams",
            f"field_mode={field_mode}:range=limited:colorspace={matrix}:color_primaries={primaries}:color_trc={transfer}",
        )
    )
    aspect = target.pixel_aspect
    chain.append(("setsar", f"sar={aspect.numerator}/{aspect.denominator}:max=10000"))
    return chain


def _operation(operation: Operation, plan: Plan, source_height: int, pixels: str) -> Chain:
    match operation.kind:
        case "frames_from_fields":
            parity = "bff" if operation.order == "lower first" else "tff"
            mode = "send_field" if operation.rate == 2 * plan.source.rate else "send_frame"
            return [("setfield", parity), ("bwdif", f"mode={mode}:parity={parity}:deint=all")]
        case "resample":
            return [
                ("fps", f"fps={operation.rate.numerator}/{operation.rate.denominator}:round=near")
            ]
        case "turn":
            return TURNS[operation.degrees % 360]
        case "crop":
            return [
                (
                    "crop",
                    f"{operation.width}:{operation.height}:{operation.x}:{operation.y}:exact=1",
                )
            ]
        case "scale":
            return [
                (
                    "scale",
                    f"{operation.width}:{operation.height}:flags=lanczos+accurate_rnd+full_chroma_int",
                )
            ]
        case "pad":
            return [
                (
                    "pad",
                    f"{operation.width}:{operation.height}:{operation.x}:{operation.y}:color=black",
                )
            ]
        case "colour":
            source = LOOKS[colour_set(operation.source, source_height)]
            target = LOOKS[colour_set(operation.target, plan.picture.height)]
            return [
                ("format", pixels),
                (
                    "colorspace",
                    f"iall={source}:all={target}:irange=tv:range=tv:format={pixels.removesuffix('le')}:fast=0",
                ),
            ]
        case _:
            return _fields(operation)


def _fields(operation: Operation) -> Chain:
    """Take alternate lines of successive frames after a vertical low-pass of 1-2-1, which keeps
    thin lines from flickering.
    """
    first, weave = ("bff", "bottom") if operation.order == "lower first" else ("tff", "top")
    kernel = "0 1 0 0 2 0 0 1 0"
    soften = ":".join(f"{n}m={kernel}:{n}rdiv=0.25" for n in range(3))
    # separatefields gives, of frames A and B, A's first, A's second, B's first, B's second field:
    # keep 0 and 3.
    return [
        ("convolution", soften),
        ("setfield", first),
        ("separatefields", ""),
        ("select", r"not(mod(n\,4))+not(mod(n-3\,4))"),
        ("weave", f"first_field={weave}"),
        ("setfield", first),
    ]


def _track_chain(target: SoundTarget, start: Fraction) -> Chain:
    """Give the filters that bring one track to the target's clock.

    Args:
        target: the sound to make.
        start: time of the first picture in the master; sound before it is cut.
    """
    return [
        ("atrim", f"start={float(start):.9f}"),
        ("asetpts", f"PTS-{float(start):.9f}/TB"),
        # Gaps in the master's time stamps, and a late start, become silence.
        ("aresample", f"osr={target.sample_rate}:async=1:min_hard_comp=0.01:first_pts=0"),
    ]


def _mix_chain(target: SoundTarget, samples: int, sample_format: str) -> Chain:
    """Give the filters that bring the channels taken to the target's, by loudspeaker, `samples`
    long.
    """
    chain: Chain = []
    if target.limited:
        chain.append(("aformat", "sample_fmts=dblp"))
    # Channels are named by their number: what a file calls its layout decides nothing.
    rows = [
        f"c{made}="
        + (
            "+".join(f"{float(gain):.9g}*c{taken}" for taken, gain in enumerate(row) if gain)
            or "0*c0"
        )
        for made, row in enumerate(target.gains)
    ]
    chain.append(("pan", "|".join([target.layout, *rows])))
    if target.limited:
        chain.append(("alimiter", "limit=0.891251:level=0:latency=1"))
    return chain + [
        (
            "aformat",
            f"sample_fmts={sample_format}:sample_rates={target.sample_rate}:channel_layouts={target.layout}",
        ),
        ("apad", f"whole_len={samples}"),
        ("atrim", f"end_sample={samples}"),
    ]


class SoundGraph:
    """Brings the frames of one or several tracks to the target's sound.

    Args:
        streams: the tracks taken, in the order of their channels.
        target: the sound to make.
        start: time of the first picture in the master.
        samples: exact length of the result.
        sample_format: what the encoder takes.
    """

    def __init__(
        self,
        streams: list[AudioStream],
        target: SoundTarget,
        start: Fraction,
        samples: int,
        sample_format: str,
    ) -> None:
        self._streams, self._target, self._start = streams, target, start
        self._end = _mix_chain(target, samples, sample_format)
        # A graph is built from each track's first frame: headers may name another sample format.
        self._waiting: dict[int, list[AudioFrame]] = {stream.index: [] for stream in streams}
        self._inputs: dict[int, av.filter.FilterContext] = {}
        self._graph: Filtered | None = None

    def push(self, index: int, frame: AudioFrame) -> list[AudioFrame]:
        """Push a frame of the track with a stream's index, and give what is ready."""
        if self._graph is None:
            self._waiting[index].append(frame)
            return self._begin() if all(self._waiting.values()) else []
        self._inputs[index].push(frame)
        return self._ready()

    def finish(self) -> list[AudioFrame]:
        """Give the rest, at the end of all tracks; nothing where no track ever gave a frame."""
        made: list[AudioFrame] = []
        if self._graph is None:
            if not any(self._waiting.values()):
                return []
            made = self._begin()
        for source in self._inputs.values():
            source.push(None)
        return made + self._ready()

    def _begin(self) -> list[AudioFrame]:
        graph = av.filter.Graph()
        ends = []
        for stream in self._streams:
            first = next(iter(self._waiting[stream.index]), None)
            if first is None:
                raise BadMedia(
                    f"Sound track {stream.index} of the master holds no sound that can be decoded.",
                    "Choose another track, or ask for the file again.",
                )
            source = sound_source(graph, stream, first)
            self._inputs[stream.index] = source
            ends.append(chained(graph, source, _track_chain(self._target, self._start)))
        last = ends[0]
        if len(ends) > 1:
            # Each of several tracks is mono: they become the channels of one in their order.
            layout = JOINED[len(ends)]
            order = "|".join(
                f"{n}.0-{speaker}" for n, speaker in enumerate(loudspeakers.LAYOUTS[layout])
            )
            last = graph.add("join", f"inputs={len(ends)}:channel_layout={layout}:map={order}")
            for number, end in enumerate(ends):
                # Many a file does not say what its one channel is.
                chained(graph, end, [("pan", "mono|c0=c0")]).link_to(last, 0, number)
        self._graph = linked(graph, last, self._end, "abuffersink")
        waiting = [(index, frame) for index, frames in self._waiting.items() for frame in frames]
        self._waiting = {}
        return [made for index, frame in waiting for made in self.push(index, frame)]

    def _ready(self) -> list[AudioFrame]:
        assert self._graph is not None
        return [frame for frame in self._graph.ready() if isinstance(frame, AudioFrame)]


class Filtered:
    """A running filter graph that frames are pushed into and pulled from."""

    def __init__(self, graph: av.filter.Graph) -> None:
        self._graph = graph

    def push(self, frame: VideoFrame | AudioFrame | None) -> list[VideoFrame | AudioFrame]:
        """Push a frame, or None at the end, and give every frame that is ready."""
        self._graph.push(frame)
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


def chained(
    graph: av.filter.Graph, first: av.filter.FilterContext, chain: Chain
) -> av.filter.FilterContext:
    """Link a chain of filters behind a first one, and give the last."""
    last = first
    for name, args in chain:
        made = graph.add(name, args) if args else graph.add(name)
        last.link_to(made)
        last = made
    return last


def linked(
    graph: av.filter.Graph, first: av.filter.FilterContext, chain: Chain, sink: str
) -> Filtered:
    """Link a chain of filters behind a first one, close it with a sink, and make it run."""
    last = chained(graph, first, chain)
    end = graph.add(sink)
    last.link_to(end)
    graph.configure()
    return Filtered(graph)


def picture_graph(
    stream: VideoStream, frame: VideoFrame, plan: Plan, chain: Chain, clock: Fraction | None = None
) -> Filtered:
    """Build the graph for pictures, from the first decoded frame and what the plan takes the master
    to be.

    `clock` is the unit of the frames' times where it is not the stream's.
    """
    graph = av.filter.Graph()
    base, rate, aspect = (
        clock or stream.time_base or Fraction(1, 90000),
        plan.source.rate,
        plan.source.pixel_aspect,
    )
    matrix = COLOUR[colour_set(plan.source.matrix, frame.height)][0]
    full = "pc" if plan.source.full_range else "tv"
    source = graph.add(
        "buffer",
        f"video_size={frame.width}x{frame.height}:pix_fmt={frame.format.name}:time_base={base.numerator}/{base.denominator}"
        f":frame_rate={rate.numerator}/{rate.denominator}:pixel_aspect={aspect.numerator}/{aspect.denominator}"
        f":colorspace={matrix}:range={full}",
    )
    return linked(graph, source, chain, "buffersink")


def sound_source(
    graph: av.filter.Graph, stream: AudioStream, frame: AudioFrame
) -> av.filter.FilterContext:
    """Add the source of one sound track, as its first decoded frame is: headers may name another
    sample format.
    """
    return graph.add_abuffer(
        sample_rate=frame.sample_rate,
        format=frame.format.name,
        layout=frame.layout.name,
        time_base=stream.time_base or Fraction(1, frame.sample_rate),
    )


def sound_graph(stream: AudioStream, frame: AudioFrame, chain: Chain) -> Filtered:
    """Build the graph for one sound track, from its first decoded frame."""
    graph = av.filter.Graph()
    source = sound_source(graph, stream, frame)
    return linked(graph, source, chain, "abuffersink")
