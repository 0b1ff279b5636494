"""R'G'B' to Y'CbCr and back, held against the equations of ITU-R BT.709-6 (items 3.2 to 3.4, 4.6)
and BT.601-7 (2.5.1 to 2.5.3).
"""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame

from ample_crate.core.formats.pixels import Pixels
from ample_crate.core.units.values import Size
from conformance import Case, made_from, spec_for

# Luma's shares of red and blue.
SHARES = {"BT.709": (0.2126, 0.0722), "BT.601": (0.299, 0.114)}
SIZES = {"BT.709": Size(1280, 720), "BT.601": Size(720, 576)}
COLOURS = [(220, 30, 40), (20, 200, 90), (10, 40, 250), (128, 128, 128)]


def equations(colour: tuple[int, ...], matrix: str) -> list[float]:
    """Give the 10-bit code values of a colour in limited range."""
    red, blue = SHARES[matrix]
    r, g, b = (value / 255 for value in colour)
    luma = red * r + (1 - red - blue) * g + blue * b
    chroma = [(b - luma) / (2 - 2 * blue), (r - luma) / (2 - 2 * red)]
    return [64 + 876 * luma, *(512 + 896 * c for c in chroma)]


def drawn(colour: tuple[int, ...], size: Size, path: Path) -> Path:
    with av.open(str(path), "w") as container:
        stream = container.add_stream("png", rate=25)
        stream.width, stream.height, stream.pix_fmt = *size, "rgb24"
        picture = np.full((size.height, size.width, 3), colour, np.uint8)
        for number in range(2):
            frame = VideoFrame.from_ndarray(picture, format="rgb24")
            frame.pts = number
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def first(path: Path) -> VideoFrame:
    with av.open(str(path)) as container:
        return next(container.decode(video=0))


@pytest.mark.parametrize("colour", COLOURS, ids=str)
@pytest.mark.parametrize("matrix", SHARES)
def test_code_values_are_those_of_the_equations(
    matrix: str, colour: tuple[int, ...], tmp_path: Path
) -> None:
    size = SIZES[matrix]
    master = drawn(colour, size, tmp_path / "master.mov")
    case = Case("prores", "4444", Pixels("4:4:4", 10), "mov", size=size)
    _, _, file, measured = made_from(master, spec_for(case, **{"picture.matrix": matrix}), tmp_path)
    assert measured.value("picture.range") == "limited"
    frame = first(file)
    values = [
        np.frombuffer(bytes(plane), np.uint16).reshape(size.height, -1)[size.height // 2, 100]
        for plane in frame.planes[:3]
    ]
    # The decoder gives 12 bit.
    made = np.array(values) / (4 if frame.format.components[0].bits == 12 else 1)
    assert np.abs(made - equations(colour, matrix)).max() <= 2


def drawn_deep(colour: tuple[int, ...], path: Path) -> Path:
    """Draw R'G'B' of 16 bit."""
    size = SIZES["BT.709"]
    with av.open(str(path), "w") as container:
        stream = container.add_stream("png", rate=25)
        stream.width, stream.height, stream.pix_fmt = *size, "rgb48be"
        picture = np.full((size.height, size.width, 3), colour, np.uint16)
        for number in range(2):
            frame = VideoFrame.from_ndarray(picture, format="rgb48le").reformat(format="rgb48be")
            frame.pts = number
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def middle(path: Path) -> np.ndarray:
    """Give a sample of each of a picture's three planes, in their own order, as 0 to 1."""
    frame = first(path)
    packed = len(frame.planes) == 1
    bits = frame.format.components[0].bits
    if packed:
        values = frame.to_ndarray()[100, 100, :3].astype(float)
        return values / (2**bits - 1)
    rows = [np.frombuffer(bytes(p), np.uint16).reshape(frame.height, -1) for p in frame.planes]
    return np.array([row[100, 100] for row in rows[:3]]) / (2**bits - 1)


DEEP = [(65535, 65535, 65535), (56540, 7710, 10280), (32896, 32896, 32896)]


@pytest.mark.parametrize("colour", DEEP, ids=str)
def test_deep_rgb_becomes_what_the_equations_say(colour: tuple[int, ...], tmp_path: Path) -> None:
    master = drawn_deep(colour, tmp_path / "master.mov")
    case = Case("prores", "4444", Pixels("4:4:4", 10), "mov", size=SIZES["BT.709"])
    _, _, file, _ = made_from(master, spec_for(case), tmp_path)
    wanted = equations(tuple(value / 257 for value in colour), "BT.709")
    assert np.abs(middle(file) * 1023 - wanted).max() <= 2


@pytest.mark.parametrize("colour", COLOURS, ids=str)
@pytest.mark.parametrize(("codec", "depth"), [("png", 16), ("tiff", 16), ("dpx", 16), ("dpx", 10)])
def test_rgb_of_8_bit_is_whole_with_more(
    codec: str, depth: int, colour: tuple[int, ...], tmp_path: Path
) -> None:
    master = drawn(colour, SIZES["BT.709"], tmp_path / "master.mov")
    case = Case(codec, "", Pixels("RGB", depth), "still image", size=SIZES["BT.709"])
    _, _, file, _ = made_from(master, spec_for(case), tmp_path)
    made = sorted(middle(file) * 255)
    assert np.abs(np.array(made) - sorted(colour)).max() <= 0.3


@pytest.mark.parametrize(("codec", "depth"), [("png", 16), ("dpx", 10)])
@pytest.mark.parametrize("luma", [64, 300, 940])
def test_ycbcr_of_10_bit_is_whole_in_deep_rgb(
    luma: int, codec: str, depth: int, tmp_path: Path
) -> None:
    size = SIZES["BT.709"]
    path = tmp_path / "master.mkv"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv444p10le"
        frame = VideoFrame(*size, "yuv444p10le")
        for plane, value in zip(frame.planes, (luma, 512, 512), strict=True):
            plane.update(np.full(plane.buffer_size // 2, value, np.uint16).tobytes())
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    case = Case(codec, "", Pixels("RGB", depth), "still image", size=size)
    _, _, file, _ = made_from(path, spec_for(case), tmp_path)
    assert np.abs(middle(file) * 876 - (luma - 64)).max() <= 1
