"""Carries out a plan: decode, filter, encode, mux. Runs inside the child process."""

from __future__ import annotations

import contextlib
import os
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from math import ceil
from typing import Any

import av
import numpy as np
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.codec.context import ThreadType
from av.container import InputContainer, OutputContainer
from av.video.frame import PictureType, VideoFrame
from av.video.stream import VideoStream

from ..core.errors import BadMedia, Impossible
from ..core.planning.plan import Plan
from ..core.units.loudspeakers import LAYOUTS
from . import encoders, filters, wrappers
from .encoders.setup import PIXELS
from .read import open_media, packets, picture_stream, sound_streams

Progress = Callable[[dict[str, Any]], None]
SEEK_BEFORE = Fraction(4)  # seconds before a range where decoding begins


def answer(progress: Progress, path: str, out: str, plan: dict[str, Any]) -> dict[str, Any]:
    """Encode `path` to `out` as the plan says: {frames, seconds}.

    `out` is a name beside the final one; the parent gives the final name when the file is whole.
    """
    made = Plan.model_validate(plan)
    began = time.monotonic()
    expected = int(made.seconds * made.picture.rate)
    passes = made.picture.passes
    folder = tempfile.mkdtemp(prefix=".passes-", dir=os.path.dirname(out))
    try:
        frames = 0
        for number in range(1, passes + 1):
            stats = os.path.join(folder, "stats")

            def report(done: int, number: int = number) -> None:
                elapsed = time.monotonic() - began
                share = (number - 1 + min(1.0, done / max(1, expected))) / passes
                progress(
                    {
                        "stage": "encode",
                        "pass": number,
                        "passes": passes,
                        "frame": done,
                        "frames": expected,
                        "speed": done / float(made.picture.rate) / elapsed * number
                        if elapsed
                        else 0.0,
                        "elapsed": elapsed,
                        "remaining": elapsed / share - elapsed if share > 0.01 else None,
                        "share": share,
                    }
                )

            frames = _pass(path, out, made, number, stats, report)
        return {"frames": frames, "seconds": time.monotonic() - began}
    finally:
        shutil.rmtree(folder, ignore_errors=True)


class _Writer:
    """The file being written: its streams, and counters that give exact time stamps."""

    def __init__(self, out: str, plan: Plan, pass_options: dict[str, str], quiet: bool) -> None:
        library = wrappers.ROWS[plan.wrapper]
        options = library.options | (library.index_in_front if plan.index_in_front else {})
        self.container: OutputContainer = av.open(
            os.devnull if quiet else out,
            "w",
            format="null" if quiet else library.muxer,
            options=options,
        )
        target, setup = plan.picture, encoders.picture(plan.picture)
        merged = setup.options | {k: v for k, v in pass_options.items() if k != "flags"}
        flags = setup.options.get("flags", "") + pass_options.get("flags", "")
        if flags:
            merged["flags"] = flags
        stream = self.container.add_stream(setup.encoder, rate=target.rate)
        assert isinstance(stream, VideoStream)
        stream.width, stream.height = target.width, target.height
        stream.pix_fmt = PIXELS[(target.chroma, target.bit_depth)]
        stream.codec_context.time_base = 1 / target.rate
        stream.codec_context.sample_aspect_ratio = target.pixel_aspect
        stream.codec_context.bit_rate = target.bit_rate
        stream.codec_context.thread_type = (
            ThreadType.AUTO if setup.frame_threads else ThreadType.SLICE
        )
        stream.codec_context.thread_count = 0
        stream.options = dict(merged)
        self.picture, self.rate, self.frames = stream, target.rate, 0
        self.sound: AudioStream | None = None
        self.samples, self.sample_format = 0, ""
        if plan.sound is not None and not quiet:
            made = encoders.sound(plan.sound)
            track = self.container.add_stream(
                made.encoder, rate=plan.sound.sample_rate, layout=plan.sound.layout
            )
            assert isinstance(track, AudioStream)
            if plan.sound.bit_rate:
                track.codec_context.bit_rate = plan.sound.bit_rate
            track.codec_context.format = made.sample_format
            self.sound, self.sample_format = track, made.sample_format

    def add_picture(self, frame: VideoFrame) -> None:
        frame.pts, frame.time_base = self.frames, 1 / self.rate
        frame.pict_type = PictureType.NONE
        self.frames += 1
        self._write(self.picture, frame)

    def add_sound(self, frame: AudioFrame) -> None:
        assert self.sound is not None
        frame.pts, frame.time_base = self.samples, Fraction(1, frame.sample_rate)
        self.samples += frame.samples
        self._write(self.sound, frame)

    def close(self) -> None:
        self._write(self.picture, None)
        if self.sound is not None:
            self._write(self.sound, None)
        self.container.close()

    def _write(self, stream: VideoStream | AudioStream, frame: Any) -> None:
        try:
            self.container.mux(stream.encode(frame))
        except av.ArgumentError as error:
            raise Impossible(
                f"The encoder does not take what the route asks of it: {error.strerror}.",
                "The master is not to blame: change a choice of this route, such as its bit rate, "
                "and run again.",
            ) from error


