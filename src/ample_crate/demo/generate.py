"""Makes the demo's masters: real fields, real movement, real surround."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache, partial
from multiprocessing import get_context
from pathlib import Path

import av
import numpy as np
from av.audio.stream import AudioStream
from av.codec.context import ThreadType
from av.container import OutputContainer
from av.video.frame import PictureType, VideoFrame
from av.video.stream import VideoStream

from ..media.encoders.setup import Coder
from . import oddments
from .coding import prores
from .scenes import Picture, Stage, sound

Cut = tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class Master:
    """One master of the demo.

    Attributes:
        name: file name.
        cut: scenes and their lengths in seconds.
        rate: frames a second.
        fields: whether each frame is two fields, upper first.
        encoder, pixels, options: how it is coded.
        sound_codec, layout: its sound.
        gain: by how much its mix is louder than the house's others.
    """

    name: str
    cut: Cut
    rate: int
    fields: bool
    encoder: str
    pixels: str
    options: dict[str, str]
    sound_codec: str
    layout: str
    gain: float = 1.0

    @property
    def seconds(self) -> float:
        """Give the length."""
        return sum(length for _, length in self.cut)


_COLOUR = {
    "color_range": "tv",
    "colorspace": "bt709",
    "color_primaries": "bt709",
    "color_trc": "bt709",
}
MASTERS: tuple[Master, ...] = (
    Master(
        "lichen_hours_ep03_cut.mxf",
        (("heading", 3), ("lantern", 3), ("downpour", 3), ("meadow", 3)),
        25,
        True,
        "mpeg2video",
        "yuv422p",
        {
            "b": "50000000",
            "maxrate": "50000000",
            "bufsize": "17825792",
            "g": "12",
            "bf": "2",
            "flags": "+ildct+ilme",
            "profile": "0",
            "level": "2",
        }
        | _COLOUR,
        "pcm_s24le",
        "stereo",
        gain=1.4,
    ),
    Master(
        "lichen_hours_trailer.mov",
        (("heading", 4), ("meadow", 3), ("downpour", 3)),
        25,
        False,
        "prores",
        "yuv422p10le",
        {"profile": "lt"},
        "pcm_s24le",
        "stereo",
    ),
    Master(
        "lichen_hours_fog_51.mp4",
        (("lantern", 4), ("downpour", 4)),
        25,
        False,
        "libx264",
        "yuv420p",
        {
            "b": "18000000",
            "maxrate": "24000000",
            "bufsize": "24000000",
            "g": "50",
            "preset": "superfast",
            "profile": "high",
        }
        | _COLOUR,
        "aac",
        "5.1",
    ),
    Master(
        "lichen_hours_rain_50p.mp4",
        (("downpour", 4),),
        50,
        False,
        "libx264",
        "yuv420p",
        {
            "b": "24000000",
            "maxrate": "32000000",
            "bufsize": "32000000",
            "g": "50",
            "preset": "superfast",
            "profile": "high",
        }
        | _COLOUR,
        "aac",
        "stereo",
    ),
)


def _pictures(stage: Stage, master: Master) -> Iterator[Picture]:
    for number in range(int(master.seconds * master.rate)):
        time = number / master.rate
        frame = stage.at(time, master.cut)
        if master.fields:
            later = stage.at(time + 0.5 / master.rate, master.cut)
            frame[1::2] = later[1::2]  # the lower lines are a fiftieth of a second later
        yield frame


@lru_cache
def _stage() -> Stage:
    return Stage()


def _coder(container: OutputContainer, master: Master) -> Coder:
    """Open the picture's encoder."""
    if master.encoder == "prores":
        return prores(container, master.options["profile"], (1920, 1080), alpha=False)
    video = container.add_stream(master.encoder, rate=master.rate)
    assert isinstance(video, VideoStream)
    video.width, video.height, video.pix_fmt = 1920, 1080, master.pixels
    video.codec_context.thread_type = ThreadType.AUTO
    video.options = dict(master.options)
    return video


def make(master: Master, folder: Path, stage: Stage) -> None:
    """Make one master; it takes its name when it is whole."""
    out = folder / master.name
    part = folder / f".part-{master.name}"
    with av.open(str(part), "w") as container:
        video = _coder(container, master)
        layout = {"stereo": 2, "5.1": 6}
        track = container.add_stream(master.sound_codec, rate=48000, layout=master.layout)
        assert isinstance(track, AudioStream)
        if master.sound_codec == "aac":
            track.codec_context.bit_rate = 384_000 if master.layout == "5.1" else 256_000
        heard = master.gain * sound(master.seconds, layout[master.layout])
        graph = _marks(master)
        done = 0
        for number, picture in enumerate(_pictures(stage, master)):
            frame = VideoFrame.from_ndarray(picture, format="rgb24")
            # The master's samples are BT.709, as its stream says.
            frame = frame.reformat(
                format=master.pixels,
                src_colorspace="ITU709",
                dst_colorspace="ITU709",
                dst_color_range="MPEG",
            )
            frame.pts, frame.time_base = number, Fraction(1, master.rate)
            for marked in graph(frame):
                marked.pict_type = PictureType.NONE
                container.mux(list(video.encode(marked)))
            until = int((number + 1) * 48000 / master.rate)
            samples = av.AudioFrame.from_ndarray(
                np.ascontiguousarray(heard[:, done:until]), format="fltp", layout=master.layout
            )
            samples.sample_rate, samples.pts, samples.time_base = 48000, done, Fraction(1, 48000)
            container.mux(track.encode(samples))
            done = until
        container.mux(list(video.encode(None)))
        container.mux(track.encode(None))
    os.replace(part, out)


def _marks(master: Master) -> Callable[[VideoFrame], list[VideoFrame]]:
    """Mark frames as fields or whole through the library's own filter."""
    graph = av.filter.Graph()
    source = graph.add(
        "buffer",
        f"video_size=1920x1080:pix_fmt={master.pixels}:time_base=1/{master.rate}:frame_rate={master.rate}/1:pixel_aspect=1/1"
        ":colorspace=bt709:range=tv",
    )
    mark = graph.add("setfield", "tff" if master.fields else "prog")
    sink = graph.add("buffersink")
    source.link_to(mark)
    mark.link_to(sink)
    graph.configure()

    def run(frame: VideoFrame) -> list[VideoFrame]:
        graph.push(frame)
        made = graph.pull()
        assert isinstance(made, VideoFrame)
        return [made]

    return run


def make_all(folder: Path, told: Callable[[str], None]) -> list[Path]:
    """Make every master that is not there yet, as many at once as there are processors."""
    folder.mkdir(parents=True, exist_ok=True)
    names = [*(m.name for m in MASTERS), *oddments.NAMES]
    missing = [name for name in names if not (folder / name).exists()]
    if missing:
        told(f"making {len(missing)} masters")
        with get_context("spawn").Pool() as several:
            for name in several.imap_unordered(partial(_make, folder), missing):
                told(f"made {name}")
    return [folder / m.name for m in MASTERS]


def _make(folder: Path, name: str) -> str:
    """Make one by its name, in a process of its own."""
    master = next((m for m in MASTERS if m.name == name), None)
    if master is not None:
        make(master, folder, _stage())
    else:
        oddments.make(name, folder, _stage)
    return name
