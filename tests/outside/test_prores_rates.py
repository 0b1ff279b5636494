"""The ceilings of ProRes against what the codec library's encoder aims at by itself, which was
written by others from the same published rates; and what its muxer says of fields.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame
from pymediainfo import MediaInfo

from ample_crate.core import formats
from ample_crate.core.formats.size import ByContent
from ample_crate.core.units.values import Size

LIBRARY = {"xq": "4444xq"}


def encoded(path: Path, profile: str, size: Size, **options: str) -> int:
    """Encode a frame of noise with the encoder's own ceilings, and give their bytes."""
    rng = np.random.default_rng(3)
    pixels = "yuv444p10le" if profile in {"4444", "xq"} else "yuv422p10le"
    with av.open(str(path), "w") as container:
        given = {"profile": LIBRARY.get(profile, profile), **options}
        stream = container.add_stream("prores_ks", rate=Fraction(30000, 1001), options=given)
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        noise = rng.integers(0, 255, (size.height, size.width, 3), np.uint8)
        frame = VideoFrame.from_ndarray(noise, format="rgb24").reformat(format=pixels)
        frame.pts = 0
        packets = [*stream.encode(frame), *stream.encode(None)]
        container.mux(packets)
    return sum(p.size for p in packets)


@pytest.mark.parametrize("size", [Size(720, 486), Size(1920, 1080)], ids=str)
@pytest.mark.parametrize("profile", ["proxy", "lt", "standard", "hq", "4444", "xq"])
def test_ceilings_are_those_the_library_aims_at(profile: str, size: Size, tmp_path: Path) -> None:
    made = formats.PICTURE["prores"].made
    assert made is not None and isinstance(made.size, ByContent)
    expected = made.size.amount(profile, size, False, 1).expected
    # The library has a table of its own, by size of frame, and noise passes it by up to 8 %.
    assert encoded(tmp_path / "a.mov", profile, size) == pytest.approx(expected, rel=0.15)


def test_the_mxf_muxer_still_calls_fields_whole_frames(tmp_path: Path) -> None:
    """Why fields are refused there: when this fails, they need not be any more."""
    path = tmp_path / "a.mxf"
    encoded(path, "hq", Size(720, 576), flags="+ildct", field_order="tb")
    video = next(t for t in MediaInfo.parse(path).tracks if t.track_type == "Video")
    assert video.scan_type == "Progressive"
    assert "prores" in formats.PICTURE and "mxf" in formats.PICTURE["prores"].made.whole_frames_in