def _pass(
    path: str, out: str, plan: Plan, number: int, stats: str, report: Callable[[int], None]
) -> int:
    first_of_two = plan.picture.passes == 2 and number == 1
    options: dict[str, str] = {}
    if plan.picture.passes == 2:
        options = {"flags": f"+pass{number}", "stats": stats}
    with open_media(path) as container:
        writer = _Writer(out, plan, options, quiet=first_of_two)
        try:
            _pump(container, writer, plan, report)
            writer.close()
        finally:
            # What is half made must not hide, by failing to end well, why it was not made.
            with contextlib.suppress(av.FFmpegError):
                writer.container.close()
    report(writer.frames)
    return writer.frames


def _pump(
    container: InputContainer, writer: _Writer, plan: Plan, report: Callable[[int], None]
) -> None:
    picture = picture_stream(container)
    if picture is None:
        raise BadMedia("The master has no picture.", "Hand in a master with picture.")
    picture.thread_type = ThreadType.AUTO
    tracks = _tracks(container, plan) if writer.sound is not None else []
    samples = int(plan.seconds * plan.sound.sample_rate) if plan.sound else 0
    passage = _Passage(picture, plan, len(tracks))
    passage.approach(container)
    start = passage.start
    graph: filters.Filtered | None = None
    sound: filters.SoundGraph | None = None
    if plan.sound is not None and tracks:
        sound = filters.SoundGraph(tracks, plan.sound, start, samples, writer.sample_format)
    limit = int(plan.seconds * plan.picture.rate)
    chain: filters.Chain | None = None

    def show(frames: list[Any]) -> None:
        for made in frames:
            # A field pair left over at the end, or a repeat from an uneven clock, does not lengthen
            # the file.
            if writer.frames < limit:
                writer.add_picture(made)
        report(writer.frames)

    for index, frame in _frames(container, picture, tracks):
        if isinstance(frame, VideoFrame):
            if not passage.takes(frame):
                continue
            if graph is None:
                chain = filters.picture_chain(plan, frame.height)
                graph = filters.picture_graph(picture, frame, plan, chain)
            show(graph.push(frame))
        elif sound is not None:
            passage.hear(index, frame)
            for heard in sound.push(index, frame):
                writer.add_sound(heard)
        if passage.over and passage.heard_out:
            break
    if graph is not None:
        show(graph.push(None))
    for heard in sound.finish() if sound is not None else ():
        writer.add_sound(heard)
    if writer.sound is not None and writer.samples == 0:
        for silent in _silence(plan, samples):
            writer.add_sound(silent)


def _tracks(container: InputContainer, plan: Plan) -> list[AudioStream]:
    """Find the master's tracks that the plan takes, in its order."""
    there = sound_streams(container)
    wanted = plan.sound.tracks if plan.sound is not None else []
    missing = [n for n in wanted if n > len(there)]
    if missing:
        raise BadMedia(
            f"The master has no sound track {missing[0]}; it has {len(there)}.",
            "Read the master again, then choose its tracks anew.",
        )
    return [there[n - 1] for n in wanted]


