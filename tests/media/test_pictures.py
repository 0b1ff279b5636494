"""Pictures for the screen are the very frame that was asked for."""

import io
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from ample_crate.media.pictures import Reader
from ample_crate.media.viewer import Viewer


def numbered(size: tuple[int, int]) -> Callable[[float], np.ndarray]:
    """Frame n at 25 fps carries n in binary as black and white blocks."""

    def draw(time: float) -> np.ndarray:
        number, (width, height) = round(time * 25), size
        frame = np.zeros((height, width, 3), np.uint8)
        for bit in range(8):
            if number >> bit & 1:
                frame[:, bit * width // 8 : (bit + 1) * width // 8] = 255
        return frame

    return draw


def number_in(jpeg: bytes) -> int:
    row = np.asarray(Image.open(io.BytesIO(jpeg)).convert("L"))
    width = row.shape[1]
    return sum(1 << bit for bit in range(8) if row[:, int((bit + 0.5) * width / 8)].mean() > 128)


@pytest.mark.parametrize(
    ("name", "what"),
    [
        ("numbers.mp4", {"options": {"preset": "veryfast", "g": "24", "bf": "3"}}),
        (
            "numbers.mpg",
            {
                "codec": "mpeg2video",
                "sound_codec": "mp2",
                "options": {"b": "4000000", "g": "12", "bf": "2"},
            },
        ),
        (
            "numbers.mov",
            {
                "codec": "prores_ks",
                "pixels": "yuv422p10le",
                "options": {},
                "sound_codec": "pcm_s16le",
            },
        ),
        (
            "numbers.mxf",
            {
                "codec": "mpeg2video",
                "sound_codec": "pcm_s16le",
                "options": {"b": "4000000", "g": "12", "bf": "2"},
            },
        ),
    ],
)
def test_frame_n_is_frame_n(name: str, what: dict[str, object], clip: Callable[..., Path]) -> None:
    path = clip(name, draw=numbered((256, 144)), frames=120, **what)
    viewer = Viewer()
    try:
        for number in (0, 1, 57, 58, 11, 119, 3, 100):
            assert number_in(viewer.picture(path, number, 256)) == number
    finally:
        viewer.close()


def test_pictures_have_their_display_aspect(clip: Callable[..., Path]) -> None:
    path = clip("anamorphic.mp4", draw=numbered((720, 576)), frames=3, aspect=Fraction(64, 45))
    viewer = Viewer()
    made = Image.open(io.BytesIO(viewer.picture(path, 1, 640)))
    assert made.size == (640, 360)
    viewer.close()


def test_beyond_the_end_the_last_frame_is_given_at_once(clip: Callable[..., Path]) -> None:
    path = str(clip("long.mp4", draw=numbered((256, 144)), frames=90))
    reader = Reader(path, True)
    last, opened = reader.frame(89), reader.container
    assert reader.frame(92) is last and reader.place == 89
    # It was not gone through again from the start.
    assert reader.container is opened
    reader.close()
