"""A proxy of a master for smooth play in a browser: small H.264 at the master's own rate,
every channel of its sound.

It is for looking and listening only; stills of single frames come from the master itself. Runs
inside the child process.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from fractions import Fraction
from typing import Any

import av
import av.filter
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.codec.context import ThreadType
from av.video.frame import PictureType, VideoFrame
from av.video.stream import VideoStream

from ..core.errors import BadMedia
from ..core.formats import BROWSER_SOUND, BROWSER_WRAPPER
from . import wrappers
from .filters import linked, sound_graph
from .graphs import Filtered, sound_source
from .read import open_media, packets, picture_stream, sound_streams

COPY = wrappers.ROWS[BROWSER_WRAPPER]
LINES, SOUND_RATE, MOST_CHANNELS = 360, 48000, 8
LAYOUTS = {1: "mono", 2: "stereo", 3: "3.0", 4: "4.0", 5: "5.0(back)", 6: "5.1", 7: "7.1", 8: "7.1"}
# Short GOPs, so that a browser finds any place at once.
OPTIONS = {"preset": "veryfast", "crf": "26", "g": "12", "bf": "0", "profile": "high"}


def handle(
    progress: Callable[[dict[str, Any]], None], path: str, outs: list[str]
) -> dict[str, Any]:
    """Make the copy: {frames, channels, seconds}."""
    began = time.monotonic()
    with (
        open_media(path) as source,
        av.open(outs[0], "w", format=COPY.muxer, options=COPY.index_in_front) as target,
    ):
        picture, tracks = picture_stream(source), sound_streams(source)
        if picture is None and not tracks:
            raise BadMedia("There is nothing to play.", "Hand in a master with picture or sound.")
        seen = _Picture(picture, target) if picture is not None else None
        heard = _Sound(tracks, target) if tracks else None
        total = float(source.duration / av.time_base) if source.duration else 0.0
        streams = ([picture] if picture is not None else []) + list(tracks)
        for packet in packets(source, *streams):
            try:
                frames = packet.decode() if packet is not None else []
            except av.FFmpegError:
                frames = []
            if packet is None:
                continue
            for frame in frames:
                if isinstance(frame, VideoFrame) and seen is not None:
                    seen.take(frame)
                elif isinstance(frame, AudioFrame) and heard is not None:
                    heard.take(frame, packet.stream.index)
            elapsed = time.monotonic() - began
            done = (
                (seen.count / float(seen.rate))
                if seen is not None
                else (heard.count / SOUND_RATE if heard is not None else 0)
            )
            share = min(1.0, done / total) if total else 0.0
            progress(
                {
                    "stage": "proxy",
                    "frame": seen.count if seen else 0,
                    "elapsed": elapsed,
                    "share": share,
                    "speed": done / elapsed if elapsed else 0.0,
                }
            )
        if seen is not None:
            seen.finish()
        if heard is not None:
            heard.finish()
    return {
        "frames": seen.count if seen else 0,
        "channels": heard.channels if heard else 0,
        "seconds": time.monotonic() - began,
        "start": float(seen.start) if seen is not None else 0.0,
    }


class _Picture:
    def __init__(self, stream: VideoStream, target: av.container.OutputContainer) -> None:
        stream.thread_type = ThreadType.AUTO
        self.target = target
        self.rate = Fraction(stream.guessed_rate or stream.average_rate or 25)
        self.base = Fraction(stream.time_base or Fraction(1, 90000))
        self.count, self.start = 0, Fraction(0)
        aspect = Fraction(stream.sample_aspect_ratio or 1) or Fraction(1)
        high = stream.codec_context.height or LINES
        height = max(2, min(LINES, high) // 2 * 2)
        self.size = (
            max(
                2,
                round(Fraction(stream.codec_context.width or high, high) * aspect * height / 2) * 2,
            ),
            height,
        )
        made = target.add_stream("libx264", rate=self.rate)
        assert isinstance(made, VideoStream)
        self.made = made
        made.width, made.height = self.size
        made.pix_fmt, made.options = "yuv420p", dict(OPTIONS)

    def take(self, frame: VideoFrame) -> None:
        if self.count == 0:
            self.start = frame.pts * self.base if frame.pts is not None else Fraction(0)
        small = frame.reformat(*self.size, format="yuv420p", interpolation="BILINEAR")
        # One frame of the copy for each of the master: the frame's number is its time.
        small.pts, small.time_base, small.pict_type = self.count, 1 / self.rate, PictureType.NONE
        self.target.mux(self.made.encode(small))
        self.count += 1

    def finish(self) -> None:
        if self.count:
            self.target.mux(self.made.encode(None))


class _Sound:
    """Lays all channels of all tracks, at most eight, side by side in one track."""

    def __init__(self, tracks: list[AudioStream], target: av.container.OutputContainer) -> None:
        self.target, self.count = target, 0
        counts, taken = [int(t.codec_context.channels or 1) for t in tracks], list[AudioStream]()
        for track, count in zip(tracks, counts, strict=True):
            if sum(int(t.codec_context.channels or 1) for t in taken) + count <= MOST_CHANNELS:
                taken.append(track)
        taken = taken or tracks[:1]
        self.channels = min(MOST_CHANNELS, sum(int(t.codec_context.channels or 1) for t in taken))
        layout = LAYOUTS[self.channels]
        relabel = ("pan", f"{layout}|" + "|".join(f"c{n}=c{n}" for n in range(self.channels)))
        self._chain = [
            relabel,
            ("aformat", f"sample_fmts=fltp:sample_rates={SOUND_RATE}:channel_layouts={layout}"),
        ]
        self._taken = {track.index: track for track in taken}
        self._graph: Filtered | None = None
        self._waiting: dict[int, list[AudioFrame]] = {index: [] for index in self._taken}
        self._inputs: dict[int, av.filter.FilterContext] = {}
        made = target.add_stream(BROWSER_SOUND, rate=SOUND_RATE, layout=layout)
        assert isinstance(made, AudioStream)
        made.codec_context.bit_rate = 64_000 * self.channels
        self.made = made

    def take(self, frame: AudioFrame, index: int) -> None:
        if index not in self._taken:
            return
        if self._graph is None:
            # Tracks are laid together once each has given its first frame.
            self._waiting[index].append(frame)
            if all(self._waiting.values()):
                self._begin()
            return
        self._push(index, frame)

    def _begin(self) -> None:
        heard = {index: frames for index, frames in self._waiting.items() if frames}
        if len(heard) == 1:
            ((index, frames),) = heard.items()
            self._graph = sound_graph(frames[0], self._taken[index].time_base, self._chain)
        else:
            graph = av.filter.Graph()
            merge = graph.add("amerge", f"inputs={len(heard)}")
            for number, (index, frames) in enumerate(heard.items()):
                source = sound_source(graph, frames[0], self._taken[index].time_base)
                even = graph.add("aformat", f"sample_fmts=fltp:sample_rates={SOUND_RATE}")
                source.link_to(even)
                even.link_to(merge, 0, number)
                self._inputs[index] = source
            self._graph = linked(graph, merge, self._chain, "abuffersink")
        for index, frames in heard.items():
            for frame in frames:
                self._push(index, frame)

    def _push(self, index: int, frame: AudioFrame | None) -> None:
        assert self._graph is not None
        if index in self._inputs:
            self._inputs[index].push(frame)
            self._write(self._graph.ready())
        else:
            self._write(self._graph.push(frame))

    def _write(self, frames: list[Any]) -> None:
        for frame in frames:
            frame.pts, frame.time_base = self.count, Fraction(1, SOUND_RATE)
            self.count += frame.samples
            self.target.mux(self.made.encode(frame))

    def finish(self) -> None:
        if self._graph is None and any(self._waiting.values()):
            self._begin()
        if self._graph is not None:
            for index in self._inputs or [next(iter(self._taken))]:
                self._push(index, None)
        self.target.mux(self.made.encode(None))
