"""PSNR, SSIM and XPSNR held against their published formulas, worked in numpy from the samples."""

from collections.abc import Sequence
from fractions import Fraction
from math import log10, sqrt
from pathlib import Path

import av
import av.filter
import numpy as np
import numpy.typing as npt
import pytest

from ample_crate.core.planning.plan import File, Input, Plan
from ample_crate.core.planning.steps import PictureFormat
from ample_crate.core.planning.streams import CopiedPicture
from ample_crate.core.quality import Likeness
from ample_crate.media import ops
from ample_crate.media.measuring.likeness import LikenessMeter

Plane = npt.NDArray[np.int64]
RATE = Fraction(25)


def film(path: Path, lumas: Sequence[Plane], depth: int, rate: Fraction = RATE) -> Path:
    """Write luma over even grey without loss."""
    rows, columns = lumas[0].shape
    pixels = "yuv420p" if depth == 8 else f"yuv420p{depth}le"
    kind = np.uint8 if depth == 8 else np.uint16
    grey = np.full((rows // 2, columns), 1 << (depth - 1))
    with av.open(str(path), "w") as container:
        stream = container.add_stream("ffv1", rate=rate)
        stream.width, stream.height, stream.pix_fmt = columns, rows, pixels
        for number, luma in enumerate(lumas):
            samples = np.concatenate([luma, grey]).astype(kind)
            frame = av.VideoFrame.from_ndarray(samples, format=pixels)
            frame.pts, frame.time_base = number, 1 / rate
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def compared(master: Path, file: Path, f: PictureFormat, frames: int) -> Likeness:
    """Hold a file against a master that goes over as it is."""
    picture = CopiedPicture(codec="ffv1", format=f, gop=1, reordered=False, bytes=(0, 0, 0))
    plan = Plan(
        inputs=(Input(rate=f.rate, clock="even"),),
        streams=(picture,),
        files=(File(name=file.name, wrapper="matroska", streams=(0,)),),
        seconds=frames / f.rate,
    )
    return ops.quality(file, [master], plan)


def drawn(size: tuple[int, int], frames: int, depth: int) -> tuple[list[Plane], list[Plane]]:
    """Draw a moving picture, rough on one side and smooth on the other, and the same with damage
    that grows.
    """
    columns, rows = size
    rng = np.random.default_rng(7)
    white = (1 << depth) - 1
    y, x = np.mgrid[0:rows, 0:columns]
    rough = rng.integers(0, white // 3, (rows, columns)) * (x < columns // 2)
    whole, damaged = [], []
    for number in range(frames):
        ground = white // 3 + (white // 4) * np.sin((x + 3 * number) / 40) * np.cos(y / 25)
        luma = np.clip(ground + np.roll(rough, 2 * number, 1), 0, white).astype(np.int64)
        error = rng.integers(-number - 1, number + 2, (rows, columns)) * (white // 255)
        whole.append(luma)
        damaged.append(np.clip(luma + error, 0, white))
    return whole, damaged


def psnr(one: Plane, other: Plane, depth: int) -> float:
    return 10 * log10(((1 << depth) - 1) ** 2 / float(np.mean((one - other) ** 2)))


def ssim(one: Plane, other: Plane, depth: int) -> float:
    """Give the mean over windows of 8 x 8 samples, four apart.

    Wang et al., "Image Quality Assessment: From Error Visibility to Structural Similarity", IEEE
    Transactions on Image Processing 13 (4), 2004, equation 13, with K1 = 0.01 and K2 = 0.03.
    """
    full = (1 << depth) - 1
    first, second = (0.01 * full) ** 2, (0.03 * full) ** 2
    views = (np.lib.stride_tricks.sliding_window_view(p, (8, 8))[::4, ::4] for p in (one, other))
    x, y = (view.reshape(*view.shape[:2], 64).astype(float) for view in views)
    mx, my = x.mean(2), y.mean(2)
    vx, vy = x.var(2, ddof=1), y.var(2, ddof=1)
    both = ((x - mx[..., None]) * (y - my[..., None])).sum(2) / 63
    above = (2 * mx * my + first) * (2 * both + second)
    below = (mx**2 + my**2 + first) * (vx + vy + second)
    return float((above / below).mean())


def xpsnr(
    now: Plane, before: Sequence[Plane], other: Plane, depth: int, rate: Fraction = RATE
) -> float:
    """Give the ratio with each block's error weighted by how little goes on there.

    Helmrich et al., "XPSNR: A Low-Complexity Extension of the Perceptually Weighted Peak
    Signal-to-Noise Ratio for High-Resolution Video Quality Assessment", IEEE ICASSP 2020: blocks
    whose size follows the picture's, a spatial high-pass of 3 x 3, a temporal one of two frames (of
    three above 32 frames a second) that counts twice, and the least activity. As far as pictures of
    more than 640 x 480 and not more than 2048 x 1152 go. The constants are from memory.

    Args:
        now, other: a frame and the damaged one.
        before: the frames before it, the nearest first.
        depth: bits.
        rate: frames a second.
    """
    rows, columns = now.shape
    share = rows * columns / (3840 * 2160)
    side = 4 * int(32 * sqrt(share) + 0.5)
    usual = sqrt(16 * (1 << (2 * depth - 9)) / sqrt(share))
    edges = np.zeros_like(now)
    middle = sum(
        now[1 - dy : rows - 1 - dy, 1 - dx : columns - 1 - dx] * (2 - abs(dy)) * (2 - abs(dx))
        for dy in (-1, 0, 1)
        for dx in (-1, 0, 1)
    )
    edges[1:-1, 1:-1] = np.abs(16 * now[1:-1, 1:-1] - middle)
    none = np.zeros_like(now)
    one, two = [*before, none, none][:2]
    moved = np.abs(now - one) if rate < 32 else np.abs(now - 2 * one + two)
    total = 0.0
    for y in range(0, rows, side):
        for x in range(0, columns, side):
            block = np.s_[y : y + side, x : x + side]
            # Of the outermost samples there is no high-pass, nor are they counted.
            inner = edges[
                max(y, 1) : min(y + side, rows - 1), max(x, 1) : min(x + side, columns - 1)
            ]
            active = float(inner.mean()) + 2 * float(moved[block].mean())
            active = max(active, float(1 << (depth - 6)))
            total += float(((now[block] - other[block]) ** 2).sum()) / active
    full = (1 << depth) - 1
    return 10 * log10(rows * columns * full**2 / (total * usual))


def cut(luma: Plane, width: int, pixels: str, depth: int) -> av.VideoFrame:
    """Make a frame whose lines lie further apart than they are long, as decoders and scalers do."""
    rows, columns = luma.shape
    samples = np.full((rows * 3 // 2, columns), 1 << (depth - 1))
    samples[:rows] = luma
    frame = av.VideoFrame.from_ndarray(
        samples.astype(np.uint8 if depth == 8 else np.uint16), format=pixels
    )
    graph = av.filter.Graph()
    size = f"video_size={columns}x{rows}:pix_fmt={pixels}:time_base=1/25:frame_rate=25/1"
    head = graph.add("buffer", f"{size}:pixel_aspect=1/1")
    crop, copied, end = graph.add("crop", f"{width}:{rows}:0:0"), graph.add("copy"), "buffersink"
    head.link_to(crop)
    crop.link_to(copied)
    copied.link_to(graph.add(end))
    graph.configure()
    frame.pts, frame.time_base = 0, 1 / RATE
    graph.push(frame)
    return graph.pull()


@pytest.mark.parametrize("width", [720, 1022])
@pytest.mark.parametrize(("pixels", "depth"), [("yuv420p", 8), ("yuv420p10le", 10)])
def test_however_lines_lie_in_memory(width: int, pixels: str, depth: int) -> None:
    whole, damaged = drawn((1040, 576), 2, depth)
    meter = LikenessMeter(RATE)
    for one, other in zip(whole, damaged, strict=True):
        meter.take(cut(one, width, pixels, depth), cut(other, width, pixels, depth))
    first, second = (luma[:, :width] for luma in (whole[0], damaged[0]))
    # Of more than 8 bit XPSNR leaves out the columns beyond a multiple of 8.
    seen = width if depth == 8 else width // 8 * 8
    weighted = xpsnr(first[:, :seen], [], second[:, :seen], depth)
    assert meter.curves()["xpsnr"][0] == pytest.approx(weighted, abs=1e-3)
    assert meter.curves()["psnr"][0] == pytest.approx(psnr(first, second, depth), abs=1e-4)


@pytest.mark.parametrize(("depth", "rate"), [(8, Fraction(25)), (10, Fraction(50))])
def test_every_frame_is_measured_as_the_formulas_say(
    tmp_path: Path, depth: int, rate: Fraction
) -> None:
    whole, damaged = drawn((1280, 720), 6, depth)
    master = film(tmp_path / "whole.mkv", whole, depth, rate)
    file = film(tmp_path / "damaged.mkv", damaged, depth, rate)
    f = PictureFormat(width=1280, height=720, rate=rate, chroma="4:2:0", depth=depth)
    found = compared(master, file, f, 6)
    assert found.frames == 6 and found.identical == 0 and found.shift == 0
    for number, (one, other) in enumerate(zip(whole, damaged, strict=True)):
        before = whole[:number][::-1]
        at = found.at(number)
        assert at["psnr"] == pytest.approx(psnr(one, other, depth), abs=1e-4)
        assert at["ssim"] == pytest.approx(ssim(one, other, depth), abs=1e-5)
        assert at["xpsnr"] == pytest.approx(xpsnr(one, before, other, depth, rate), abs=1e-3)
        assert at["colour"] == 100
