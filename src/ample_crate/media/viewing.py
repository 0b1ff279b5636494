"""A copy of a finished file and of what went into its encoder, one picture above the other and both
sounds in one track, so that neither can run away from the other when they are played.

Runs inside the child process.
"""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterator, Sequence
from contextlib import ExitStack, closing
from fractions import Fraction
from typing import Any, NamedTuple

import av
import numpy as np
import numpy.typing as npt
from av.audio.frame import AudioFrame
from av.audio.resampler import AudioResampler
from av.container import InputContainer, OutputContainer
from av.packet import Packet
from av.video.frame import PictureType, VideoFrame
from av.video.stream import VideoStream

from ..core.planning.plan import Plan
from ..core.planning.steps import PictureFormat
from ..core.planning.streams import MadeSound
from ..core.units import loudspeakers
from ..core.units.loudspeakers import USUAL
from .feeds import Report, untold
from .graphs import samples_of
from .hearing import heard_of
from .levelling import levels_of
from .levels import Levels
from .listening import COPY, RATE, Pairs
from .quality import Pair, Teller
from .read import begins, open_media, packets, picture_stream, sound_streams
from .sound_lowering import SoundTaken
from .sources import Source

Samples = npt.NDArray[np.float32]
LINES = 480  # of either picture
# Short GOPs, so that a browser finds any place at once; finer than a proxy that is only played.
OPTIONS = {"preset": "veryfast", "crf": "19", "g": "12", "bf": "0", "profile": "high"}
FULL = 2  # the codec library's number for full range


def handle(
    progress: Callable[[dict[str, Any]], None],
    path: str,
    inputs: Sequence[str],
    plan: dict[str, Any],
    outs: Sequence[str],
) -> dict[str, Any]:
    """Make the copy.

    Args:
        progress: told of each sign of life.
        path: the finished file.
        inputs: paths of the plan's inputs.
        plan: that it was made by, as JSON.
        outs: path of the copy, an MP4: what the route gives above, the file below.

    Returns:
        {frames, first, width, height, sound, sides}: the first is a frame of the file; size is of
        either picture; `sides` says whether the two sounds are not the same.

    Raises:
        BadMedia, Refused: as `quality.handle`.
    """
    known = Plan.model_validate(plan)
    picture = known.picture
    assert picture is not None
    rate = picture.format.rate
    tell = Teller(progress, known.frames, rate)
    pair = Pair(path, inputs, known, picture)
    shift, _ = pair.shift(tell)
    with ExitStack() as opened:
        target = opened.enter_context(
            av.open(outs[0], "w", format=COPY.muxer, options=COPY.index_in_front)
        )
        seen = _Pictures(target, picture.format)
        file = opened.enter_context(closing(open_media(path)))
        asked = _Asked(known, inputs, shift, lambda reached: tell("listen", 0))
        heard = _heard(opened, target, file, asked)
        with pair.both(shift) as both:
            for wanted, made in both:
                seen.take(wanted, made)
                if heard is not None:
                    heard.until(seen.count / rate)
                tell("view", seen.count)
        seen.finish()
        if heard is not None:
            heard.pairs.finish()
    width, height = seen.size
    return {
        "frames": seen.count,
        "first": max(0, shift),
        "width": width,
        "height": height,
        "sound": heard is not None,
        "sides": heard is not None and heard.sides,
    }


