"""Makes small media files whose truth is known."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.frame import PictureType, VideoFrame

Picture = np.ndarray
Draw = Callable[[float], Picture]


def moving_bar(size: tuple[int, int] = (320, 180), speed: float = 60.0) -> Draw:
    """A bright bar on a textured ground, moving right by `speed` samples a second."""
    width, height = size
    rng = np.random.default_rng(5)
    ground = (
        rng.integers(40, 70, (height // 6 + 1, width // 6 + 1), np.uint8)
        .repeat(6, 0)
        .repeat(6, 1)[:height, :width]
    )

    def draw(time: float) -> Picture:
        frame = np.repeat(ground[..., None], 3, axis=2).copy()
        left = int(speed * time) % (width - width // 6)
        frame[height // 5 : -height // 5, left : left + width // 8] = (220, 160, 60)
        return frame

    return draw


def plain(colour: tuple[int, int, int], size: tuple[int, int] = (320, 180)) -> Draw:
    return lambda time: np.full((size[1], size[0], 3), colour, np.uint8)


def noise(size: tuple[int, int], seed: int = 1) -> Draw:
    rng = np.random.default_rng(seed)
    return lambda time: rng.integers(0, 255, (size[1], size[0], 3), np.uint8)


@dataclass
class Clip:
    """What to make; the defaults give a second of 320x180 at 25 fps in H.264 with a tone."""

    draw: Draw = field(default_factory=moving_bar)
    rate: Fraction = Fraction(25)
    frames: int = 25
    fields: str | None = None  # "upper first" or "lower first": really sampled at field rate
    flagged: str | None = None  # what the stream says; by default the truth
    codec: str = "libx264"
    pixels: str = "yuv420p"
    options: dict[str, str] = field(default_factory=lambda: {"preset": "ultrafast", "crf": "20"})
    aspect: Fraction = Fraction(1)
    matrix: str = "bt709"
    transfer: str = ""  # where it is not the matrix's own
    tones: Sequence[float] | None = (1000.0, 1000.0)  # Hz by channel; None for no sound
    level: float = -23.0  # dBFS peak of each tone
    sound_codec: str = "aac"
    layout: str = "stereo"
    stamps: Sequence[int] | None = None  # time stamps in frames, for uneven clocks
    sound: np.ndarray | None = None
    tracks: Sequence[
        tuple[str, np.ndarray]
    ] = ()  # layout and samples of each, instead of `tones` and `sound`
    rotation: int = 0  # degrees anticlockwise that players are asked to turn the picture
    about: dict[str, str] = field(default_factory=dict)  # what the file says of itself

    def samples(self) -> np.ndarray:
        if self.sound is not None:
            return self.sound
        assert self.tones is not None
        count = int(self.frames / self.rate * 48000)
        time = np.arange(count) / 48000
        gain = 10 ** (self.level / 20)
        return np.stack([gain * np.sin(2 * np.pi * hz * time) for hz in self.tones]).astype(
            np.float32
        )

    def picture(self, number: int) -> Picture:
        time = float(number / self.rate)
        frame = self.draw(time)
        if self.fields:
            later = self.draw(time + float(1 / self.rate / 2))
            start = 1 if self.fields == "upper first" else 0
            frame = frame.copy()
            frame[start::2] = later[start::2]
        return frame

    def write(self, path: Path, fmt: str | None = None) -> Path:
        flagged = self.flagged or self.fields
        with av.open(str(path), "w", format=fmt) as out:
            out.metadata.update(self.about)
            video = out.add_stream(self.codec, rate=self.rate)
            height, width = self.picture(0).shape[:2]
            video.width, video.height, video.pix_fmt = width, height, self.pixels
            video.codec_context.sample_aspect_ratio = self.aspect
            options = dict(self.options) | {
                "color_range": "tv",
                "colorspace": self.matrix,
                "color_primaries": self.matrix.removesuffix("nc"),
                "color_trc": self.transfer or ("bt709" if self.matrix == "bt709" else "smpte170m"),
            }
            if flagged in {"upper first", "lower first"}:
                options["flags"] = "+ildct+ilme"
                if self.codec == "libx264":
                    options["x264-params"] = "tff=1" if flagged == "upper first" else "bff=1"
            video.options = options
            if self.rotation:
                video.set_display_rotation(self.rotation)
            heard = list(self.tracks)
            if not heard and (self.tones is not None or self.sound is not None):
                heard = [(self.layout, self.samples())]
            tracks = [
                (out.add_stream(self.sound_codec, rate=48000, layout=layout), layout, data)
                for layout, data in heard
            ]
            mark = _marker(width, height, self.pixels, self.rate, flagged)
            space = "ITU709" if self.matrix == "bt709" else "ITU601"
            for number in range(self.frames):
                frame = VideoFrame.from_ndarray(self.picture(number), format="rgb24")
                frame = frame.reformat(
                    format=self.pixels, dst_colorspace=space, dst_color_range="MPEG"
                )
                stamp = self.stamps[number] if self.stamps is not None else number
                frame.pts, frame.time_base = stamp, 1 / self.rate
                marked = mark(frame)
                marked.pts, marked.time_base, marked.pict_type = (
                    stamp,
                    1 / self.rate,
                    PictureType.NONE,
                )
                out.mux(video.encode(marked))
            out.mux(video.encode(None))
            longest = max((data.shape[1] for _, _, data in tracks), default=0)
            for start in range(0, longest, 1024):
                for track, layout, data in tracks:
                    part = np.ascontiguousarray(data[:, start : start + 1024])
                    if not part.shape[1]:
                        continue
                    frame = _frame(part, layout)
                    frame.sample_rate, frame.pts, frame.time_base = 48000, start, Fraction(1, 48000)
                    out.mux(track.encode(frame))
            for track, _, _ in tracks:
                out.mux(track.encode(None))
        return path


def _marker(
    width: int, height: int, pixels: str, rate: Fraction, flagged: str | None
) -> Callable[[VideoFrame], VideoFrame]:
    graph = av.filter.Graph()
    source = graph.add(
        "buffer",
        f"video_size={width}x{height}:pix_fmt={pixels}:time_base={rate.denominator}/{rate.numerator}:pixel_aspect=1/1:colorspace=unknown:range=tv",
    )
    mark = graph.add(
        "setfield", {"upper first": "tff", "lower first": "bff"}.get(flagged or "", "prog")
    )
    sink = graph.add("buffersink")
    source.link_to(mark)
    mark.link_to(sink)
    graph.configure()

    def run(frame: VideoFrame) -> VideoFrame:
        graph.push(frame)
        return graph.pull()

    return run


def write_clear(path: Path, pictures: Sequence[np.ndarray]) -> Path:
    """Write R'G'B' pictures with transparency, rows x columns x 4, as a film of 25 a second."""
    rows, columns = pictures[0].shape[:2]
    with av.open(str(path), "w") as container:
        stream = container.add_stream("png", rate=25)
        stream.width, stream.height, stream.pix_fmt = columns, rows, "rgba"
        for number, picture in enumerate(pictures):
            frame = VideoFrame.from_ndarray(picture, format="rgba")
            frame.pts = number
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def luma_frames(path: Path) -> list[np.ndarray]:
    with av.open(str(path)) as container:
        return [_luma(f) for f in container.decode(video=0)]


def _luma(frame: VideoFrame) -> np.ndarray:
    plane = frame.planes[0]
    return (
        np.frombuffer(memoryview(plane), np.uint8)
        .reshape(frame.height, -1)[:, : frame.width]
        .astype(np.int32)
    )


def _frame(part: np.ndarray, layout: str) -> av.AudioFrame:
    """Eight planes are one more than the binding can fill."""
    if len(part) < 8:
        return av.AudioFrame.from_ndarray(part, format="fltp", layout=layout)
    packed = np.ascontiguousarray(part.T.reshape(1, -1))
    return av.AudioFrame.from_ndarray(packed, format="flt", layout=layout)
