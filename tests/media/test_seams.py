"""What coding leaves where a picture was smooth: steps between blocks, slopes become flat."""

from __future__ import annotations

from io import BytesIO
from typing import Any

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame

from ample_crate.media.measuring.seams import seams

SIZE = (240, 320)


def grey(picture: np.ndarray, bits: int = 8) -> VideoFrame:
    if bits == 8:
        return VideoFrame.from_ndarray(picture.round().astype(np.uint8), format="gray")
    deep = np.ascontiguousarray((picture * 4).round().astype(np.uint16))
    return VideoFrame.from_ndarray(deep, format="gray10le")


def slope(grain: float = 1.5, seed: int = 4) -> np.ndarray:
    """A gentle slope, with a little grain as all film has."""
    rng = np.random.default_rng(seed)
    ramp = np.linspace(60, 90, SIZE[1])[None, :] + np.linspace(0, 10, SIZE[0])[:, None]
    return ramp + rng.normal(0, grain, SIZE)


def in_blocks(picture: np.ndarray) -> np.ndarray:
    """Every block of 8 by 8 its mean."""
    down, across = SIZE[0] // 8, SIZE[1] // 8
    means = picture.reshape(down, 8, across, 8).mean(axis=(1, 3))
    return means.repeat(8, axis=0).repeat(8, axis=1)


@pytest.mark.parametrize("bits", [8, 10])
def test_what_is_as_it_was_is_whole(bits: int) -> None:
    assert seams(grey(slope(), bits), grey(slope(), bits)) == (1, 1)
    # Grain of its own is no loss; so is a picture that is flat, or was in steps before.
    assert seams(grey(slope(), bits), grey(slope(seed=5), bits)).gradients == 1
    flat = np.full(SIZE, 80.0)
    assert seams(grey(flat, bits), grey(flat, bits)) == (1, 1)
    steps = slope(0).round()
    assert seams(grey(steps, bits), grey(steps, bits)) == (1, 1)


@pytest.mark.parametrize("bits", [8, 10])
def test_blocks_and_bands_are_told_apart(bits: int) -> None:
    before = slope()
    blocks = seams(grey(before, bits), grey(in_blocks(before), bits))
    assert blocks.blocks < 0.2 and blocks.gradients < 0.1
    # In coarser levels it has bands, and their edges lie anywhere.
    bands = seams(grey(before, bits), grey((slope(0) / 6).round() * 6, bits))
    assert bands.blocks > 0.8 and bands.gradients < 0.3
    # Steps at every fifth sample are no blocks.
    raised = before + 8 * (np.arange(SIZE[1]) // 5 % 2)
    assert seams(grey(before, bits), grey(raised, bits)).blocks > 0.9


def test_half_is_twice_the_step() -> None:
    """A step at every border that is as large again as those within: one half, but for what
    counts as none."""
    rng = np.random.default_rng(1)
    before = 100 + rng.integers(0, 2, SIZE) * 8.0
    after = before.copy()
    after[:, :] += np.where(np.arange(SIZE[1]) // 8 % 2, 8.0, 0.0)
    within = np.abs(np.diff(before, axis=1)).mean()
    border = np.abs(np.diff(after, axis=1))[:, 7::8].mean()
    assert seams(grey(before), grey(after)).blocks == pytest.approx(within / border, rel=0.05)


def coded(pictures: list[np.ndarray], **options: str) -> list[np.ndarray]:
    file = BytesIO()
    with av.open(file, "w", format="matroska") as out:
        stream: Any = out.add_stream("mpeg2video", rate=25, options=options)
        stream.height, stream.width = SIZE
        stream.pix_fmt = "yuv420p"
        stream.codec_context.qmin = stream.codec_context.qmax = int(options["qscale"])
        for picture in pictures:
            frame = grey(picture).reformat(
                format="yuv420p", src_color_range="JPEG", dst_color_range="JPEG"
            )
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    file.seek(0)
    with av.open(file) as made:
        return [f.to_ndarray()[: SIZE[0]] for f in made.decode(video=0)]


def test_a_real_encoder_leaves_more_of_it_the_coarser_it_is() -> None:
    before = [slope(seed=n) for n in range(5)]
    found = []
    for quantiser in ("2", "8", "31"):
        after = coded(before, qscale=quantiser)
        found.append(
            np.mean([seams(grey(a), grey(b)) for a, b in zip(before, after, strict=True)], 0)
        )
    blocks, gradients = np.transpose(found)
    assert list(gradients) == sorted(gradients, reverse=True) and gradients[-1] < 0.3
    assert list(blocks) == sorted(blocks, reverse=True) and blocks[-1] < 0.5 < blocks[0]
    assert gradients[0] > 0.8
