"""AV1, by SVT-AV1."""

from __future__ import annotations

from ...core.planning.encoding import RatedPicture
from ...core.planning.steps import PictureFormat
from .setup import PictureSetup, tagged


def setup(e: RatedPicture, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options: it keeps to a rate on average, without a ceiling."""
    options = tagged(f) | {
        "b": str(e.bit_rate),
        "g": str(e.gop),
        "preset": "8",
        "svtav1-params": "rc=1",
    }
    return PictureSetup("libsvtav1", options, frame_threads=True, bit_rate=e.bit_rate)


PICTURE = {"av1": setup}