class _Passage:
    """Picks the frames of the master that are delivered: the whole, or a range."""

    def __init__(self, picture: VideoStream, plan: Plan, tracks: int) -> None:
        source = plan.source
        self.tracks = tracks
        self.picture, self.rate, self.first, self.reclock = (
            picture,
            source.rate,
            source.first,
            source.reclock,
        )
        self.base = Fraction(picture.time_base or Fraction(1, 90000))
        self.begin = _start(picture)
        self.start = self.begin + self.first / self.rate
        self.end = self.start + plan.seconds
        # One frame more for what looks ahead (fields, resampling).
        self.most = ceil(plan.seconds * self.rate) + 2
        self.steady = source.steady or self.first > 0 or self.reclock
        self.by_time = source.steady and self.first > 0 and not self.reclock
        self.seen = self.taken = 0
        self.heard: dict[int, Fraction] = {}
        self.over = False  # whether all pictures have come

    def approach(self, container: InputContainer) -> None:
        """Go near a range that begins far inside; a file that lands late is read from its start."""
        if not self.by_time or self.first / self.rate < 2 * SEEK_BEFORE:
            return
        at = int((self.start - SEEK_BEFORE) / self.base)
        container.seek(at, stream=self.picture, backward=True)
        landed = next(container.decode(self.picture), None)
        late = (
            landed is None
            or landed.pts is None
            or landed.pts * self.base > self.start - 2 / self.rate
        )
        container.seek(
            int(self.begin / self.base) if late else at, stream=self.picture, backward=True
        )

    def takes(self, frame: VideoFrame) -> bool:
        """Say whether a frame is delivered, and set its clock where the file's is not to be
        used.
        """
        self.seen += 1
        if self.by_time and frame.pts is not None:
            before = frame.pts * self.base < self.start - Fraction(1, 2) / self.rate
        else:
            before = self.seen <= self.first
        if before or self.over:
            return False
        if self.reclock or frame.pts is None:
            frame.pts = round((self.start + self.taken / self.rate) / self.base)
        self.taken += 1
        # Frames that do not last equally long are not counted: they end when their time does.
        self.over = (
            self.taken >= self.most
            if self.steady
            else frame.pts * self.base >= self.end + 2 / self.rate
        )
        return True

    def hear(self, index: int, frame: AudioFrame) -> None:
        """Note how far the sound of a track has come."""
        if frame.pts is not None:
            self.heard[index] = frame.pts * Fraction(
                frame.time_base or Fraction(1, frame.sample_rate)
            ) + Fraction(frame.samples, frame.sample_rate)

    @property
    def heard_out(self) -> bool:
        """Say whether all sound of every track has come."""
        return len(self.heard) == self.tracks and all(at >= self.end for at in self.heard.values())


def _start(picture: VideoStream) -> Fraction:
    if picture.start_time is None or picture.time_base is None:
        return Fraction(0)
    return Fraction(picture.start_time) * picture.time_base


def _frames(
    container: InputContainer, picture: VideoStream, tracks: list[AudioStream]
) -> Iterator[tuple[int, VideoFrame | AudioFrame]]:
    """Give the frames of the picture and of tracks, each with its stream's index."""
    for packet in packets(container, picture, *tracks):
        try:
            for frame in packet.decode() if packet is not None else ():
                yield packet.stream.index, frame  # type: ignore[union-attr]
        except av.FFmpegError:
            continue  # a damaged packet; what is missing shows when the finished file is measured


def _silence(plan: Plan, samples: int) -> Iterator[AudioFrame]:
    assert plan.sound is not None
    kind = encoders.sound(plan.sound).sample_format
    channels = len(LAYOUTS[plan.sound.layout])
    planar = kind.endswith("p")
    dtype = {"fltp": np.float32, "s16": np.int16, "s32": np.int32}[kind]
    done = 0
    while done < samples:
        count = min(4800, samples - done)
        shape = (channels, count) if planar else (1, channels * count)
        frame = AudioFrame.from_ndarray(
            np.zeros(shape, dtype), format=kind, layout=plan.sound.layout
        )
        frame.sample_rate = plan.sound.sample_rate
        done += count
        yield frame
