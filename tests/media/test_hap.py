"""HAP that is made here, decoded by the codec library."""

from __future__ import annotations

import io
from fractions import Fraction

import av
import numpy as np
import numpy.typing as npt
import pytest
from av.video.frame import VideoFrame

from ample_crate.core.planning.steps import PictureFormat
from ample_crate.media.encoders import hap

Picture = npt.NDArray[np.uint8]
WIDTH, HEIGHT = 322, 190  # neither is a multiple of a block


def picture(seed: int = 3) -> Picture:
    """Draw smooth colour with an edge, and transparency that rises from left to right."""
    x, y = np.meshgrid(np.linspace(0, 1, WIDTH), np.linspace(0, 1, HEIGHT))
    rgba = np.empty((HEIGHT, WIDTH, 4), np.uint8)
    rgba[..., 0], rgba[..., 1], rgba[..., 2] = 230 * x, 200 * y, 90 + 120 * x * y
    rgba[60:90, 100:200, :3] = (240, 240, 250)
    rgba[..., 3] = 255 * x
    noise = np.random.default_rng(seed).integers(-3, 4, rgba.shape[:2] + (1,))
    rgba[..., :3] = np.clip(rgba[..., :3].astype(int) + noise, 0, 255)
    return rgba


def decoded(profile: str, pictures: list[Picture]) -> list[Picture]:
    f = PictureFormat(width=WIDTH, height=HEIGHT, rate=Fraction(25))
    file = io.BytesIO()
    with av.open(file, "w", format="mov") as container:
        coder = hap.HapSetup(profile).open(container, f, None)
        for one in pictures:
            container.mux(coder.encode(VideoFrame.from_ndarray(one, format="rgba")))
        container.mux(coder.encode(None))
    file.seek(0)
    with av.open(file) as container:
        frames = [frame.to_ndarray(format="rgba") for frame in container.decode(video=0)]
    return [np.asarray(frame, np.uint8) for frame in frames]


def psnr(made: Picture, truth: Picture) -> float:
    error = (made.astype(float) - truth.astype(float)) ** 2
    return float(10 * np.log10(255**2 / error.mean()))


@pytest.mark.parametrize(
    ("profile", "least", "clear"),
    [("hap", 34, False), ("hap alpha", 34, True), ("hap q", 40, False), ("hap q alpha", 40, True)],
)
def test_pictures_come_back(profile: str, least: float, clear: bool) -> None:
    pictures = [picture(seed) for seed in range(3)]
    for made, truth in zip(decoded(profile, pictures), pictures, strict=True):
        assert made.shape == truth.shape
        assert psnr(made[..., :3], truth[..., :3]) > least
        if clear:
            assert np.abs(made[..., 3].astype(int) - truth[..., 3]).max() <= 6
        else:
            assert (made[..., 3] == 255).all()


def test_luma_in_a_channel_of_its_own_is_finer() -> None:
    """The same bytes but for the sixteen a block: that is what the second kind is for."""
    truth = picture()
    coarse, fine = decoded("hap", [truth])[0], decoded("hap q", [truth])[0]
    assert psnr(fine[..., :3], truth[..., :3]) > psnr(coarse[..., :3], truth[..., :3]) + 4


def test_a_frame_is_packed_in_chunks_that_unpack_side_by_side() -> None:
    large = np.tile(picture()[:188, :320], (6, 6, 1))
    frame = hap.coded("hap alpha", large)
    assert frame[3] == hap.CHUNKED | 0x0E
    assert int.from_bytes(frame[:3], "little") == len(frame) - 4
    assert frame[7] == hap.INSTRUCTIONS and frame[11] == hap.PACKED_BY
    chunks = int.from_bytes(frame[8:11], "little")
    assert chunks == hap.CHUNKS
    assert set(frame[12 : 12 + chunks]) <= {hap.PLAIN_CHUNK, hap.SNAPPY_CHUNK}


def test_what_does_not_shrink_stays_as_it_is() -> None:
    blocks = np.random.default_rng(1).integers(0, 256, 1 << 17, np.uint8).tobytes()
    made = hap.packed(0x0B, blocks)
    assert made[3] == hap.PLAIN | 0x0B and made[4:] == blocks


def test_long_sections_say_their_length_in_four_bytes() -> None:
    made = hap.section(0xAB, bytes(hap.LONG))
    assert made[:3] == b"\0\0\0" and made[3] == 0xAB
    assert int.from_bytes(made[4:8], "little") == hap.LONG == len(made) - 8


def test_a_frame_that_is_held_is_coded_once() -> None:
    f = PictureFormat(width=WIDTH, height=HEIGHT, rate=Fraction(25))
    file = io.BytesIO()
    with av.open(file, "w", format="mov") as container:
        coder = hap.HapSetup("hap").open(container, f, None)
        held = VideoFrame.from_ndarray(picture(), format="rgba")
        for _ in range(40):
            container.mux(coder.encode(held))
        container.mux(coder.encode(None))
    file.seek(0)
    with av.open(file) as container:
        packets = [bytes(p) for p in container.demux(video=0) if p.size]
    assert len(packets) == 40 and len(set(packets)) == 1