class _Pictures:
    """Writes one picture above the other."""

    def __init__(self, target: OutputContainer, f: PictureFormat) -> None:
        aspect = Fraction(f.width, f.height) * f.pixel_aspect
        # Planes of half the size have whole lines too.
        height = max(4, min(LINES, f.height) // 4 * 4)
        self.size = max(4, round(aspect * height / 4) * 4), height
        self.count, self._rate = 0, f.rate
        stream = target.add_stream("libx264", rate=f.rate)
        assert isinstance(stream, VideoStream)
        stream.width, stream.height = self.size[0], 2 * height
        stream.pix_fmt, stream.options = "yuv420p", dict(OPTIONS)
        if f.full_range:
            stream.codec_context.color_range = FULL
        self._target, self._stream, self._full = target, stream, f.full_range

    def take(self, upper: VideoFrame, lower: VideoFrame) -> None:
        """Write a pair."""
        planes = [self._planes(frame) for frame in (upper, lower)]
        stacked = np.concatenate([plane for part in zip(*planes, strict=True) for plane in part])
        frame = VideoFrame.from_ndarray(stacked, format="yuv420p")
        frame.pts, frame.time_base = self.count, 1 / self._rate
        frame.pict_type = PictureType.NONE
        self._target.mux(self._stream.encode(frame))
        self.count += 1

    def _planes(self, frame: VideoFrame) -> tuple[npt.NDArray[Any], ...]:
        """Give luma and the colour differences of a frame made small, each as lines of luma's
        length.
        """
        width, height = self.size
        # Not all files say which range they use: code values are taken as they are.
        whole = self._full or not frame.format.is_rgb
        small = frame.reformat(
            width,
            height,
            format="yuv420p",
            interpolation="AREA",
            src_color_range=None if frame.format.is_rgb else "JPEG",
            dst_color_range="JPEG" if whole else "MPEG",
        )
        made = small.to_ndarray()
        return made[:height], made[height : height * 5 // 4], made[height * 5 // 4 :]

    def finish(self) -> None:
        """Write the rest."""
        self._target.mux(self._stream.encode(None))


class _Sounds:
    """Writes both sounds beside each other, as far as the pictures are."""

    def __init__(
        self,
        pairs: Pairs,
        sides: bool,
        before: tuple[int, Iterator[Samples]],
        after: tuple[int, Iterator[Samples]],
    ) -> None:
        self.pairs, self.sides = pairs, sides
        self._both = [_Waiting(*one) for one in (before, after)]

    def until(self, seconds: Fraction) -> None:
        """Write what goes with the pictures until then."""
        missing = int((seconds - self.pairs.seconds) * RATE)
        if missing > 0:
            self.pairs.write(*(one.given(missing) for one in self._both))


class _Waiting:
    """Gives as many samples as are asked for; after their end silence."""

    def __init__(self, channels: int, blocks: Iterator[Samples]) -> None:
        self._channels, self._blocks = channels, blocks
        self._left = np.zeros((channels, 0), np.float32)

    def given(self, samples: int) -> Samples:
        """Give the next ones of each channel."""
        parts, have = [self._left], self._left.shape[1]
        while have < samples:
            block = next(self._blocks, None)
            if block is None:
                block = np.zeros((self._channels, samples - have), np.float32)
            parts.append(block)
            have += block.shape[1]
        whole = np.concatenate(parts, axis=1)
        self._left = whole[:, samples:]
        return whole[:, :samples]


class _Asked(NamedTuple):
    """What is heard: of a plan and its inputs, where the file begins so many frames later; what is
    told while the master is listened to.
    """

    plan: Plan
    inputs: Sequence[str]
    shift: int
    report: Report


def _heard(
    opened: ExitStack, target: OutputContainer, file: InputContainer, asked: _Asked
) -> _Sounds | None:
    """Prepare the sounds; none where the file has none."""
    plan, shift = asked.plan, asked.shift
    tracks, shown = sound_streams(file), plan.picture
    if not tracks or shown is None:
        return None
    frame, layout = 1 / shown.format.rate, tracks[0].layout
    speakers = _speakers(layout.name, layout.nb_channels)

    def film() -> tuple[int, Iterator[Samples]]:
        blocks = opened.enter_context(closing(_film(file.name)))
        return len(speakers), _moved(blocks, len(speakers), -max(0, shift) * frame)

    made = next(iter(heard_of(plan)), None)
    if made is None:
        # What is copied is the same on either side.
        return _Sounds(Pairs(target, RATE, speakers, speakers), False, film(), film())
    number, stream = made
    known = _speakers(stream.format.layout, stream.format.channels)
    route = opened.enter_context(closing(_route(asked, number, stream)))
    begin = plan.around.first - max(0, -shift)
    before = len(known), _moved(route, len(known), begin * frame)
    return _Sounds(Pairs(target, RATE, known, speakers), True, before, film())


def _speakers(layout: str, channels: int) -> loudspeakers.Speakers:
    """Say which loudspeakers channels are for; of those that belong to none the first two are
    heard.
    """
    known = loudspeakers.LAYOUTS.get(layout, ())
    return known if len(known) == channels else loudspeakers.LAYOUTS[USUAL[min(2, channels)]]


def _moved(blocks: Iterator[Samples], channels: int, seconds: Fraction) -> Iterator[Samples]:
    """Give the first channels of sound, so much later, or what is after so much of it."""
    samples = round(seconds * RATE)
    if samples > 0:
        yield np.zeros((channels, samples), np.float32)
    missing = max(0, -samples)
    for block in blocks:
        if missing < block.shape[1]:
            yield block[:channels, missing:]
        missing = max(0, missing - block.shape[1])


def _film(path: str) -> Generator[Samples, None, None]:
    """Give the file's own first track from where its picture begins."""
    with closing(open_media(path)) as container:
        picture, track = picture_stream(container), sound_streams(container)[0]
        start = Fraction(0) if picture is None else begins(container, picture)
        even, begun = _even(), False
        for packet in packets(container, track):
            for frame in _decoded(packet):
                for made in even.resample(frame):
                    block = samples_of(made)
                    if not begun and frame.pts is not None and frame.time_base is not None:
                        ahead = round((frame.pts * frame.time_base - start) * RATE)
                        pad = np.zeros((block.shape[0], max(0, ahead)), np.float32)
                        block = np.concatenate([pad, block[:, max(0, -ahead) :]], axis=1)
                    begun = True
                    yield block


def _decoded(packet: Packet[Any] | None) -> list[AudioFrame]:
    try:
        frames: Sequence[object] = [] if packet is None else packet.decode()
    except av.FFmpegError:
        return []
    return [frame for frame in frames if isinstance(frame, AudioFrame)]


def _even() -> AudioResampler:
    return AudioResampler(format="fltp", rate=RATE)


class _Tap:
    """Takes sound until it is asked for."""

    def __init__(self, made: MadeSound) -> None:
        self.takes = SoundTaken("fltp", made.format.layout)
        self.samples, self._even = 0, _even()
        self._ready = list[Samples]()

    def write(self, frame: AudioFrame) -> None:
        """Take the next samples."""
        self.samples += frame.samples
        frame.pts = None
        self._ready += [samples_of(one) for one in self._even.resample(frame)]

    def given(self) -> Iterator[Samples]:
        """Give what is there."""
        ready, self._ready = self._ready, []
        yield from ready


def _route(asked: _Asked, number: int, made: MadeSound) -> Generator[Samples, None, None]:
    """Give what the route makes of a track before it is coded."""
    plan, inputs = asked.plan.alone, asked.inputs
    levels = levels_of(plan, inputs, asked.report, {}).get(number) or Levels()
    with closing(open_media(inputs[made.input])) as container:
        source = Source(container, plan.inputs[made.input], plan.programme)
        tap = _Tap(made)
        source.give_sound(made, tap, untold, levels)
        with closing(source.run()) as reading:
            for _ in reading:
                yield from tap.given()
        yield from tap.given()
