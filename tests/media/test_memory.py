"""What is kept of a film while it is measured: it grows with the film's length, and little."""

import gc
import tracemalloc
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from av.video.frame import VideoFrame

from ample_crate.media.measuring import picture, whole
from ample_crate.media.measuring.grids import grid
from ample_crate.media.measuring.lines import luma
from clips import Clip, moving_bar

# Of a frame and the sound beside it. Objects of their own for each figure took 270.
MOST_BYTES = 180


def kept(path: Path, patch: pytest.MonkeyPatch) -> int:
    """Measure everything of a file, and give the bytes that are held when all of it was seen."""
    held = []
    told = picture.PictureMeter.facts

    def facts(meter: picture.PictureMeter, header: Any) -> Any:
        gc.collect()
        held.append(tracemalloc.get_traced_memory()[0])
        return told(meter, header)

    with patch.context() as here:
        here.setattr(picture.PictureMeter, "facts", facts)
        tracemalloc.start()
        try:
            whole.handle(lambda _: None, str(path), "everything")
        finally:
            tracemalloc.stop()
    return held[0]


def test_little_is_kept_of_a_frame(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    draw = moving_bar((64, 48), 60)
    short, long = (
        Clip(draw=draw, frames=frames).write(tmp_path / f"{frames}.mov") for frames in (75, 325)
    )
    kept(short, monkeypatch)  # what is brought in once is not the film's
    grown = kept(long, monkeypatch) - kept(short, monkeypatch)
    assert 0 < grown / 250 < MOST_BYTES


@pytest.mark.parametrize(("pixels", "bits"), [("gray", 8), ("gray10le", 10), ("gray16le", 16)])
def test_samples_of_any_depth_are_brought_to_one_scale(pixels: str, bits: int) -> None:
    ramp = np.linspace(0, 2**bits - 1, 64).astype(np.uint8 if bits == 8 else np.uint16)
    frame = VideoFrame.from_ndarray(np.tile(ramp, (48, 1)), format=pixels)
    expected = ramp.astype(np.int64) >> (bits - 8)
    assert grid(frame).luma.reshape(48, 64).tolist() == np.tile(expected, (48, 1)).tolist()
    assert luma(frame, 1).tolist() == np.tile(expected, (48, 1)).tolist()
