"""The demo's other masters: a loop with transparency, a title still, a sound mix, a film scan with
a gap, a doubtful tape.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.audio.stream import AudioStream
from av.video.frame import VideoFrame
from av.video.stream import VideoStream
from PIL import Image

from ..core.formats.stills import TRANSFER_AT
from .coding import prores
from .scenes import Picture, Stage, sound

LOOP, STILL, MIX, SCAN, TAPE = (
    "lichen_hours_fog_loop.mov",
    "lichen_hours_title.png",
    "lichen_hours_ep03_mix_51.wav",
    "lichen_hours_scan",
    "lichen_hours_tape_transfer.mov",
)
NAMES = (TAPE, LOOP, MIX, SCAN, STILL)
SCAN_SIZE, SCAN_FRAMES, SCAN_FIRST, SCAN_LOST = (1024, 576), 36, 86400, (86414, 86415)
TAPE_FRAMES = 200
BLACK_UNTIL, FROZEN, SILENT = 25, (90, 120), (3.0, 4.6)


@contextmanager
def _whole(out: Path) -> Iterator[Path]:
    """Give a name to write to; the file takes its own when it is whole."""
    part = out.with_name(f".part-{out.name}")
    yield part
    os.replace(part, out)


def loop(out: Path, stage: Stage) -> None:
    """Make drifting fog with its transparency, in ProRes 4444; it joins up after three seconds."""
    count = 75
    with _whole(out) as part, av.open(str(part), "w") as container:
        video = prores(container, "4444", (1280, 720), alpha=True)
        wide = stage.fog.shape[1] // 2
        for number in range(count):
            shift = number * wide // count
            fog = np.asarray(
                Image.fromarray(stage.fog[:, shift : shift + wide]).resize((1280, 720))
            )
            light = fog.astype(np.uint16).sum(axis=2)
            alpha = np.clip((light - 80) * 3 // 2, 0, 255).astype(np.uint8)
            frame = VideoFrame.from_ndarray(
                np.dstack([np.minimum(fog.astype(np.uint16) * 2, 235).astype(np.uint8), alpha]),
                format="rgba",
            )
            frame = frame.reformat(
                format="yuva444p10le", dst_colorspace="ITU709", dst_color_range="MPEG"
            )
            container.mux(list(video.encode(frame)))
        container.mux(list(video.encode(None)))


def still(out: Path, stage: Stage) -> None:
    """Make the title still."""
    frame = stage.lantern(2.0)
    stage._add(frame, stage.title, 260, 420)
    with _whole(out) as part:
        Image.fromarray(frame).save(part, "PNG")


def mix(out: Path) -> None:
    """Make the 5.1 mix, whose LFE was left empty and whose surrounds are one and the same."""
    heard = sound(12.0, 6)
    heard[3], heard[5] = 0, heard[4]
    with _whole(out) as part, av.open(str(part), "w", format="wav") as container:
        track = container.add_stream("pcm_s24le", rate=48000, layout="5.1")
        _sing(container, track, heard, "5.1")


def scan(folder: Path, stage: Stage) -> None:
    """Make a film scan of numbered DPX images, of which two were lost in copying."""
    whole, folder = folder, folder.with_name(f".part-{folder.name}")
    folder.mkdir(exist_ok=True)
    wide, high = SCAN_SIZE
    for number in range(SCAN_FIRST, SCAN_FIRST + SCAN_FRAMES):
        out = folder / f"lichen_roll2_{number:07d}.dpx"
        if number in SCAN_LOST or out.exists():
            continue
        picture = np.asarray(
            Image.fromarray(stage.meadow((number - SCAN_FIRST) / 24)).resize((wide, high))
        )
        with _whole(out) as part:
            _scanned(part, picture)
    os.replace(folder, whole)


def _scanned(out: Path, picture: Picture) -> None:
    """Write one image, and call it logarithmic, as scanners do."""
    high, wide = picture.shape[:2]
    with av.open(str(out), "w", format="image2", options={"update": "1"}) as container:
        video = container.add_stream("dpx", rate=24)
        assert isinstance(video, VideoStream)
        video.width, video.height, video.pix_fmt = wide, high, "gbrp10le"
        frame = VideoFrame.from_ndarray(picture, format="rgb24").reformat(format="gbrp10le")
        frame.pts = 0
        container.mux(video.encode(frame))
        container.mux(video.encode(None))
    head = bytearray(out.read_bytes())
    head[TRANSFER_AT] = 3  # SMPTE ST 268-1, table 5A
    out.write_bytes(bytes(head))


def tape(out: Path, stage: Stage) -> None:
    """Make an SD transfer with what goes wrong on the way: fields lower first marked as upper
    first, black, a hang, a gap in the sound.
    """
    with _whole(out) as part, av.open(str(part), "w", format="mov") as container:
        container.metadata["timecode"] = "10:00:00:00"
        video = container.add_stream("mpeg2video", rate=25)
        assert isinstance(video, VideoStream)
        video.width, video.height, video.pix_fmt = 720, 576, "yuv422p"
        video.codec_context.sample_aspect_ratio = Fraction(64, 45)
        video.options = {
            "b": "30000000",
            "maxrate": "30000000",
            "bufsize": "8000000",
            "g": "1",
            "flags": "+ildct+ilme",
        }
        track = container.add_stream("pcm_s16le", rate=48000, layout="stereo")
        heard = sound(TAPE_FRAMES / 25, 2)
        heard[:, int(SILENT[0] * 48000) : int(SILENT[1] * 48000)] = 0
        mark = _marked_upper(720, 576)
        for number in range(TAPE_FRAMES):
            at = FROZEN[0] if FROZEN[0] <= number <= FROZEN[1] else number
            later, sooner = _small(stage.lantern((at + 0.5) / 25)), _small(stage.lantern(at / 25))
            picture = later.copy()
            picture[1::2] = sooner[1::2]  # the lower lines are the earlier ones
            if number < BLACK_UNTIL:
                picture[:] = 0
            frame = VideoFrame.from_ndarray(picture, format="rgb24")
            frame = mark(
                frame.reformat(format="yuv422p", dst_colorspace="ITU601", dst_color_range="MPEG")
            )
            frame.pts, frame.time_base = number, Fraction(1, 25)
            container.mux(video.encode(frame))
        container.mux(video.encode(None))
        _sing(container, track, heard, "stereo")


def _small(picture: Picture) -> Picture:
    return np.asarray(Image.fromarray(picture).resize((720, 576), Image.Resampling.BILINEAR))


def _marked_upper(width: int, height: int) -> Callable[[VideoFrame], VideoFrame]:
    graph = av.filter.Graph()
    source = graph.add(
        "buffer",
        f"video_size={width}x{height}:pix_fmt=yuv422p:time_base=1/25:pixel_aspect=64/45:colorspace=bt470bg:range=tv",
    )
    mark, sink = graph.add("setfield", "tff"), graph.add("buffersink")
    source.link_to(mark)
    mark.link_to(sink)
    graph.configure()

    def run(frame: VideoFrame) -> VideoFrame:
        frame.pts = 0
        graph.push(frame)
        made = graph.pull()
        assert isinstance(made, VideoFrame)
        return made

    return run


def _sing(
    container: av.container.OutputContainer, track: object, heard: np.ndarray, layout: str
) -> None:
    assert isinstance(track, AudioStream)
    for start in range(0, heard.shape[1], 4800):
        frame = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(heard[:, start : start + 4800]), format="fltp", layout=layout
        )
        frame.sample_rate, frame.pts, frame.time_base = 48000, start, Fraction(1, 48000)
        container.mux(track.encode(frame))
    container.mux(track.encode(None))


def make(name: str, folder: Path, stage: Callable[[], Stage]) -> None:
    """Make an oddment by its name."""
    makers: dict[str, Callable[[Path], None]] = {
        LOOP: lambda p: loop(p, stage()),
        STILL: lambda p: still(p, stage()),
        MIX: mix,
        TAPE: lambda p: tape(p, stage()),
        SCAN: lambda p: scan(p, stage()),
    }
    makers[name](folder / name)
