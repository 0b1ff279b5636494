"""ProRes that is made here: its bytes, and what it is worth beside the library's own control."""

from __future__ import annotations

import io
from fractions import Fraction

import av
import numpy as np
import numpy.typing as npt
import pytest
from av.video.frame import VideoFrame

from ample_crate.core.planning.encoding import PictureByContent
from ample_crate.core.planning.steps import PictureFormat
from ample_crate.core.units.fields import FieldOrder
from ample_crate.media.encoders import prores
from ample_crate.media.encoders.setup import pixels_of

WIDTH, HEIGHT = 640, 384
BLOCKS = 40 * 24
Samples = npt.NDArray[np.float64]


def format_of(profile: str, alpha: bool = False, fields: FieldOrder | None = None) -> PictureFormat:
    chroma = "4:4:4" if profile in {"4444", "xq"} else "4:2:2"
    return PictureFormat(
        width=WIDTH,
        height=HEIGHT,
        rate=Fraction(25),
        chroma=chroma,
        depth=10,
        alpha=alpha,
        fields=fields,
    )


def frame(f: PictureFormat, seed: int, grain: float) -> VideoFrame:
    """Draw waves of colour that are rougher in the lower half, with grain."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    waves = (np.sin(x / 37 + y / 83), np.sin(x / 13 - y / 29 * (y > HEIGHT / 2)), np.cos(x / 11))
    seen = np.stack([128 + 90 * wave for wave in waves], -1)
    seen += np.random.default_rng(seed).normal(0, grain, seen.shape)
    clear = np.full((HEIGHT, WIDTH, 1), 255.0) if not f.alpha else (x[..., None] * 255 / WIDTH)
    rgba = np.clip(np.concatenate([seen, clear], -1), 0, 255).astype(np.uint8)
    return VideoFrame.from_ndarray(rgba, format="rgba").reformat(format=pixels_of(f))


def setup_of(profile: str, f: PictureFormat) -> prores.ProresSetup:
    return prores.setup(PictureByContent(codec="prores", profile=profile), f)


def coded(profile: str, f: PictureFormat, frames: list[VideoFrame]) -> list[bytes]:
    with av.open(io.BytesIO(), "w", format="mov") as container:
        coder = setup_of(profile, f).open(container, f, None)
        packets = [p for one in [*frames, None] for p in coder.encode(one)]
        assert [packet.pts for packet in packets] == list(range(len(frames)))
        container.mux(packets)
    return [bytes(packet) for packet in packets]


@pytest.mark.parametrize("fields", [None, FieldOrder.UPPER])
@pytest.mark.parametrize("profile", ["proxy", "lt", "standard", "hq", "4444", "xq"])
def test_frames_use_their_published_bytes_and_never_more(
    profile: str, fields: FieldOrder | None
) -> None:
    f = format_of(profile, fields=fields)
    target = setup_of(profile, f).target
    for grain in (8.0, 16.0):
        (made,) = coded(profile, f, [frame(f, 1, grain)])
        # From one quantiser to the next it is up to a fifth.
        assert 0.78 * target < len(made) <= target


def test_a_frame_is_coded_by_itself() -> None:
    """What was before it decides nothing: a film coded in parts is the same, byte by byte."""
    f = format_of("hq")
    frames = [frame(f, seed, grain) for seed, grain in enumerate((2.0, 20.0, 9.0, 30.0, 1.0))]
    whole = coded("hq", f, frames)
    assert len(set(whole)) == len(frames)
    assert coded("hq", f, frames[3:]) == whole[3:]


def test_transparency_costs_colour_nothing() -> None:
    clear, plain = format_of("4444", alpha=True), format_of("4444")
    seen = frame(clear, 5, 12.0)
    (with_alpha,) = coded("4444", clear, [seen])
    (without,) = coded("4444", plain, [seen.reformat(format=pixels_of(plain))])
    slices = HEIGHT // 16 * WIDTH // 128
    # The head of a slice with transparency also tells the bytes of the second chroma.
    assert prores.colour_bytes(with_alpha) == len(without) + 2 * slices
    assert len(with_alpha) > prores.colour_bytes(with_alpha)


def test_what_no_quantiser_makes_small_enough_is_searched_for_by_the_library() -> None:
    f = format_of("proxy")
    noise = np.random.default_rng(2).integers(0, 255, (HEIGHT, WIDTH, 3), np.uint8)
    seen = VideoFrame.from_ndarray(noise, format="rgb24").reformat(format=pixels_of(f))
    target = setup_of("proxy", f).target
    finest = prores.Frames(setup_of("proxy", f).setup, f, target)._code(seen, prores.LADDER[-1])
    assert len(finest) > target  # else this shows nothing
    (made,) = coded("proxy", f, [seen])
    assert len(made) <= target * 9 / 8


def error_of(made: list[bytes], truth: list[VideoFrame], library: av.CodecContext) -> float:
    """Give the mean square error of luma, as the library's decoder shows what was coded."""
    decoder = av.CodecContext.create("prores", "r")
    decoder.extradata = library.extradata
    total = 0.0
    for data, before in zip(made, truth, strict=True):
        (after,) = decoder.decode(av.Packet(data))
        assert isinstance(after, VideoFrame)
        total += float(np.mean((luma(after) - luma(before)) ** 2))
    return total / len(made)


def luma(seen: VideoFrame) -> Samples:
    plane = seen.planes[0]
    return np.frombuffer(plane, np.uint16).reshape(HEIGHT, -1)[:, :WIDTH].astype(float)


@pytest.mark.parametrize("profile", ["proxy", "hq"])
def test_at_equal_bytes_it_is_as_good_as_the_library_by_its_own_search(profile: str) -> None:
    f = format_of(profile)
    frames = [frame(f, seed, 10.0) for seed in range(2)]
    made = coded(profile, f, frames)
    bits = sum(map(len, made)) * 8 // (len(made) * BLOCKS)
    options = setup_of(profile, f).setup.options | {"bits_per_mb": str(bits)}
    library = av.CodecContext.create("prores_ks", "w")
    library.width, library.height, library.pix_fmt = WIDTH, HEIGHT, pixels_of(f)
    library.time_base, library.thread_count, library.options = 1 / f.rate, 1, options
    theirs = [b"".join(map(bytes, library.encode(one))) for one in frames]
    assert sum(map(len, theirs)) >= 0.95 * sum(map(len, made))
    ours = error_of(made, frames, library)
    assert ours <= error_of(theirs, frames, library)
