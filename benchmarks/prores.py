"""ProRes as it is made here, held against the library's encoder used plainly.

Run `.venv/bin/python -m benchmarks.prores [FRAMES]`. For each profile, in turn and in one run: this
project's coder, and the library's own control of the rate, told the bytes a macroblock that were
used here. Speed is frames a second of time and of processor, the best of ROUNDS; PSNR and SSIM are
the library's filters', of luma.
"""

# mypy: disable-error-code="union-attr,arg-type"
from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import numpy.typing as npt
from av.codec.context import ThreadType
from av.container import OutputContainer
from av.video.frame import VideoFrame

from ample_crate.core.planning.encoding import PictureByContent
from ample_crate.core.planning.steps import PictureFormat
from ample_crate.demo.scenes import Stage
from ample_crate.media import encoders
from ample_crate.media.encoders.prores import ProresSetup
from ample_crate.media.encoders.setup import Coder, pixels_of

RATE = Fraction(25)
ROUNDS = int(os.environ.get("ROUNDS", "3"))
GRAIN = 6  # code values of 8 bit, its standard deviation, as a camera's in the dark
SCENES = (("lantern", 2.0), ("meadow", 2.0), ("downpour", 60.0))
BLOCKS = 120 * 68  # macroblocks of a frame
Opened = Callable[[OutputContainer], Coder]


def drawn(count: int, f: PictureFormat) -> list[VideoFrame]:
    """Draw scenes with a camera's grain, and transparency where the format has it."""
    stage, rng = Stage(), np.random.default_rng(1)
    made = []
    for number in range(count):
        seen = stage.at(number * 6 / count, SCENES).astype(np.int16)
        seen += rng.normal(0, GRAIN, seen.shape).astype(np.int16)
        samples = np.clip(seen, 0, 255).astype(np.uint8)
        if f.alpha:
            clear = np.broadcast_to(np.linspace(0, 255, f.width, dtype=np.uint8), seen.shape[:2])
            samples = np.dstack([samples, clear])
        frame = VideoFrame.from_ndarray(samples, format="rgba" if f.alpha else "rgb24")
        made.append(frame.reformat(format=pixels_of(f), dst_colorspace="ITU709"))
    return made


def coded(frames: list[VideoFrame], out: Path, opened: Opened) -> tuple[float, float, int]:
    """Code frames into a file: (seconds, seconds of processor, bytes of picture)."""
    with av.open(str(out), "w", format="mov") as container:
        coder, size = opened(container), 0
        began, used = time.monotonic(), time.process_time()
        for number, frame in enumerate([*frames, None]):
            if frame is not None:
                frame.pts, frame.time_base = number, 1 / RATE
            for packet in coder.encode(frame):
                size += packet.size
                container.mux(packet)
        return time.monotonic() - began, time.process_time() - used, size


def likeness(frames: list[VideoFrame], path: Path) -> tuple[float, float]:
    """Compare luma with what was coded: (PSNR in dB of the mean square error, SSIM)."""
    noise, alike = 0.0, 0.0
    graph = av.filter.Graph()
    first = frames[0]
    shape = f"video_size={first.width}x{first.height}:pix_fmt={first.format.name}"
    given = f"{shape}:time_base=1/25:pixel_aspect=1/1"
    one, other = graph.add("buffer", given), graph.add("buffer", given)
    compared, end = graph.add("ssim", ""), graph.add("buffersink")
    one.link_to(compared, 0, 0)
    other.link_to(compared, 0, 1)
    compared.link_to(end)
    graph.configure()
    with av.open(str(path)) as made:
        for number, (before, after) in enumerate(zip(frames, made.decode(video=0), strict=True)):
            kept = after.reformat(format=first.format.name)
            noise += float(np.mean((luma(before) - luma(kept)) ** 2))
            for place, frame in ((one, kept), (other, before)):
                frame.pts, frame.time_base = number, 1 / RATE
                place.push(frame)
            alike += float(end.pull().metadata["lavfi.ssim.Y"])
    return 10 * np.log10(1023**2 / (noise / len(frames))), alike / len(frames)


def luma(frame: VideoFrame) -> npt.NDArray[np.float64]:
    """Give the code values of luma, rows x columns."""
    plane = frame.planes[0]
    whole = np.frombuffer(bytes(plane), np.uint16).reshape(plane.height, -1)
    return whole[:, : plane.width].astype(np.float64)


def plainly(setup: ProresSetup, f: PictureFormat, bits: int) -> Opened:
    """Give what opens the library's encoder over its own threads, told the bits a macroblock."""

    def opened(container: OutputContainer) -> Coder:
        stream = container.add_stream("prores_ks", rate=RATE)
        stream.width, stream.height, stream.pix_fmt = f.width, f.height, pixels_of(f)
        stream.codec_context.thread_type = ThreadType.AUTO
        stream.options = {**setup.setup.options, "bits_per_mb": str(bits)}
        return stream

    return opened


def compare(profile: str, count: int, folder: Path, alpha: bool = False) -> None:
    """Print the figures of one profile, and their ratios."""
    chroma = "4:4:4" if profile in {"4444", "xq"} else "4:2:2"
    f = PictureFormat(width=1920, height=1080, rate=RATE, chroma=chroma, depth=10, alpha=alpha)
    frames = drawn(count, f)
    setup = encoders.PICTURE["prores"](PictureByContent(codec="prores", profile=profile), f)
    assert isinstance(setup, ProresSetup)
    rows = []
    bits = 0
    for name in ("here", "library"):
        opened: Opened = (lambda c: setup.open(c, f, None)) if not bits else plainly(setup, f, bits)
        path = folder / f"{name}.mov"
        turns = [coded(frames, path, opened) for _ in range(ROUNDS)]
        taken, used, size = (min(figures) for figures in zip(*turns, strict=True))
        bits = size * 8 // (BLOCKS * count)
        psnr, ssim = likeness(frames, path)
        rows.append((count / taken, count / used, psnr, size))
        mbps = size * 8 * 25 / count / 1e6
        told = f"{count / taken:.2f} fps, {count / used:.2f} fps of processor, {mbps:.1f} Mb/s"
        print(f"  {name:8} {told}, PSNR {psnr:.2f} dB, SSIM {ssim:.5f}", flush=True)
    ours, theirs = rows
    print(
        f"  ratio    {ours[0] / theirs[0]:.1f} x, {ours[1] / theirs[1]:.1f} x of processor, "
        f"{ours[3] / theirs[3]:.3f} of the bytes, {ours[2] - theirs[2]:+.2f} dB"
    )


def main() -> None:
    """Compare every profile."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 12
    with tempfile.TemporaryDirectory() as folder:
        for profile, alpha in (
            ("proxy", False),
            ("lt", False),
            ("hq", False),
            ("4444", False),
            ("4444", True),
        ):
            print(f"{profile}{' with alpha' if alpha else ''}, {count} frames of 1920x1080")
            compare(profile, count, Path(folder), alpha)


if __name__ == "__main__":
    main()
